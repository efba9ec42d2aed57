"""A cam card: durations at checking lifts, lift, centrelines or events, separation, advance.

A card says some things twice. What it says must agree; where it does not, the message names both
figures. From what it says the two timings follow.
"""

from dataclasses import dataclass

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.valves.cam import DEFAULT_RAMP_DEG, SEAT, CheckLift, ValveTiming
from true_compass.core.valves.train import Train, stated_lash_mm

# Cards print whole degrees; two rounded figures may differ by one.
AGREES_DEG = 1.0


@dataclass(frozen=True, slots=True)
class CardSide:
    """What a card says of one kind of valve. None is what it leaves out.

    `durations_deg` are pairs of a checking lift and crank degrees. `opens_deg` and `closes_deg` are
    events as usual, at `events_at`. The lift is the lobe's or the valve's.
    """

    durations_deg: tuple[tuple[CheckLift, float], ...]
    lobe_lift_mm: float | None = None
    valve_lift_mm: float | None = None
    centreline_deg: float | None = None
    opens_deg: float | None = None
    closes_deg: float | None = None
    events_at: CheckLift = SEAT


@dataclass(frozen=True, slots=True)
class Card:
    """A whole card: both sides, lobe separation in cam degrees, advance in crank degrees."""

    intake: CardSide
    exhaust: CardSide
    lobe_separation_cam_deg: float | None = None
    advance_deg: float | None = None

    def side(self, kind: Kind) -> CardSide:
        """What the card says of one kind of valve."""
        return self.intake if kind is Kind.INTAKE else self.exhaust


def timings_of_card(
    card: Card, train: Train, lashes_mm: dict[Kind, float], ramp_deg: float = DEFAULT_RAMP_DEG
) -> dict[Kind, ValveTiming]:
    """Both timings that a card describes, or `EngineError` naming what contradicts what.

    `lashes_mm` are the gaps with which the card holds, where the engine measures them.

    >>> side = CardSide(((SEAT, 248.0),), valve_lift_mm=9.0)
    >>> card = Card(side, side, lobe_separation_cam_deg=110.0, advance_deg=4.0)
    >>> cams = timings_of_card(card, Train(), dict.fromkeys(Kind, 0.2))
    >>> cams[Kind.INTAKE].opens_before_deg, cams[Kind.EXHAUST].centreline_deg
    (18.0, 114.0)
    """
    centrelines = _centrelines(card)
    return {
        kind: _timing(kind, card.side(kind), centrelines[kind], train, lashes_mm[kind], ramp_deg)
        for kind in Kind
    }


def _centrelines(card: Card) -> dict[Kind, float]:
    found: dict[Kind, float] = {}
    for kind in Kind:
        said = _said_centrelines(kind, card.side(kind))
        for source, value in said[1:]:
            _agree(kind, "centreline", said[0], (source, value))
        if said:
            found[kind] = said[0][1]
    separation, advance = card.lobe_separation_cam_deg, card.advance_deg
    if len(found) < 2 and separation is None:
        raise EngineError(
            "card.lobe_separation_cam_deg",
            "is missing: give it with the advance, or a centreline or both events of each kind",
        )
    if not found and separation is not None:
        straight_up = advance or 0.0
        return {Kind.INTAKE: separation - straight_up, Kind.EXHAUST: separation + straight_up}
    if separation is not None:
        for kind, other in ((Kind.INTAKE, Kind.EXHAUST), (Kind.EXHAUST, Kind.INTAKE)):
            found.setdefault(other, 2 * separation - found.get(kind, 0.0))
    icl, ecl = found[Kind.INTAKE], found[Kind.EXHAUST]
    for field, told, made, unit in (
        ("lobe_separation_cam_deg", separation, (icl + ecl) / 2, " cam °"),
        ("advance_deg", advance, (ecl - icl) / 2, "°"),
    ):
        if told is not None and abs(made - told) > AGREES_DEG:
            raise EngineError(
                f"card.{field}",
                f"is {told:g}, but the centrelines {icl:g} and {ecl:g} make {made:g}{unit}: "
                "correct one of them",
            )
    return found


def _said_centrelines(kind: Kind, side: CardSide) -> list[tuple[str, float]]:
    said = []
    if side.centreline_deg is not None:
        said.append(("the card says", side.centreline_deg))
    if side.opens_deg is not None and side.closes_deg is not None:
        made = side.opens_deg + 180.0 + side.closes_deg
        outer = side.opens_deg if kind is Kind.INTAKE else side.closes_deg
        said.append(("the events make", made / 2 - outer))
        for check, duration in side.durations_deg:
            if check == side.events_at and abs(made - duration) > AGREES_DEG:
                raise EngineError(
                    f"card.{kind.value}",
                    f"contradicts itself: these events make {made:g}°, the card says "
                    f"{duration:g}° at {check.words}",
                )
    return said


def _agree(kind: Kind, what: str, first: tuple[str, float], second: tuple[str, float]) -> None:
    if abs(first[1] - second[1]) > AGREES_DEG:
        raise EngineError(
            f"card.{kind.value}",
            f"contradicts itself about the {what}: {first[0]} {first[1]:g}°, "
            f"{second[0]} {second[1]:g}°",
        )


def _timing(
    kind: Kind, side: CardSide, centreline: float, train: Train, lash_mm: float, ramp_deg: float
) -> ValveTiming:
    durations = list(side.durations_deg)
    if side.opens_deg is not None and side.closes_deg is not None:
        made = side.opens_deg + 180.0 + side.closes_deg
        if all(check != side.events_at for check, _ in durations):
            durations.append((side.events_at, made))
    if not durations:
        raise EngineError(f"card.{kind.value}", "needs a duration, or an opening and a closing")
    if (side.lobe_lift_mm is None) == (side.valve_lift_mm is None):
        raise EngineError(f"card.{kind.value}", "needs either lobe_lift_mm or valve_lift_mm")
    ramp_mm = None
    if side.lobe_lift_mm is not None:
        height = side.lobe_lift_mm * train.ratio(kind)
        peak = height - stated_lash_mm(train, kind, lash_mm)
        if peak < height / 2:
            # More lash than lobe: the lobe is still there, and the valve hardly opens, or never.
            ramp_mm = height / 4
    else:
        assert side.valve_lift_mm is not None
        peak = side.valve_lift_mm
    (check, first), *more = durations
    outer = first / 2 - centreline
    other = first - 180.0 - outer
    opens, closes = (outer, other) if kind is Kind.INTAKE else (other, outer)
    return ValveTiming(
        opens_before_deg=opens,
        closes_after_deg=closes,
        peak_lift_mm=peak,
        lash_mm=lash_mm,
        ramp_deg=ramp_deg,
        ramp_mm=ramp_mm,
        check=check,
        centreline_deg=centreline,
        durations_deg=tuple(more),
    )
