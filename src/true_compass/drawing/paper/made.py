"""Sheets made for an engine: what a person chose, put beside what the engine says."""

from collections.abc import Sequence
from datetime import date

from true_compass.core.adjusting.schools import BY_WORD
from true_compass.core.adjusting.stops import Plan
from true_compass.core.paper.catalogue import CAM_CARD, LAP
from true_compass.core.paper.places import (
    Place,
    StopWords,
    damper_marks,
    event_places,
    flywheel_marks,
    mark_places,
    on_paper_deg,
    stop_words,
    tdc_places,
)
from true_compass.core.paper.tape import Ring, Tape
from true_compass.core.paper.wheel import Face, PaperWheel
from true_compass.core.state import Rig
from true_compass.drawing.documents import Document, DocumentError
from true_compass.drawing.paper.cam_page import cam_card_document, lap_document
from true_compass.drawing.paper.cap_page import cap_document
from true_compass.drawing.paper.sheet import About, Style
from true_compass.drawing.paper.tape_page import TapeSheet, tape_document
from true_compass.drawing.paper.wheel_face import WheelSheet
from true_compass.drawing.paper.wheel_page import wheel_document
from true_compass.drawing.ring import sense_of
from true_compass.files.engine_values import origin_words

FRONT, REAR = "front", "rear"


def about_of(rig: Rig, day: date, end: str = FRONT) -> About:
    """What every sheet says of an engine; `end` is the one that it is drawn from."""
    sense = sense_of(rig.engine) * (1 if end == FRONT else -1)
    way = "clockwise" if sense > 0 else "anticlockwise"
    return About(
        rig.engine.name,
        origin_words(rig.engine, day),
        f"Crank {way}, seen from the {end}.",
        rig.engine.order_text,
        sense,
    )


def check_plan(plan: Plan | None) -> None:
    """Raise `DocumentError` for a plan that is not safe: its stops are not printed."""
    if plan is not None and not plan.safe:
        raise DocumentError(f"{plan.least_item.off_words} at its stop: choose another method.")


def _places(
    rig: Rig, plan: Plan | None, marks: Sequence[Place], cylinder: int
) -> tuple[Place, ...]:
    check = rig.engine.cam.intake.check
    return (*tdc_places(rig, plan), *marks, *event_places(rig, cylinder, check))


def _stops(rig: Rig, plan: Plan | None) -> tuple[tuple[StopWords, ...], str]:
    if plan is None:
        return (), ""
    return tuple(stop_words(rig, plan)), BY_WORD[plan.school].name


def wheel_for(
    rig: Rig,
    plan: Plan | None,
    wheel: PaperWheel,
    style: Style,
    day: date,
    late_deg: float = 0.0,
    cylinder: int = 1,
) -> Document:
    """The degree wheel of an engine. Raises `DocumentError` for an unsafe plan."""
    check_plan(plan)
    stops, method = _stops(rig, plan)
    told = WheelSheet(
        about_of(rig, day),
        wheel,
        _places(rig, plan, mark_places(rig, late_deg), cylinder),
        stops,
        method,
        f"at {rig.engine.cam.intake.check.words}",
        cylinder,
    )
    return wheel_document(told, style)


def tape_for(
    rig: Rig,
    plan: Plan | None,
    tape: Tape,
    style: Style,
    day: date,
    late_deg: float = 0.0,
    cylinder: int = 1,
    face: Face = Face.SPLIT,
) -> Document:
    """The damper tape of an engine; `tape` must have the engine's own sense."""
    check_plan(plan)
    stops, _ = _stops(rig, plan)
    places = _places(rig, plan, damper_marks(rig, late_deg), cylinder)
    told = TapeSheet(about_of(rig, day), tape, places, face=face, stops=stops)
    return tape_document(told, style)


def flywheel_for(
    rig: Rig,
    plan: Plan | None,
    tape: Tape,
    ring: Ring,
    style: Style,
    day: date,
    face: Face = Face.SPLIT,
) -> Document:
    """The strip for the flywheel, its lower edge to the rear, with a tick a tooth."""
    check_plan(plan)
    stops, _ = _stops(rig, plan)
    places = (*tdc_places(rig, plan), *flywheel_marks(rig))
    told = TapeSheet(
        about_of(rig, day, REAR),
        tape,
        places,
        "flywheel strip",
        REAR,
        ring,
        face,
        stops,
    )
    return tape_document(told, style)


def sense_for(rig: Rig, end: str = FRONT) -> int:
    """Which way a tape runs with that end below: +1 where before TDC lies right of zero."""
    return sense_of(rig.engine) * (1 if end == FRONT else -1)


def key_marks(rig: Rig) -> tuple[str, ...]:
    """What the engine's file says of its key, as sentences."""
    return tuple(
        f"Here {mark.label} is met {on_paper_deg(rig, rig.mark_deg(mark)):g}° after TDC of 1."
        for mark in rig.engine.marks
        if "key" in mark.where.lower()
    )


def card_for(word: str, rig: Rig, cylinder: int, style: Style, day: date) -> Document:
    """A sheet that asks for no size, by its word in the catalogue."""
    about = about_of(rig, day)
    if word == CAM_CARD.word:
        return cam_card_document(rig, about, style)
    if word == LAP.word:
        return lap_document(rig, about, cylinder, style)
    return cap_document(rig, about, style)
