"""The text protocol, and the instrument that is not there."""

import os
import select
import socket
import subprocess
import sys
import time
import tracemalloc
from collections.abc import Iterable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from true_compass.core.items import Kind
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.files.rigs import demo_rig
from true_compass.instrument.line import (
    MOST_BYTES,
    Fault,
    LineReader,
    Reading,
    Told,
    What,
    parsed,
    written,
)
from true_compass.instrument.simulated import On, Place, SimulatedInstrument, Vices, parse_on


def faults(told: Iterable[Reading | Told]) -> list[Fault]:
    return [each.fault for each in told if isinstance(each, Told)]


def readings(told: Iterable[Reading | Told]) -> list[Reading]:
    return [each for each in told if isinstance(each, Reading)]


@given(
    st.integers(0, 999_999),
    st.sampled_from(list(What)),
    st.floats(-9999, 9999),
    st.lists(st.integers(1, 30), max_size=4),
)
def test_a_line_is_read_as_it_was_written_however_it_is_cut(
    number: int, what: What, value: float, cuts: list[int]
) -> None:
    line = written(number, what, value)
    assert len(line) <= MOST_BYTES
    reader, found = LineReader(), []
    for cut in cuts:
        found += list(reader.feed(line[:cut]))
        line = line[cut:]
    found += list(reader.feed(line))
    assert len(found) == 1
    assert isinstance(found[0], Reading)
    assert found[0].number == number
    assert found[0].value == pytest.approx(value, abs=5.1e-5)


@given(st.binary(max_size=400))
def test_any_bytes_are_survived_and_the_next_line_is_read(noise: bytes) -> None:
    reader = LineReader()
    list(reader.feed(noise))
    list(reader.feed(b"\n"))
    found = readings(reader.feed(written(7, What.LIFT, 1.25)))
    assert [reading.value for reading in found] == [1.25]


@given(st.integers(0, 40), st.integers(0, 255))
def test_one_changed_byte_never_makes_another_reading(place: int, byte: int) -> None:
    line = bytearray(written(123, What.CRANK, 248.35)[:-1])
    place %= len(line)
    changed = line[place] != byte
    line[place] = byte
    reading = parsed(bytes(line))
    assert reading is None or not changed or reading.value == 248.35


def test_what_goes_wrong_is_told() -> None:
    reader = LineReader()
    lines = [written(number, What.LIFT, 1.0) for number in range(8)]
    assert faults(reader.feed(lines[0] + lines[1])) == []
    told = list(reader.feed(lines[4]))
    assert faults(told) == [Fault.LOST]
    assert isinstance(told[0], Told)
    assert told[0].count == 2
    assert "2 lines were lost" in told[0].sentence
    told = list(reader.feed(written(5, What.LIFT, 25.4, "in")))
    assert faults(told) == [Fault.UNIT]
    assert readings(told)[0].value == pytest.approx(25.4)
    assert faults(reader.feed(b"garbage\n")) == [Fault.GARBAGE]
    assert faults(reader.feed(written(0, What.LIFT, 1.0))) == [Fault.AGAIN, Fault.UNIT]
    # A line without an end is told once, and skipped to the next newline.
    assert faults(reader.feed(b"x" * 300)) == [Fault.GARBAGE]
    assert list(reader.feed(b"x" * 300)) == []
    assert len(readings(reader.feed(b"x\n" + written(1, What.LIFT, 2.0)))) == 1


def test_numbers_go_round() -> None:
    reader = LineReader()
    assert faults(reader.feed(written(999_999, What.LIFT, 1.0) + written(0, What.LIFT, 1.0))) == []


def test_many_readings_leave_nothing_behind() -> None:
    reader = LineReader()
    block = b"".join(written(number, What.LIFT, 1.0) for number in range(1000))
    for _ in range(3):
        assert sum(1 for _ in reader.feed(block)) >= 1000
    tracemalloc.start()
    before = tracemalloc.get_traced_memory()[0]
    for _ in range(20):
        for _ in reader.feed(block):
            pass
    grown = tracemalloc.get_traced_memory()[0] - before
    tracemalloc.stop()
    assert grown < 20_000


# The instrument that is not there ----------------------------------------------------------------


def test_the_dial_tells_what_the_rig_does_at_that_crank_angle() -> None:
    rig = Rig.of(demo_rig("birch"))
    instrument = SimulatedInstrument(rig, parse_on("tappet I1", rig.engine), turn_deg_s=100.0)
    found = readings(LineReader().feed(instrument.passed(7.2)))
    lifts = [reading.value for reading in found if reading.what is What.LIFT]
    cranks = [reading.value for reading in found if reading.what is What.CRANK]
    assert len(lifts) == len(cranks) == 360
    # The nose of I1 stands 107° after its overlap TDC, which is at 360: at 107° on the encoder.
    top = lifts.index(max(lifts))
    assert cranks[top] == pytest.approx(107.0, abs=1.1)
    assert max(lifts) == pytest.approx(float(rig.lobes.lobe_peak_mm[0]), abs=0.01)
    late = SimulatedInstrument(rig, On(Place.TAPPET, 1, Kind.INTAKE), late_deg=4.8)
    late.crank_deg = 360.0 + 111.8
    assert late.lift_mm() == pytest.approx(max(lifts), abs=0.01)


def test_it_turns_when_it_is_told() -> None:
    instrument = SimulatedInstrument(Rig.of(demo_rig("birch")), On(Place.PISTON, 1))
    assert instrument.lift_mm() == pytest.approx(0.0, abs=1e-6)
    line = written(1, What.TURN, 180.0)
    instrument.heard(line[:9])
    instrument.heard(line[9:] + b"nonsense\n")
    assert instrument.crank_deg == 180.0
    assert instrument.lift_mm() == pytest.approx(104.0, abs=1e-6)


def test_its_vices_show() -> None:
    rig = Rig.of(demo_rig("birch"))
    vices = Vices(0.01, 0.1, 0.1, knock_deg=3.0, knock_after=400, other_unit_after=600)
    instrument = SimulatedInstrument(rig, On(Place.VALVE, 1, Kind.INTAKE), vices)
    told = list(LineReader().feed(instrument.passed(20.0)))
    kinds = set(faults(told))
    assert {Fault.LOST, Fault.GARBAGE, Fault.UNIT} <= kinds
    cranks = {round(each.value, 1) for each in readings(told) if each.what is What.CRANK}
    assert cranks == {0.0, 3.0}


@pytest.mark.parametrize("text", ["", "valve", "valve U1", "valve I9", "piston x", "nose 1"])
def test_a_place_that_is_none_is_named(text: str) -> None:
    with pytest.raises(EngineError):
        parse_on(text, demo_rig("birch"))


COMMAND = [
    sys.executable,
    "-m",
    "true_compass",
    "instrument",
    "--simulate",
    "birch",
    "--turn",
    "90",
]


def test_it_serves_a_network_line() -> None:
    with subprocess.Popen(
        [*COMMAND, "--turn", "90", "--tcp", "0", "--for", "20"], stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        host, _, port = process.stdout.readline().strip().partition(":")
        with socket.create_connection((host, int(port)), timeout=10) as line:
            reader = LineReader()
            found: list[Reading | Told] = []
            while len(found) < 6:
                found += list(reader.feed(line.recv(200)))
        process.terminate()
    assert not faults(found)
    assert {reading.what for reading in readings(found)} == {What.LIFT, What.CRANK}


def test_it_serves_a_pseudo_terminal() -> None:
    with subprocess.Popen(
        [*COMMAND, "--turn", "90", "--pty", "--for", "20"], stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        handle = os.open(process.stdout.readline().strip(), os.O_RDWR | os.O_NOCTTY)
        reader, end = LineReader(), time.monotonic() + 10
        found: list[Reading | Told] = []
        while len(found) < 6 and time.monotonic() < end:
            if select.select([handle], [], [], 0.5)[0]:
                found += list(reader.feed(os.read(handle, 200)))
        os.close(handle)
        process.terminate()
    assert len(readings(found)) >= 5
