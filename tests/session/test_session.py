from dataclasses import replace

from true_compass.core.state import AS_SET, WhatIf
from true_compass.files.rigs import demo_rig
from true_compass.session.session import Session, SessionState, Source


def make() -> tuple[Session, list[tuple[float, float]]]:
    session = Session(demo_rig("birch"), Source(rig="birch"), 240.0)
    seen: list[tuple[float, float]] = []

    def note(before: SessionState, after: SessionState) -> None:
        seen.append((before.crank_deg, after.crank_deg))

    session.subscribe(note)
    return session, seen


def test_turning_wraps_and_tells_once() -> None:
    session, seen = make()
    session.turn_to(725.0)
    session.turn_to(5.0)
    assert seen == [(240.0, 5.0)]
    assert session.state.now.crank_deg == 5.0


def test_another_engine_brings_its_own_events() -> None:
    session, _ = make()
    assert len(session.valve_events) == 24
    session.open_engine(demo_rig("alder"), Source(rig="alder"))
    assert len(session.valve_events) == 16
    assert (session.state.crank_deg, session.state.back_deg) == (0.0, None)


def test_a_listener_can_leave() -> None:
    session, seen = make()
    leave = session.subscribe(lambda before, after: seen.append((-1.0, -1.0)))
    leave()
    session.turn_to(1.0)
    assert seen == [(240.0, 1.0)]


def test_a_state_that_was_given_out_does_not_change() -> None:
    session, _ = make()
    before = session.state
    session.turn_to(0.0)
    assert before.crank_deg == 240.0
    assert before.now.at_compression_tdc.tolist().index(True) == 2


def test_edits_are_undone_and_done_again() -> None:
    session, _ = make()
    first = session.state.engine
    session.edit(replace(first, bore_mm=97.0), "bore")
    session.edit(replace(first, bore_mm=97.5), "bore")
    session.edit(replace(first, bore_mm=97.5, stroke_mm=105.0), "stroke")
    assert session.state.edited
    # Two edits of one field are one step.
    assert session.undo()
    assert session.state.engine.bore_mm == 97.5
    assert session.undo()
    assert session.state.engine == first
    assert not session.state.edited
    assert not session.undo()
    assert session.redo()
    assert session.redo()
    assert not session.redo()
    assert session.state.engine.stroke_mm == 105.0
    assert session.state.crank_deg == 240.0


def test_an_edit_forgets_what_was_undone() -> None:
    session, _ = make()
    first = session.state.engine
    session.edit(replace(first, bore_mm=97.0))
    session.undo()
    session.edit(replace(first, bore_mm=98.0))
    assert not session.redo_words
    session.open_engine(demo_rig("alder"), Source(rig="alder"))
    assert not session.undo_words


def test_what_is_tried_changes_the_rig_and_not_the_engine() -> None:
    session, _ = make()
    engine, usual, events = session.state.engine, session.state.rig, session.valve_events
    session.try_out(WhatIf(intake_lash_mm=0.1))
    assert session.state.engine is engine
    assert not session.state.edited
    assert session.state.rig is usual
    assert session.state.shown is not usual
    assert session.valve_events != events
    # One trial takes the place of another; both start from how the engine is set.
    session.try_out(WhatIf(exhaust_lash_mm=0.2))
    assert session.state.rig is usual
    assert session.state.shown.what_if == WhatIf(exhaust_lash_mm=0.2)
    session.try_out(AS_SET)
    assert session.state.shown is usual
    assert session.valve_events == events


def test_a_trial_ends_with_another_engine_or_an_edit() -> None:
    session, _ = make()
    session.try_out(WhatIf(intake_lash_mm=0.1))
    session.edit(replace(session.state.engine, name="Other"))
    assert session.state.shown.what_if == AS_SET
    session.try_out(WhatIf(intake_lash_mm=0.1))
    session.open_engine(demo_rig("alder"), Source(rig="alder"))
    assert session.state.shown.what_if == AS_SET
