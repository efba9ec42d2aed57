"""Which cylinder the cycle page shows, and its figures, worked out once for each state."""

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.core.state import AS_SET, Rig
from true_compass.core.valves.timing import CylinderCycle


class CycleModel(QObject):
    """The shown cylinder."""

    changed = pyqtSignal()
    """Another cylinder is shown."""

    def __init__(self, context: WatchContext, parent: QObject) -> None:
        super().__init__(parent)
        self._context = context
        self.cylinder = 1
        self._rig: Rig | None = None
        self._cycle: CylinderCycle | None = None
        context.bridge.engine_changed.connect(self._begin_again)

    @property
    def cycle(self) -> CylinderCycle:
        """The cycle of the shown cylinder, as tried and as set."""
        rig = self._context.session.state.shown
        held = self._cycle
        if held is None or self._rig is not rig or held.cylinder != self.cylinder:
            before = held if held and self._rig and self._rig.as_set is rig.as_set else None
            self._cycle = CylinderCycle.of(rig, self.cylinder, usual=before)
            self._rig = rig
        assert self._cycle is not None
        return self._cycle

    @property
    def tried(self) -> bool:
        """Whether another lash or advance is being tried."""
        return self._context.session.state.shown.what_if != AS_SET

    def show(self, cylinder: int) -> None:
        """Show a cylinder."""
        if cylinder != self.cylinder and cylinder in self._context.session.state.engine.cylinders:
            self.cylinder = cylinder
            self.changed.emit()

    def step_on(self) -> None:
        """Show the next cylinder; after the last comes the first."""
        self.show(self.cylinder % self._context.session.state.engine.cylinder_count + 1)

    def step_back(self) -> None:
        """Show the cylinder before."""
        count = self._context.session.state.engine.cylinder_count
        self.show((self.cylinder - 2) % count + 1)

    def _begin_again(self) -> None:
        self._rig = self._cycle = None
        if self.cylinder not in self._context.session.state.engine.cylinders:
            self.cylinder = 1
