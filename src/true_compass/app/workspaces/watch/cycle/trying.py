"""What if: lash and advance to try, as sliders."""

from dataclasses import replace

from PyQt6.QtWidgets import QWidget

from true_compass.app.widgets.slider import Slider
from true_compass.app.workspaces.watch.context import WatchContext
from true_compass.core.engine import Engine
from true_compass.core.items import Kind


class TrySlider(Slider):
    """One figure of the engine to try."""

    def __init__(
        self,
        context: WatchContext,
        parent: QWidget,
        label: str,
        fields: tuple[str, ...],
        reach: tuple[float, float],
        step: float,
    ) -> None:
        super().__init__(context.look, parent, label, reach, step)
        self._context = context
        self.fields = fields
        self.setObjectName("try_" + "_".join(fields))
        context.bridge.tried.connect(self.follow)
        context.bridge.engine_changed.connect(self.update)

    @property
    def value(self) -> float:
        """The change that is tried."""
        return float(getattr(self._context.session.state.shown.what_if, self.fields[0]))

    def put(self, value: float) -> None:
        """Try a change."""
        tried = self._context.session.state.shown.what_if
        self._context.session.try_out(replace(tried, **dict.fromkeys(self.fields, value)))


class LashSlider(TrySlider):
    """Lash of one kind of valve."""

    def __init__(self, context: WatchContext, parent: QWidget, kind: Kind) -> None:
        self._kind = kind
        engine = context.session.state.engine
        what = "leak-down" if engine.train.hydraulic else "lash"
        set_mm = engine.cam.timing(kind).lash_mm
        super().__init__(
            context,
            parent,
            f"{kind.letter} {what}",
            (f"{kind.value}_lash_mm",),
            (-min(set_mm, 0.30), 0.60),
            0.01,
        )

    def words(self) -> str:
        """As set, and as tried."""
        set_mm = self._context.session.state.engine.cam.timing(self._kind).lash_mm
        if not self.value:
            return f"{set_mm:.2f} mm"
        return f"{set_mm:.2f} to {set_mm + self.value:.2f} mm"


class AdvanceSlider(TrySlider):
    """Advance of one camshaft, or of the only one."""

    def __init__(self, context: WatchContext, parent: QWidget, kinds: tuple[Kind, ...]) -> None:
        self._kinds = kinds
        label = "Cam advance" if len(kinds) == 2 else f"{kinds[0].letter} cam advance"
        fields = tuple(f"{kind.value}_advance_deg" for kind in kinds)
        super().__init__(context, parent, label, fields, (-20.0, 20.0), 0.5)

    def words(self) -> str:
        """How far the camshaft is moved from where it is set."""
        if not self.value:
            return "as set"
        return f"{self.value:g}° earlier" if self.value > 0 else f"{-self.value:g}° later"


def sliders_for(context: WatchContext, parent: QWidget) -> list[TrySlider]:
    """A slider for each figure that this engine lets one try."""
    engine: Engine = context.session.state.engine
    driven = [kind for kind in Kind if not engine.cam.timing(kind).suction]
    made: list[TrySlider] = [LashSlider(context, parent, kind) for kind in driven]
    if engine.two_shafts and len(driven) == 2:
        made += [AdvanceSlider(context, parent, (kind,)) for kind in driven]
    else:
        made.append(AdvanceSlider(context, parent, tuple(driven)))
    return made
