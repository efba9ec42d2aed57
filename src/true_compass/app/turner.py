"""Turns the crank as a hand would: small steps at once, larger ones as a sweep."""

from typing import Final

from PyQt6.QtCore import QEasingCurve, QObject, QVariantAnimation, pyqtSignal

from true_compass.app.widgets.look import Look
from true_compass.core.angles import degrees_on, wrap_deg
from true_compass.session.session import Session

SLACK_DEG: Final = 30.0
"""How far back is well past: it takes up the slack of cam and distributor drives."""
AT_ONCE_DEG: Final = 5.0
SHORTEST_MS: Final = 120
LONGEST_MS: Final = 420


class Turner(QObject):
    """Every way to turn the crank goes through here, so that they agree about sweeps."""

    turned_back = pyqtSignal()
    """A hand turned the crank against its running direction, after having turned it on."""

    def __init__(self, session: Session, look: Look, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._look = look
        self._goal_deg: float | None = None
        self._from_deg = 0.0
        self._by_deg = 0.0
        self._was_back = False
        self._sweep = QVariantAnimation(self)
        self._sweep.setEasingCurve(QEasingCurve.Type.OutCubic)
        self._sweep.setStartValue(0.0)
        self._sweep.setEndValue(1.0)
        self._sweep.valueChanged.connect(self._sweep_on)
        self._sweep.finished.connect(self.finish)

    def turn_by(self, by_deg: float) -> None:
        """Turn on by some degrees, or back by a negative number."""
        self.finish()
        self._note_direction(by_deg)
        goal_deg = wrap_deg(self._session.state.crank_deg + by_deg)
        if abs(by_deg) <= AT_ONCE_DEG:
            self._session.turn_to(goal_deg)
        else:
            self._start(goal_deg, by_deg)

    def jump_to(self, goal_deg: float) -> None:
        """Go to an angle in the running direction, remembering the way back."""
        self.finish()
        here = self._session.state.crank_deg
        by_deg = degrees_on(goal_deg, here)
        if by_deg == 0:
            return
        self._session.mark_way_back()
        self._was_back = False
        self._start(wrap_deg(goal_deg), by_deg)

    def come_up_to(self, goal_deg: float) -> None:
        """After overshooting: go back well past an angle and come up to it, as slack asks for."""
        self.finish()
        self._session.mark_way_back()
        self._was_back = False
        self._session.turn_to(goal_deg - SLACK_DEG)
        self._start(wrap_deg(goal_deg), SLACK_DEG)

    def jump_back(self) -> None:
        """Go to the angle before the last jump."""
        self.finish()
        back_deg = self._session.state.back_deg
        if back_deg is not None:
            self.jump_to(back_deg)

    def drag_to(self, crank_deg: float, by_deg: float) -> None:
        """Follow a hand that has moved the crank by some degrees to an angle."""
        self.finish()
        self._note_direction(by_deg)
        self._session.turn_to(crank_deg)

    def finish(self) -> None:
        """End a sweep at its goal."""
        goal_deg, self._goal_deg = self._goal_deg, None
        if goal_deg is not None:
            self._sweep.stop()
            self._session.turn_to(goal_deg)

    @property
    def sweeping(self) -> bool:
        """Whether a sweep is under way."""
        return self._goal_deg is not None

    def _start(self, goal_deg: float, by_deg: float) -> None:
        self._goal_deg, self._from_deg, self._by_deg = (
            goal_deg,
            self._session.state.crank_deg,
            by_deg,
        )
        if self._look.still:
            self.finish()
            return
        share = min(abs(by_deg) / 720, 1.0)
        self._sweep.setDuration(round(SHORTEST_MS + share * (LONGEST_MS - SHORTEST_MS)))
        self._sweep.start()

    def _sweep_on(self, share: float) -> None:
        if self._goal_deg is not None:
            self._session.turn_to(self._from_deg + self._by_deg * share)

    def _note_direction(self, by_deg: float) -> None:
        back = by_deg < 0
        if back and not self._was_back:
            self.turned_back.emit()
        if by_deg:
            self._was_back = back
