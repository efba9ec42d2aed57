"""Keeps an edited engine as a draft, shortly after each edit and before another takes its place."""

from typing import Final

from PyQt6.QtCore import QObject, QTimer

from true_compass.session.drafts import Drafts
from true_compass.session.session import Session, SessionState

SETTLED_MS: Final = 400


class DraftKeeper(QObject):
    """Watches the session."""

    def __init__(self, session: Session, drafts: Drafts, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._drafts = drafts
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(SETTLED_MS)
        self._timer.timeout.connect(self.keep)
        session.subscribe(self._on_change)

    def keep(self) -> None:
        """Write the draft now, or remove it when there is nothing unsaved."""
        self._timer.stop()
        self._write(self._session.state)

    def _write(self, state: SessionState) -> None:
        if state.edited:
            self._drafts.keep(state.source, state.engine)
        else:
            self._drafts.drop(state.source)

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        if after.source != before.source:
            if after.engine is before.engine:  # saved elsewhere
                self._drafts.drop(before.source)
            else:
                self._write(before)
        # Not put off by the next edit: whoever types on is kept every time it runs out.
        changed = (after.engine, after.edited) != (before.engine, before.edited)
        if changed and not self._timer.isActive():
            self._timer.start()
