"""From the session to a few Qt signals."""

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.session.session import Session, SessionState


class Bridge(QObject):
    """Says what changed: engine, what is tried, crank angle, where it is kept, what undo does."""

    engine_changed = pyqtSignal()
    tried = pyqtSignal()
    turned = pyqtSignal()
    saved = pyqtSignal()
    history_changed = pyqtSignal()
    bench_changed = pyqtSignal()
    book_changed = pyqtSignal()
    cam_changed = pyqtSignal()
    ignition_changed = pyqtSignal()
    lesson_changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # The window owns both, and they go together.
        session.subscribe(self._tell)

    def _tell(self, before: SessionState, after: SessionState) -> None:
        if after.rig is not before.rig:
            self.engine_changed.emit()
        elif after.tried is not before.tried:
            self.tried.emit()
        if after.book is not before.book:
            self.book_changed.emit()
        if after.cam is not before.cam:
            self.cam_changed.emit()
        if after.ignition is not before.ignition:
            self.ignition_changed.emit()
        slices = (
            (after.rig, before.rig),
            (after.work, before.work),
            (after.book, before.book),
            (after.cam, before.cam),
            (after.ignition, before.ignition),
        )
        if any(now is not then for now, then in slices):
            self.history_changed.emit()
        if after.lesson is not before.lesson:
            self.lesson_changed.emit()
        if after.bench is not before.bench:
            self.bench_changed.emit()
        kept = (after.source, after.edited, after.locked)
        if kept != (before.source, before.edited, before.locked):
            self.saved.emit()
        if after.shown is not before.shown or after.crank_deg != before.crank_deg:
            self.turned.emit()
