"""Once on a real X screen: the program starts, answers keys, and closes by itself."""

import shutil
import subprocess
import sys
from pathlib import Path

SCRIPT = """
import sys
from pathlib import Path
from PyQt6.QtCore import Qt, QTimer
from tests.qtest import QTest
from true_compass.app.main import Start, make_application, make_window
from true_compass.session.session import Source

application = make_application()
assert application.platformName() == "xcb", application.platformName()
window = make_window(Start(None, Source(), Path(sys.argv[1])))
window.look.set_still(True)
window.show()
assert QTest.qWaitForWindowExposed(window)
QTest.keyClick(window, Qt.Key.Key_Space)
assert window.session.state.crank_deg == 360.0, window.session.state.crank_deg
QTest.keyClick(window, Qt.Key.Key_F10)
assert window.lists.menu.isVisible()
window.lists.menu.close()
picture = window.screen().grabWindow(window.winId()).toImage()
colours = {picture.pixelColor(x, y).name() for x in range(0, 1200, 40) for y in range(0, 760, 40)}
assert len(colours) > 6, colours
QTimer.singleShot(0, window.close)
application.exec()
print("closed")
"""


def test_a_start_under_a_virtual_screen(tmp_path: Path) -> None:
    xvfb = shutil.which("xvfb-run")
    assert xvfb, "xvfb-run is missing; make test names the package that has it"
    command = [xvfb, "-a", "-s", "-screen 0 1400x900x24"]
    command += ["env", "QT_QPA_PLATFORM=xcb", sys.executable, "-c", SCRIPT, str(tmp_path)]
    done = subprocess.run(command, capture_output=True, text=True, check=False, timeout=120)
    assert done.stdout.endswith("closed\n"), done.stderr
