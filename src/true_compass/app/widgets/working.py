"""What can last over a second: a bar that tells how far it is, and a way to stop.

The work stays in the window's own thread and tells often how far it is; meanwhile the window paints
and hears the bar, and nothing else can be pressed.
"""

import time
from collections.abc import Callable
from typing import Final, TypeVar

from PyQt6.QtCore import QEventLoop, Qt
from PyQt6.QtWidgets import QApplication, QProgressDialog, QWidget

SOON_MS: Final = 400
EVERY_S: Final = 0.04
T = TypeVar("T")
Tell = Callable[[int, int], bool]


def with_bar(parent: QWidget, title: str, work: Callable[[Tell], T]) -> T:
    """Do some work that tells how many of how many are done, and asks whether to go on.

    What it raises comes out of here. The bar is seen where it lasts.
    """
    bar = QProgressDialog(title, "Stop", 0, 100, parent)
    bar.setObjectName("working")
    bar.setWindowModality(Qt.WindowModality.WindowModal)
    bar.setMinimumDuration(SOON_MS)
    bar.setAutoClose(False)
    bar.setAutoReset(False)
    bar.setValue(0)
    last = time.monotonic()

    def tell(done: int, of: int) -> bool:
        nonlocal last
        now = time.monotonic()
        if now - last >= EVERY_S:
            last = now
            bar.setLabelText(f"{title}: {done:,} of {of:,}")
            bar.setValue(min(round(100 * done / max(of, 1)), 99))
            if bar.isVisible():
                QApplication.processEvents()
            else:
                # Nobody may press anything else while the bar is not there yet.
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        return not bar.wasCanceled()

    try:
        return work(tell)
    finally:
        bar.close()
        bar.deleteLater()
