"""A line to an instrument: over the network or a serial port, read without ever waiting.

What is told wrong is kept as a few sentences; what was read stays, whatever happens to the line.
However much comes in, the window reads a bite of it at a time, and lets go of what is older than
what it can still read.
"""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Final

from PyQt6.QtCore import QIODevice, QObject, QTimer, pyqtSignal
from PyQt6.QtNetwork import QAbstractSocket, QTcpSocket

from true_compass.instrument.line import Fault, LineReader, Reading, Told, What, written
from true_compass.instrument.simulated import SimulatedInstrument

SILENT_MS: Final = 2000
SHOW_MS: Final = 33
TICK_MS: Final = 40
"""How often a simulated instrument sends what it has."""
MOST_TOLD: Final = 6
BITE_BYTES: Final = 4_096
MOST_WAITING_BYTES: Final = 65_536
"""More than this is not kept waiting: about a second of the fastest serial line."""
FLOOD: Final = 2_000
"""So many lines a second are ten times what any instrument needs."""
BAUD: Final = 115_200


@dataclass(slots=True)
class Rate:
    """What came in within a second. `told` tells that a flood was spoken of before."""

    lines: int = 0
    faults: int = 0
    told: bool = False

    @property
    def is_flood(self) -> bool:
        """Whether it is more than can be read."""
        return self.lines > FLOOD

    def flood_words(self) -> str:
        """What is said of a flood, once."""
        if not self.is_flood or self.told:
            return ""
        about = float(f"{self.lines:.0e}")
        told = f"{about:,.0f} lines a second"
        if self.faults * 2 > min(self.lines, 2 * FLOOD):
            return f"{told}, most are not readings: is this the right line, and its speed right?"
        return f"{told} come in, more than can be read: set the instrument to 50 to 200."


class LiveLine(QObject):
    """One line. `sample` is told for each pair of dial and encoder, `shown` at most 30 times a
    second for whoever paints."""

    sample = pyqtSignal(float, float)
    """Crank degrees by the encoder, mm by the dial."""
    shown = pyqtSignal()
    told_changed = pyqtSignal()

    def __init__(
        self, parent: QObject | None = None, now: Callable[[], datetime] = datetime.now
    ) -> None:
        super().__init__(parent)
        self._now = now
        self.simulated: SimulatedInstrument | None = None
        self.lost_at = ""
        """When the line was lost, as a clock shows it; its last figures stay to be seen."""
        self._tick = QTimer(self)
        self._tick.setInterval(TICK_MS)
        self._tick.timeout.connect(self._on_tick)
        self._device: QIODevice | None = None
        self._reader = LineReader()
        self._number = 0
        self.lift_mm: float | None = None
        self.crank_deg: float | None = None
        self.readings = 0
        self.told: list[str] = []
        self.address = ""
        self._silent = QTimer(self)
        self._silent.setSingleShot(True)
        self._silent.setInterval(SILENT_MS)
        self._silent.timeout.connect(self._on_silence)
        self._bite = QTimer(self)
        self._bite.setSingleShot(True)
        self._bite.setInterval(0)
        self._bite.timeout.connect(self._on_bite)
        self._rate = Rate()
        self._second = QTimer(self)
        self._second.setInterval(1000)
        self._second.timeout.connect(self._on_second)
        self._show = QTimer(self)
        self._show.setSingleShot(True)
        self._show.setInterval(SHOW_MS)
        self._show.timeout.connect(self.shown)

    @property
    def is_open(self) -> bool:
        """Whether a line is open, or about to be."""
        return self._device is not None or self.simulated is not None

    def open(self, address: str) -> None:
        """Open `127.0.0.1:4000`, or the name of a serial port such as `/dev/ttyUSB0`."""
        self.close()
        self.address = address = address.strip()
        host, colon, port = address.rpartition(":")
        if colon and port.isdigit() and 0 < int(port) < 65536:
            self._open_tcp(host or "127.0.0.1", int(port))
        elif address.startswith("/") or address.upper().startswith("COM"):
            self._open_serial(address)
        else:
            self.tell("Type an address such as 127.0.0.1:4000, or a port such as /dev/ttyUSB0.")

    def _open_tcp(self, host: str, port: int) -> None:
        socket = QTcpSocket(self)
        self._begin(socket)
        socket.errorOccurred.connect(self._on_socket_error)
        socket.connectToHost(host, port)

    def _open_serial(self, name: str) -> None:
        from PyQt6.QtSerialPort import QSerialPort  # few machines have a serial port

        port = QSerialPort(name, self)
        port.setBaudRate(BAUD)
        if not port.open(QIODevice.OpenModeFlag.ReadWrite):
            self.tell(f"{name} cannot be opened: {port.errorString()}.")
            port.deleteLater()
            return
        port.errorOccurred.connect(self._on_serial_error)
        self._begin(port)

    def practise(self, instrument: SimulatedInstrument) -> None:
        """Read an instrument that is not there, by the same lines; or have it moved elsewhere."""
        if self.simulated is None:
            self.close()
            self.address, self.lost_at = "", ""
            self._tick.start()
        self.simulated, self._reader = instrument, LineReader()
        self.lift_mm = None
        self.shown.emit()

    def _on_tick(self) -> None:
        if self.simulated is not None:
            self._take_in(self.simulated.passed(TICK_MS / 1000.0))

    def _begin(self, device: QIODevice) -> None:
        self._device, self._reader = device, LineReader()
        self.lift_mm, self.crank_deg, self.lost_at = None, None, ""
        self._rate = Rate()
        device.readyRead.connect(self._on_bytes)
        self._silent.start()
        self._second.start()
        self.shown.emit()

    def close(self) -> None:
        """Close the line; what was read stays."""
        device, self._device = self._device, None
        self.simulated = None
        for timer in (self._tick, self._silent, self._second, self._bite):
            timer.stop()
        if device is not None:
            device.readyRead.disconnect(self._on_bytes)
            device.close()
            device.deleteLater()
            self.shown.emit()

    def turn_by(self, deg: float) -> None:
        """Ask an instrument that can to turn the engine."""
        line = written(self._number, What.TURN, deg)
        self._number += 1
        if self.simulated is not None:
            self.simulated.heard(line)
        elif self._device is not None and self._device.isOpen():
            self._device.write(line)

    # What comes -------------------------------------------------------------------------------

    def _on_bytes(self) -> None:
        self._silent.start()
        if not self._bite.isActive():
            self._on_bite()

    def _on_bite(self) -> None:
        device = self._device
        if device is None:
            return
        self._silent.start()
        self._take_in(device.read(BITE_BYTES))
        waiting = device.bytesAvailable()
        if waiting > MOST_WAITING_BYTES:
            self._rate.lines += device.readAll().count(b"\n")
        elif waiting:
            self._bite.start()

    def _on_second(self) -> None:
        """Say once that more comes in than anybody can read."""
        words = self._rate.flood_words()
        self._rate = Rate(told=bool(words) or self._rate.is_flood)
        if words:
            self.tell(words)

    def _take_in(self, data: bytes) -> None:
        told: dict[Fault, Told] = {}
        for one in self._reader.feed(data):
            if isinstance(one, Told):
                told[one.fault] = one
                self._rate.faults += 1
            else:
                self.take(one)
        self._rate.lines += data.count(b"\n")
        # Of many of a kind in one bite the last one is enough.
        for one in () if self._rate.told else told.values():
            self.tell(one.sentence)
        if not self._show.isActive():
            self._show.start()

    def take(self, reading: Reading) -> None:
        """One reading that came over the line."""
        self.readings += 1
        if reading.what is What.LIFT:
            self.lift_mm = reading.value
        elif reading.what is What.CRANK:
            self.crank_deg = reading.value
            if self.lift_mm is not None:
                self.sample.emit(reading.value, self.lift_mm)

    def _on_silence(self) -> None:
        if self._device is not None:
            self.tell("The line is silent. What was read stays; the next reading goes on.")

    def _on_socket_error(self, _error: QAbstractSocket.SocketError) -> None:
        socket = self._device
        words = socket.errorString() if socket is not None else "closed"
        self._lost(f"{self.address}: {words}. What was read stays.")

    def _on_serial_error(self, error: object) -> None:
        from PyQt6.QtSerialPort import QSerialPort

        if error != QSerialPort.SerialPortError.NoError:
            self._lost(f"{self.address} was lost. What was read stays.")

    def _lost(self, sentence: str) -> None:
        self.lost_at = f"{self._now():%H:%M}"
        self.close()
        self.tell(sentence)

    def tell(self, sentence: str) -> None:
        """Keep a sentence about the line, the newest last."""
        if not self.told or self.told[-1] != sentence:
            self.told = [*self.told[-MOST_TOLD + 1 :], sentence]
        self.told_changed.emit()
