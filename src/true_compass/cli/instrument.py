"""`instrument`: an indicator and an encoder that are not there, on a pseudo-terminal or a port."""

import argparse
import contextlib
import os
import select
import socket
import time
import tty
from collections.abc import Callable
from typing import Any, Final

from true_compass.cli.common import UsageError, length_mm, number_of, resolve_engine
from true_compass.core.limits import EngineError
from true_compass.core.state import Rig
from true_compass.instrument.simulated import SimulatedInstrument, Vices, parse_on

TICK_S: Final = 0.02
MOST_CHUNK: Final = 4096


def add_instrument_commands(commands: "argparse._SubParsersAction[Any]") -> None:
    """`instrument` with its options."""
    one = commands.add_parser("instrument", help="a simulated indicator with a crank encoder")
    one.set_defaults(run=run_instrument)
    one.add_argument("--simulate", required=True, metavar="FILE | RIG", help="on which engine")
    one.add_argument("--on", default="valve I1", metavar='"valve I1"', help="where the dial stands")
    one.add_argument("--pty", action="store_true", help="on a pseudo-terminal; its name is printed")
    one.add_argument("--tcp", metavar="PORT", help="on this port of 127.0.0.1; 0 takes a free one")
    one.add_argument("--turn", default="0", metavar="DEG", help="degrees a second by itself")
    one.add_argument("--late", default="0", metavar="DEG", help="how late the cams stand")
    one.add_argument("--noise", default="0", metavar="MM", help="standard deviation of the dial")
    one.add_argument("--lost", default="0", metavar="SHARE", help="share of lines that get lost")
    one.add_argument("--spoilt", default="0", metavar="SHARE", help="share that makes no sense")
    one.add_argument("--knock", metavar="DEG@LINES", help="the pointer is knocked after so many")
    one.add_argument("--inches-after", metavar="LINES", help="the dial tells inches after so many")
    one.add_argument("--seed", default="1", help="of its chance")
    one.add_argument("--for", dest="seconds", metavar="S", help="end after so many seconds")


def run_instrument(options: argparse.Namespace) -> str:
    """`true-compass instrument`."""
    if options.pty == (options.tcp is not None):
        raise UsageError("give --pty or --tcp PORT")
    instrument = _instrument(options)
    seconds = None
    if options.seconds is not None:
        seconds = number_of("--for", options.seconds, 0.0, 86400.0)
    end = None if seconds is None else time.monotonic() + seconds
    with contextlib.suppress(KeyboardInterrupt):
        if options.pty:
            _serve_pty(instrument, end)
        else:
            _serve_tcp(instrument, _port(options.tcp), end)
    return ""


def _instrument(options: argparse.Namespace) -> SimulatedInstrument:
    engine = resolve_engine(options.simulate)
    try:
        on = parse_on(options.on, engine)
    except EngineError as error:
        raise UsageError(f"--{error.field} {error}") from None
    knock_deg, knock_after = _knock(options.knock)
    after = options.inches_after
    vices = Vices(
        noise_mm=length_mm("--noise", options.noise),
        lost_share=number_of("--lost", options.lost, 0.0, 1.0),
        spoilt_share=number_of("--spoilt", options.spoilt, 0.0, 1.0),
        knock_deg=knock_deg,
        knock_after=knock_after,
        other_unit_after=0 if after is None else _whole("--inches-after", after),
    )
    return SimulatedInstrument(
        Rig.of(engine),
        on,
        vices,
        turn_deg_s=number_of("--turn", options.turn, -3600.0, 3600.0),
        seed=_whole("--seed", options.seed),
        late_deg=number_of("--late", options.late, -90.0, 90.0),
    )


def _whole(option: str, text: str) -> int:
    if not (text.isascii() and text.isdigit() and len(text) < 10):
        raise UsageError(f"{option} must be a whole number, not {text[:20]!r}")
    return int(text)


def _knock(text: str | None) -> tuple[float, int]:
    if text is None:
        return 0.0, 0
    deg, at, lines = text.partition("@")
    if not at:
        raise UsageError(f"--knock must be like 3@200, not {text[:20]!r}")
    return number_of("--knock", deg, -180.0, 180.0), max(_whole("--knock", lines), 1)


def _port(text: str) -> int:
    port = _whole("--tcp", text)
    if port > 65535:
        raise UsageError(f"--tcp must be from 0 to 65535, not {port}")
    return port


def _say(words: str) -> None:
    print(words, flush=True)


def _serve_pty(instrument: SimulatedInstrument, end: float | None) -> None:
    """A serial port without hardware: whoever opens its name reads the lines."""
    ours, theirs = os.openpty()
    tty.setraw(theirs)
    os.set_blocking(ours, False)
    _say(os.ttyname(theirs))

    def send(data: bytes) -> bool:
        with contextlib.suppress(BlockingIOError):
            os.write(ours, data)
        return True

    def take() -> bytes | None:
        return os.read(ours, MOST_CHUNK)

    try:
        _talk(instrument, ours, send, take, end)
    finally:
        os.close(ours)
        os.close(theirs)


def _serve_tcp(instrument: SimulatedInstrument, port: int, end: float | None) -> None:
    """A network line on this machine alone; when one program goes, the next may come."""
    with socket.socket() as server:
        server.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            server.bind(("127.0.0.1", port))
        except OSError as error:
            raise UsageError(f"--tcp {port} cannot be used ({error.strerror})") from None
        server.listen(1)
        _say(f"127.0.0.1:{server.getsockname()[1]}")
        while end is None or time.monotonic() < end:
            left = 1.0 if end is None else max(end - time.monotonic(), 0.0)
            ready, _, _ = select.select([server], [], [], min(left, 1.0))
            if ready:
                line, _ = server.accept()
                with line:
                    _serve_one(instrument, line, end)


def _serve_one(instrument: SimulatedInstrument, line: socket.socket, end: float | None) -> None:
    def send(data: bytes) -> bool:
        try:
            line.sendall(data)
        except OSError:
            return False
        return True

    def take() -> bytes | None:
        try:
            return line.recv(MOST_CHUNK) or None
        except OSError:
            return None

    _talk(instrument, line.fileno(), send, take, end)


def _talk(
    instrument: SimulatedInstrument,
    handle: int,
    send: Callable[[bytes], bool],
    take: Callable[[], bytes | None],
    end: float | None,
) -> None:
    """Send what time brings, obey what comes; until the other side goes or the time is up."""
    last = time.monotonic()
    while end is None or time.monotonic() < end:
        ready, _, _ = select.select([handle], [], [], TICK_S)
        if ready:
            try:
                data = take()
            except OSError:
                data = b""  # nobody has the terminal open
                time.sleep(TICK_S)
            if data is None:
                return
            instrument.heard(data)
        now = time.monotonic()
        lines = instrument.passed(min(now - last, 1.0))
        last = now
        if lines and not send(lines):
            return
