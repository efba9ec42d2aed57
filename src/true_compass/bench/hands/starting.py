"""Starting it: a test run, and the timing lamp while it runs."""

from dataclasses import replace
from typing import Any, Final

from true_compass.bench.covered import Covered
from true_compass.bench.faults import is_timed
from true_compass.bench.hands.turning import starter_part
from true_compass.bench.running import report_of
from true_compass.bench.state import BenchState, RefusedError, coverings, drawn, noted, turned
from true_compass.core.chance import between
from true_compass.core.ignition.lamp import Faults, lamp_row, should_read_deg, would_read_deg

Answer = dict[str, Any]
EYE_DEG: Final = 0.5
"""How an eye scatters at a moving mark (common practice, no source)."""


def _check_ready(work: Covered, state: BenchState) -> None:
    """Raise unless everything is back in its place."""
    missing = sorted(set(coverings(work)) - state.parts_on)
    if missing:
        raise RefusedError(f"Put back first: {', '.join(missing)}.")
    in_the_way = [part for part in ("pin", "turning tool") if part in state.parts_on]
    if in_the_way:
        raise RefusedError(f"Take off first: the {in_the_way[0]}.")
    if "coil" not in state.parts_on:
        raise RefusedError(f"The {starter_part(work)} is off: put it on first.")


def _ran(work: Covered, state: BenchState) -> BenchState:
    """The state after a run: it stops where it likes."""
    by_deg = round(between(work.scenario.seed, "run", 7200.0, 14400.0, state.runs), 1)
    state = turned(work, state, by_deg)
    items = tuple(replace(item, settled=True) for item in state.items)
    return state._replace(runs=state.runs + 1, pumped=True, items=items, dial=None, chalk_deg=None)


def trial_run(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """Start it. Everything must be back in its place."""
    _check_ready(work, state)
    told = report_of(work, state)
    state = noted(_ran(work, state), "test run", "engine", told.starts)
    return state, {"ok": True, **told.record()}


def spark_faults(work: Covered) -> Faults:
    """What the lamp sees of the hidden condition.

    A rotor that sits teeth ahead in its running direction meets each post so much earlier.
    """
    condition = work.condition
    teeth = condition.case("rotor-teeth")
    pitch = 2 * 360.0 / work.engine.distributor_teeth
    return Faults(
        off_deg=0.0 if teeth is None else teeth.amount * pitch,
        weights_stuck=condition.case("weights-stuck") is not None,
        hose_off=condition.case("can-unplugged") is not None,
        crept_deg=condition.mark_error_deg,
    )


def timing_lamp(work: Covered, state: BenchState, _action: Answer) -> tuple[BenchState, Answer]:
    """The mark under the lamp: at idle, at full speed, and with the hose on."""
    advance = work.engine.spark.advance
    if not is_timed(work.engine):
        raise RefusedError("The book gives no advance: there is nothing to hold a lamp against.")
    _check_ready(work, state)
    if report_of(work, state).starts == "will not start":
        raise RefusedError("It will not start, so the lamp does not flash.")
    faults, readings = spark_faults(work), []
    for asked in lamp_row(advance):
        state, off = drawn(work, state, "lamp", EYE_DEG)
        readings.append(
            {
                "rpm": asked.speed_rpm,
                "hose": "on" if asked.hose_on else "off",
                "mbar": asked.depression_mbar,
                "mark_deg": float(round(would_read_deg(advance, asked, faults) + off)),
                "book_deg": should_read_deg(advance, asked),
            }
        )
    said = ", ".join(f"{one['mark_deg']:g}" for one in readings)
    return noted(_ran(work, state), "lamp", "mark", said), {"readings": readings}
