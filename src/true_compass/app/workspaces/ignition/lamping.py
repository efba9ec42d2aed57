"""Where the engine runs, and what is read there: speed, depression, hose, and the readings."""

from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.workspaces.ignition.model import IgnitionModel
from true_compass.core.ignition.advance import Parts, parts_at, three_places
from true_compass.core.ignition.cap import turn_words
from true_compass.core.ignition.lamp import (
    Asked,
    Found,
    How,
    Reading,
    Suspect,
    found,
    should_read_deg,
    usual_row,
)
from true_compass.core.limits import EngineError
from true_compass.core.spark import Advance
from true_compass.core.units import parse_number


class Lamping(QObject):
    """The lamp in a hand. Speed and depression are of the moment; readings are kept."""

    changed = pyqtSignal()

    def __init__(self, model: IgnitionModel, parent: QObject) -> None:
        super().__init__(parent)
        self.model = model
        self.refused = ""
        self._known: tuple[Advance, tuple[Reading, ...], Found] | None = None
        self._begin()
        model.changed.connect(self._on_change)
        model.dragged.connect(self.changed)

    def _begin(self) -> None:
        """Idle, hose off, and the depression at cruise in hand, as on another engine."""
        self._source = self.model.desk.session.state.source
        self.asked = usual_row(self.advance)[0]
        self.mbar = three_places(self.advance)[1].depression_mbar

    def _on_change(self) -> None:
        if self.model.desk.session.state.source != self._source:
            self._begin()
        self.refused = ""
        self.changed.emit()

    @property
    def advance(self) -> Advance:
        """The advance of the open engine, as its book has it."""
        return self.model.engine.spark.advance

    @property
    def found(self) -> Found:
        """What the readings point to."""
        advance, readings = self.advance, self.model.bay.readings
        if self._known is None or self._known[0] is not advance or self._known[1] is not readings:
            self._known = (advance, readings, found(advance, readings))
        return self._known[2]

    @property
    def shows_deg(self) -> float:
        """What the lamp shows now, as things stand on this engine."""
        return self.model.standing.lamp_deg(self.asked)

    @property
    def should_deg(self) -> float:
        """What it should show."""
        return should_read_deg(self.advance, self.asked)

    @property
    def parts(self) -> Parts:
        """What the advance is made of at this speed and depression."""
        return parts_at(self.advance, self.asked.speed_rpm, self.asked.at_can_mbar)

    # Moving about -----------------------------------------------------------------------------

    def ask(self, asked: Asked) -> None:
        """Another reading is to be taken."""
        if asked.how is How.LAMP and asked.hose_on:
            self.mbar = asked.depression_mbar
        self.asked, self.refused = asked, ""
        self.changed.emit()

    def set_speed(self, rpm: float) -> None:
        """Run faster or slower."""
        self._put(replace(self._under_lamp, speed_rpm=rpm))

    def set_depression(self, mbar: float) -> None:
        """Another depression in the manifold."""
        self.mbar = mbar
        self._put(self._under_lamp)

    def set_hose(self, on: bool) -> None:
        """The hose on, or off and plugged."""
        self._put(replace(self._under_lamp, hose_on=on))

    def toggle_hose(self) -> None:
        """The hose on or off."""
        self.set_hose(not self.asked.hose_on)

    @property
    def _under_lamp(self) -> Asked:
        return self.asked if self.asked.how is How.LAMP else usual_row(self.advance)[0]

    def _put(self, asked: Asked) -> None:
        self.ask(replace(asked, depression_mbar=self.mbar if asked.hose_on else 0.0))

    def set_idle(self) -> None:
        """The speed at which the initial is set, hose off."""
        self.ask(usual_row(self.advance)[0])

    # Readings ---------------------------------------------------------------------------------

    def keep(self, text: str) -> bool:
        """Keep what was read here; whether it could be taken."""
        asked = self.asked
        try:
            read = parse_number("reading", text)
        except EngineError as error:
            return self._refuse(f"The reading {error}.")
        least, most = (-90.0, 90.0) if asked.how is not How.PUMP else (0.0, 1.0)
        if not least <= read <= most:
            return self._refuse(f"The reading must be from {least:g} to {most:g}°, not {read:g}.")
        kept = [one for one in self.model.bay.readings if one.asked != asked]
        readings = (*kept, Reading(asked, read))
        self.model.write(f"reading at {asked.title}", readings=readings)
        following = self.found.next_row
        if following is not None:
            self.ask(self.found.rows[following].asked)
        return True

    def _refuse(self, sentence: str) -> bool:
        self.refused = sentence
        self.changed.emit()
        return False

    def forget(self) -> None:
        """Take all readings off."""
        self.model.write("forgetting the readings", readings=())
        self.set_idle()

    @property
    def turn_words(self) -> str:
        """How far and which way, where the setting is all that is wrong; else nothing."""
        if self.found.left != (Suspect.SETTING,) or not self.model.engine.has_rotor:
            return ""
        read = next(
            row for row in self.found.rows if row.asked.how is How.LAMP and row.read is not None
        )
        assert read.read is not None
        return turn_words(self.model.engine, read.should - read.read)

    def into_the_book(self) -> str:
        """Write the lamp's readings into the job of the day; what was done, as a sentence."""
        from true_compass.book.spark import with_spark  # opening the page need not wait for it

        desk = self.model.desk
        keeper = desk.book()
        if keeper.book is None:
            return keeper.refusal
        job = keeper.job_now("ignition")
        desk.session.write_job(with_spark(job, self.model.bay.readings), "readings of the spark")
        return "The readings stand in today's job in the Book: first found, then left."

    def repair(self) -> None:
        """Mend what the readings point to, where it is one thing."""
        left = self.found.left
        if len(left) == 1:
            self.model.repair(left[0])
            self.set_idle()
