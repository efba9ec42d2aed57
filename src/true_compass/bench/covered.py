"""The covered engine itself: what lobes, pistons, gas, gaps, rotor and marks really do.

Angles are crank degrees in the running direction. The camshaft stands `cam_lag_deg` on from where
the crank would put it: 0 after turning in the running direction, up to the slack after turning
back. Pistons know no slack. Lengths are mm at the place of each item, unless said.
"""

from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from true_compass.bench.condition import Case, Condition, condition_of, travel_mm
from true_compass.bench.faults import pairs_of
from true_compass.bench.scenario import Scenario
from true_compass.core.adjusting.setting import Setting, Way, book_rig, settings_of
from true_compass.core.angles import Floats, wrap_deg
from true_compass.core.crank.firing import backwards
from true_compass.core.engine import Engine, Mark, Meaning, Shaft
from true_compass.core.items import Kind
from true_compass.core.state import Rig
from true_compass.core.valves.train import lash_at_valve_mm

SEALED_MM: Final = 0.02
"""A valve less far off its seat than this holds pressure well enough for a thumb."""
RAMP_MM: Final = 0.005
"""A lobe lower than this is the heel: half the least step of a blade."""
AMBIENT_KPA: Final = 100.0
TILT_DEG: Final = 3.0
"""Around TDC a piston tips over within so many degrees (assumed)."""
LEAK_PER_DEG: Final = {"sound": 0.002, "rings": 2.0, "valve": 5.0}
"""Share of its overpressure that a cylinder loses for each degree barred by hand (assumed)."""
STARTER_FASTER: Final = 100.0
OIL_SEALS: Final = 0.2
"""A starter turns so much faster than a hand; oil leaves so much of a leak past rings."""


@dataclass(frozen=True, slots=True, eq=False)
class Covered:
    """A scenario with everything about its engine that no action changes.

    `book` is the engine as the book has it; `rig` the one that really stands there. `worn` is the
    share of its lift that each lobe still has, `(L, 1)`; `place` the row of each setting by name.
    `marks` are those of the crank, each with the angle in [0, 360) at which it is really met.
    """

    scenario: Scenario
    condition: Condition
    settings: tuple[Setting, ...]
    place: dict[str, int]
    book: Rig
    rig: Rig
    worn: Floats
    marks: tuple[tuple[Mark, float], ...]
    _at: dict[float, Floats] = field(default_factory=dict)

    @staticmethod
    def of(scenario: Scenario) -> "Covered":
        """Work the engine of a scenario out."""
        condition = condition_of(scenario)
        settings = settings_of(scenario.engine)
        book = book_rig(scenario.engine)
        rig = _with_faults(book, condition)
        return Covered(
            scenario,
            condition,
            settings,
            {setting.name: row for row, setting in enumerate(settings)},
            book,
            rig,
            _worn(scenario.engine, settings, condition),
            tuple(_marks(book, condition)),
        )

    @property
    def engine(self) -> Engine:
        """The engine as the book has it."""
        return self.scenario.engine

    @property
    def true_tdc_deg(self) -> Floats:
        """Crank angle of each cylinder's true compression TDC, `(C,)`."""
        return self.rig.true_offsets_deg

    def lobes_mm(self, cam_deg: Floats) -> Floats:
        """Lift of every lobe at angles `(N,)`, ratio not applied, valves first; `(L, N)`."""
        lobes = self.rig.lobes.lobe_mm(cam_deg)
        if self.rig.extras is not None:
            lobes = np.concatenate((lobes, self.rig.extras.lobe_mm(cam_deg)))
        return np.asarray(lobes * self.worn)

    def lobes_at_mm(self, cam_deg: float) -> Floats:
        """The same at one angle, `(L,)`. Several readings are taken where the engine stands."""
        if cam_deg not in self._at:
            self._at.clear()
            self._at[cam_deg] = self.lobes_mm(np.array([cam_deg]))[:, 0]
        return self._at[cam_deg]

    def margin_deg(self, setting: Setting, cam_deg: float) -> float:
        """Crank degrees of heel to the nearer end, negative off it, of the lobe of an item."""
        at = np.array([cam_deg])
        count = len(self.engine.valves)
        if setting.row < count:
            return float(self.rig.lobes.margin_deg(at)[setting.row, 0])
        assert self.rig.extras is not None
        return float(self.rig.extras.margin_deg(at)[setting.row - count, 0])

    def heights_mm(self, crank_deg: Floats) -> Floats:
        """How far each piston stands below its true top, `(C,)` or `(C, N)`."""
        top = self.rig.centres.top_mm
        if crank_deg.ndim:
            top = top[:, None]
        return np.asarray(np.maximum(top - self.rig.turning.heights_mm(crank_deg), 0.0))

    def fall_mm(self, cylinder: int, crank_deg: Floats) -> Floats:
        """How far one piston stands below its true top, at angles `()` or `(N,)`."""
        return np.asarray(self.heights_mm(crank_deg)[cylinder - 1])

    def probed_mm(self, cylinder: int, crank_deg: Floats) -> Floats:
        """The same as a probe through the plug hole meets it: a slanted one feels the tilt."""
        fall = self.fall_mm(cylinder, crank_deg)
        case = self.condition.case("probe-slanted")
        if case is None or case.cylinder != cylinder:
            return fall
        after = np.mod(crank_deg - self.true_tdc_deg[cylinder - 1] + 180.0, 360.0) - 180.0
        return np.asarray(fall + case.amount * np.clip(after / TILT_DEG, -1.0, 1.0))

    def lifts_mm(
        self, cylinder: int, cam_deg: Floats, values_mm: tuple[float, ...], pumped: bool
    ) -> Floats:
        """How far intake and exhaust valve of a cylinder are off their seats, `(2, N)`.

        An engine brake is off: it lifts nothing unless somebody engages it.
        """
        lobes = self.lobes_mm(cam_deg)
        rows = self.engine.valve_rows(cylinder)
        found = [self._suction_mm(row, cam_deg) for row in rows]
        for setting, value in zip(self.settings, values_mm, strict=True):
            if setting.item.cylinder == cylinder and setting.item.is_valve:
                place = rows.index(setting.row)
                lift = self.valve_lift_mm(setting, lobes[setting.row], value, pumped)
                found[place] = np.maximum(found[place], lift)
        return np.array(found)

    def _suction_mm(self, row: int, cam_deg: Floats) -> Floats:
        if self.rig.lobes.settable[row]:
            return np.zeros(cam_deg.shape)
        return np.asarray(self.rig.lobes.lift_mm(cam_deg)[row])

    def valve_lift_mm(
        self, setting: Setting, lobe_mm: Floats, value_mm: float, pumped: bool
    ) -> Floats:
        """Lift of the valve of an item with its lobe at `lobe_mm`."""
        kind = setting.item.kind
        assert isinstance(kind, Kind)
        ratio = self.engine.train.ratio(kind)
        if setting.way is Way.PLUNGER:
            room = travel_mm(setting) - value_mm  # what is left before the plunger is solid
            if self.soft(setting, pumped):
                return np.maximum(ratio * (lobe_mm - room), 0.0)
            return np.maximum(ratio * (lobe_mm + min(value_mm, 0.0) - min(room, 0.0)), 0.0)
        gap_at_valve = lash_at_valve_mm(self.engine.train, kind, value_mm)
        return np.maximum(ratio * lobe_mm - gap_at_valve, 0.0)

    def soft(self, setting: Setting, pumped: bool) -> bool:
        """Whether the plunger of an item sinks under load."""
        case = self.condition.case("lifter-collapsed")
        return not pumped or (case is not None and case.item == setting.name)

    def kpa_along(
        self,
        cylinder: int,
        crank_deg: Floats,
        cam_deg: Floats,
        values_mm: tuple[float, ...],
        pumped: bool,
        leak_per_deg: float,
    ) -> Floats:
        """Absolute pressure along a way, sealed at ambient at its start, `(N,)`, in kPa.

        p Vⁿ is constant from step to step while both valves are shut; a leak takes its share of
        what is over ambient; an open valve lets all of it go.
        """
        fall = self.fall_mm(cylinder, crank_deg)
        stroke = float(self.rig.centres.stroke_mm[cylinder - 1])
        volume = fall + stroke / (self.engine.compression.ratio - 1.0)
        lifts = self.lifts_mm(cylinder, cam_deg, values_mm, pumped)
        shut = np.asarray(lifts.max(axis=0) < SEALED_MM)
        squeezed = (volume[:-1] / volume[1:]) ** self.engine.compression.exponent
        kept = np.exp(-leak_per_deg * np.abs(np.diff(crank_deg)))
        pressure = [AMBIENT_KPA]
        for ratio, rest, closed in zip(
            squeezed.tolist(), kept.tolist(), (shut[:-1] & shut[1:]).tolist(), strict=True
        ):
            now = AMBIENT_KPA
            if closed:
                now += (pressure[-1] * ratio - AMBIENT_KPA) * rest
            pressure.append(now)
        return np.array(pressure)

    def leak_per_deg(self, cylinder: int, oiled: bool = False) -> float:
        """How fast a cylinder loses pressure while it is barred."""
        for slug, name in (("valve-leaks", "valve"), ("rings-leak", "rings")):
            case = self.condition.case(slug)
            if case is not None and case.cylinder == cylinder:
                share = OIL_SEALS if oiled and name == "rings" else 1.0
                return LEAK_PER_DEG[name] * share
        return LEAK_PER_DEG["sound"]

    def rotor_deg(self, crank_deg: float, lag_deg: float) -> float:
        """Where the rotor points, 0 at the post of cylinder 1, in its own running direction."""
        offset = 0.0
        if self.condition.case("rotor-one-turn"):
            offset += 180.0
        teeth = self.condition.case("rotor-teeth")
        if teeth is not None:
            offset += teeth.amount * 360.0 / self.engine.distributor_teeth
        return ((crank_deg + lag_deg) / 2 + offset) % 360.0

    def leads(self) -> tuple[int, ...]:
        """Cylinder of the lead at each post, from the notch on, in the rotor's direction."""
        order = list(self.engine.firing_order)
        if self.condition.case("leads-reversed"):
            order = list(backwards(self.engine.firing_order))
        swapped = self.condition.case("leads-swapped")
        if swapped is not None:
            one, other = order.index(swapped.cylinder), order.index(swapped.other)
            order[one], order[other] = order[other], order[one]
        return tuple(order)


def _with_faults(book: Rig, condition: Condition) -> Rig:
    """The rig that really stands there: lobes worn, moved or of another cam."""
    rig = book
    release = condition.case("compression-release")
    if release is not None:
        rig = Rig.of(_release_hangs_on(book.engine))
    lobes = rig.lobes
    earlier = np.zeros(len(lobes.ratio))
    tooth = condition.case("cam-one-tooth")
    if tooth is not None:
        earlier += tooth.amount * 720.0 / book.engine.cam_teeth
    if condition.case("overlap-small"):
        apart_deg = _apart_for_no_overlap_deg(book)
        for kind, sign in ((Kind.INTAKE, -1.0), (Kind.EXHAUST, 1.0)):
            earlier[book.engine.rows_of(kind)] += sign * apart_deg
    if earlier.any():
        lobes = lobes.changed(lobes.lash_mm, earlier)
    return replace(rig, lobes=lobes)


def _worn(engine: Engine, settings: tuple[Setting, ...], condition: Condition) -> Floats:
    left = np.ones((len(engine.valves) + len(engine.driven_extras), 1))
    case = condition.case("lobe-worn")
    for setting in settings:
        if case is not None and setting.name == case.item:
            left[setting.row] = 0.60 + 0.20 * case.amount
    return left


def _release_hangs_on(engine: Engine) -> Engine:
    """The engine with a release that lets go only 8° before TDC."""
    bump = engine.cam.release
    assert bump is not None
    late = replace(bump, closes_deg=712.0, ramp_deg=min(bump.ramp_deg, 6.0))
    return replace(engine, cam=replace(engine.cam, release=late))


def _apart_for_no_overlap_deg(book: Rig) -> float:
    """How far intake and exhaust must move apart for both to be loose at overlap TDC."""
    engine = book.engine
    at_deg = wrap_deg(book.true_offsets_deg[0] + 360.0)
    intake, exhaust = engine.valve_rows(1)
    for apart in range(0, 80, 2):
        moved = np.array([[at_deg - apart], [at_deg + apart]])
        lobes = book.lobes
        lift = (
            float(lobes.lobe_mm(moved[0])[intake, 0]),
            float(lobes.lobe_mm(moved[1])[exhaust, 0]),
        )
        most = [0.3 * engine.cam.timing(kind).lash_mm / engine.train.ratio(kind) for kind in Kind]
        if all(one <= max(limit, RAMP_MM) for one, limit in zip(lift, most, strict=True)):
            return float(apart)
    return 80.0


def shown_marks(engine: Engine) -> tuple[Mark, ...]:
    """The crank's marks: those of the file, or a line stamped 0 on the damper (assumed).

    Beside them the flywheel's lines, one for each pair, where the file names no mark at all.
    """
    marks = [mark for mark in engine.marks if mark.shaft is Shaft.CRANK]
    if not any(mark.meaning is Meaning.TDC for mark in marks):
        marks.insert(0, Mark("damper", None, "0", can_creep=True))
    return tuple(marks)


def _marks(book: Rig, condition: Condition) -> list[tuple[Mark, float]]:
    """Every mark on the crank with the crank angle at which it is really met, [0, 360)."""
    marks = []
    second = condition.case("two-marks")
    crept = condition.case("damper-crept") is not None
    shown = shown_marks(book.engine)
    main = next(mark for mark in shown if mark.meaning is Meaning.TDC)
    for mark in shown:
        at_deg = book.mark_deg(mark)
        if mark is main or (crept and mark.can_creep):
            at_deg += condition.mark_error_deg
        if mark is main and condition.case("firing-mark"):
            mark = replace(mark, stamped="F", colour="")
        if mark is main and second is not None:
            marks.append((mark, (at_deg + second.amount) % 360.0))
        marks.append((mark, at_deg % 360.0))
    return [*marks, *_flywheel_lines(book, condition.case("flywheel-pair"))]


def sound_marks(book: Rig) -> list[tuple[Mark, float]]:
    """The marks as the book has them, each with its crank angle in [0, 360)."""
    own = [(mark, book.mark_deg(mark) % 360.0) for mark in shown_marks(book.engine)]
    return [*own, *_flywheel_lines(book, None)]


def _flywheel_lines(book: Rig, turned: Case | None) -> list[tuple[Mark, float]]:
    pairs = pairs_of(book.engine)
    # What a file tells of its marks is the whole of them; what it leaves out is assumed.
    named = any(mark.shaft is Shaft.CRANK for mark in book.engine.marks)
    if named and turned is None:
        return []
    if len(pairs) < 2 or all(len(cylinders) == 1 for _, cylinders in pairs):
        return []
    by_deg = turned.amount if turned is not None else 0.0
    return [
        (Mark("flywheel", at_deg, "·".join(map(str, cylinders))), (at_deg + by_deg) % 360.0)
        for at_deg, cylinders in pairs
    ]
