"""The valve train as it is, and what the gas does."""

from typing import Final

import numpy as np
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from true_compass.app.workspaces.watch.cycle.panel import (
    HEAD_ROOM,
    ROW,
    SENTENCE,
    Panel,
)
from true_compass.core.crank.cylinder import (
    clearance_cm3,
    compression_from_closing,
    piston_speed_mm_per_deg,
    pressure_kpa,
    swept_cm3,
    volume_cm3,
)
from true_compass.core.items import Kind
from true_compass.core.units import MM_PER_THOU
from true_compass.core.valves.train import LashAt
from true_compass.core.words import capital
from true_compass.drawing.text import RIGHT, draw_one_of, draw_text
from true_compass.drawing.theme import LABEL, NOTE, Weight
from true_compass.drawing.train import TrainDrawing, TrainPose

NAMED_FROM: Final = 0.7
"""Scale of the drawing from which the names of its parts can be read."""
NO_CHANGE: Final = "–"


class TrainPanel(Panel):
    """The valve train as it is, and what the gas does."""

    def paint(self, p: QPainter) -> None:
        """Both trains of the cylinder, the facts below."""
        self.setObjectName("train")
        state, cylinder = self._context.session.state, self._model.cylinder
        train = state.engine.train
        words = capital(train.kind.words)
        self.paint_whole(p, cylinder, lambda q: self._paint_still(q, words))
        room = self._facts_top - HEAD_ROOM - 6
        factor = min(room / 300, self.logical_width / 2 / 262)
        for side, kind in enumerate(Kind):
            p.save()
            p.translate(side * self.logical_width / 2 + 4, HEAD_ROOM)
            p.scale(factor, factor)
            pose = self._pose(kind)
            drawing = TrainDrawing(train, pose, self.look.theme, named=factor >= NAMED_FROM)
            drawing.paint(p)
            p.restore()
            box = QRectF(side * self.logical_width / 2 + 44, HEAD_ROOM - 4, 140, 22)
            words = f"gap {pose.gap_mm:.2f} mm" if pose.gap_mm > 0 else ""
            draw_text(p, box, words, NOTE, self.look.theme.ink, Weight.LABEL)
        self.sentence(p, self._now())

    @property
    def _facts_top(self) -> float:
        return self.logical_height - SENTENCE - 5 * (ROW + 2) - 4

    def _pose(self, kind: Kind) -> TrainPose:
        state = self._context.session.state
        row = 2 * (self._model.cylinder - 1) + (0 if kind is Kind.INTAKE else 1)
        lobes = state.shown.lobes.take([row])
        sense = 1.0 if state.engine.clockwise_from_front else -1.0
        steps = state.crank_deg - sense * 4.0 * np.arange(180, dtype=np.float64)
        outline = lobes.lobe_mm(steps)[0]
        ratio, lash = float(lobes.ratio[0]), float(lobes.lash_mm[0])
        return TrainPose(
            kind=kind,
            name=state.engine.valves[row].name,
            lobe_mm=float(outline[0]),
            valve_mm=float(state.now.lift_mm[row]),
            gap_mm=max(lash - ratio * float(outline[0]), 0.0),
            ratio=ratio,
            outline_mm=tuple(outline.tolist()),
            suction=not bool(lobes.settable[0]),
        )

    def _paint_still(self, p: QPainter, words: str) -> None:
        engine, theme, width = (
            self._context.session.state.engine,
            self.look.theme,
            self.logical_width,
        )
        train = engine.train
        kind = "hydraulic" if train.hydraulic else "solid"
        self.head(
            p, words, f"{train.tappet.value} tappets, {kind}; the gap is drawn wider than it is"
        )
        for side, valve in enumerate(engine.valves[2 * self._model.cylinder - 2 :][:2]):
            box = QRectF(side * width / 2, HEAD_ROOM - 4, 60, 22)
            draw_text(p, box, valve.name, LABEL, theme.ink, Weight.STRONG)
        y = self._facts_top
        for place, (label, value) in enumerate(self.facts()):
            x = (place % 2) * width * 0.52
            box = QRectF(x, y + (place // 2) * (ROW + 2), width * 0.48, ROW)
            used = draw_text(p, box, value, NOTE + 1, theme.ink, Weight.LABEL, RIGHT) + 8
            draw_one_of(p, box.adjusted(0, 0, -used, 0), [label], NOTE + 1, theme.ink2)

    def facts(self) -> list[tuple[str, str]]:
        """Train at the left, gas at the right, row by row."""
        state = self._context.session.state
        engine, rig, row = state.engine, state.shown, self._model.cylinder - 1
        train, intake = engine.train, self._model.cycle.times.valves[0]
        pitch = f", {train.thread}" if train.thread else ""
        lash_i, lash_e = (
            f"{mm:.2f} mm, {mm / MM_PER_THOU:.0f} thou"
            for mm in (engine.cam.timing(kind).lash_mm for kind in Kind)
        )
        from_closing = NO_CHANGE
        if intake.own_closes_deg is not None:
            closing = np.full(engine.cylinder_count, intake.own_closes_deg)
            from_closing = f"{compression_from_closing(rig, closing)[row]:.1f}"
        ratio = f"{train.intake_ratio:g} / {train.exhaust_ratio:g}"
        where = LashAt.BRIDGE.words if train.bridge else train.lash_at.words
        return [
            ("Ratio, I / E", ratio),
            ("Swept volume", f"{swept_cm3(rig)[row]:.0f} cm³"),
            ("Adjuster", f"{train.adjuster.words}{pitch}"),
            ("Volume at TDC", f"{clearance_cm3(rig)[row]:.1f} cm³"),
            ("Lash, I", lash_i),
            ("Compression ratio", f"{engine.compression.ratio:g}"),
            ("Lash, E", lash_e),
            ("… from intake closing", from_closing),
            ("Measured", where),
            ("p·Vⁿ, n", f"{engine.compression.exponent:g}"),
        ]

    def _now(self) -> str:
        state, row = self._context.session.state, self._model.cylinder - 1
        own = state.now.cycle_deg
        volume = volume_cm3(state.shown, own)[row]
        speed = piston_speed_mm_per_deg(state.shown, own)[row]
        by = f"{abs(speed):.2f} mm a degree"
        way = f"falling {by}" if speed > 0 else f"rising {by}"
        if abs(speed) < 0.005:
            way = "still"
        words = f"{volume:.0f} cm³ above the piston; {way}"
        closes = self._model.cycle.times.valves[0].own_closes_deg
        if closes is not None and own[row] >= closes:
            closing = np.full(len(own), closes)
            pressure = float(pressure_kpa(state.shown, own, closing)[row])
            bar = f"{pressure / 100:.1f} bar by p·Vⁿ, without leaks or fire"
            return f"{words}; {bar}."
        return f"{words}."
