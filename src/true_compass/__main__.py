"""`python -m true_compass`."""

import sys

from true_compass.entry import main

sys.exit(main())
