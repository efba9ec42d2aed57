"""Where the packaged program begins."""

import sys

from true_compass.entry import main

sys.exit(main())
