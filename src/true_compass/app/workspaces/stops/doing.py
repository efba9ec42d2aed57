"""Do it: what is read at the adjuster that is due, what that asks for, and what comes next."""

from dataclasses import dataclass, replace
from enum import Enum, auto
from typing import Final

from true_compass.app.workspaces.stops.model import StopsModel
from true_compass.book.brackets import most_mm
from true_compass.book.entering import entered, final_reading, reading_name, typed_as
from true_compass.book.job import ItemRecord, Job
from true_compass.book.work import AFTER_NUT, FOUND, Verdict, asks, verdict
from true_compass.book.work import LEFT as LEFT_AS
from true_compass.core.adjusting.advice import warning
from true_compass.core.adjusting.setting import Setting, Way, setting_of
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.units import ImplausibleGapError, band_words
from true_compass.core.words import counted
from true_compass.session.work import LEFT, OFF, OFF_HEEL, SET


@dataclass(frozen=True, slots=True)
class Typed:
    """What was typed for a reading: the job with it, or the sentence that says why it is not taken.

    `asked_back` tells that Return takes it as it is; `advice` is what the reading asks for.
    """

    job: Job | None = None
    advice: tuple[str, ...] = ()
    refused: str = ""
    asked_back: bool = False


class Act(Enum):
    """What the dark button does."""

    TAKE = auto()
    SET = auto()
    LEAVE = auto()
    TURN = auto()
    USE = auto()
    SET_THOSE = auto()
    NUT = auto()
    NOTHING = auto()


@dataclass(frozen=True, slots=True)
class Next:
    """The next thing to do, as the dark button says it."""

    act: Act
    words: str


class Stage(Enum):
    """Which reading of an adjuster is due."""

    FOUND = auto()
    AFTER = auto()
    READ = auto()


class Doing:
    """The adjuster in hand, held against the job of today. All it knows is in the session."""

    def __init__(self, model: StopsModel) -> None:
        self.model = model

    @property
    def setting(self) -> Setting | None:
        """What is due."""
        return self.model.round.next_setting

    def record(self, setting: Setting) -> ItemRecord:
        """What the job of today says of it."""
        return self.model.job.record(setting.item)

    def stage(self, setting: Setting) -> Stage:
        """As found first; on a round that sets, measured again after the nut."""
        record = self.record(setting)
        if record.found is None:
            return Stage.FOUND
        read = record.reading(final_reading(setting)) is not None
        return Stage.READ if read or self.model.checking else Stage.AFTER

    def which(self, setting: Setting) -> str:
        """The reading of the job that is asked for. What was only checked is as found still."""
        record = self.record(setting)
        untouched = self.model.checking and not record.was_set
        return FOUND if record.found is None or untouched else final_reading(setting)

    def asked_words(self, setting: Setting | None) -> str:
        """What the field asks for: `as found, mm`."""
        unit = self.model.rig.engine.gap_unit
        if setting is None:
            return f"measured, {unit.value}"
        return f"{_FIELD[self.which(setting)]}, {typed_as(setting, unit)}"

    def read(self, text: str, *, sure: bool = False) -> Typed:
        """What was typed, as it would enter the job; nothing is written."""
        setting, model = self.setting, self.model
        if setting is None or not text.strip():
            return Typed()
        which = self.which(setting)
        job = model.job
        try:
            record = entered(setting, job, which, text, sure=sure)
        except ImplausibleGapError as error:
            told = f"{reading_name(setting, which)} {error}."
            if error.gap_mm > most_mm(setting.name):
                return Typed(refused=f"{told} Type the one that is meant, with its unit.")
            return Typed(refused=f"{told} Return takes it as it is.", asked_back=True)
        except EngineError as error:
            return Typed(refused=f"{error.in_words}.")
        measure = record.found if which == FOUND else record.final
        assert measure is not None
        # A plunger's turns say nothing about where the lobe stands.
        gap_mm = measure.gap.high if measure.gap and setting.way is Way.GAP else None
        off = self.warning(setting.item, gap_mm)
        if off and not model.doubted_here(setting.item):
            return Typed(job.with_item(setting.item, record), (off,), asked_back=True)
        return Typed(job.with_item(setting.item, record), (off,) if off else self.asks(job, record))

    def warning(self, item: Item, gap_mm: float | None) -> str:
        """Why no screw is touched here. A sweep puts its preload on wherever the crank stands."""
        model = self.model
        if model.plan is not None and model.plan.swept:
            return ""
        return warning(model.rig, item, model.session.state.crank_deg, gap_mm)

    def asks(self, job: Job, record: ItemRecord) -> tuple[str, ...]:
        """What a reading asks for; on a round that only checks, no screw is turned."""
        setting = self.setting
        assert setting is not None
        measure = record.final if record.was_set else record.found
        if measure is None:
            return ()
        target = job.target(setting.item)
        if not self.model.checking:
            return tuple(asks(setting, target, measure, job.unit))
        told = verdict(target, measure)
        if told is Verdict.IN_BAND or target is None or target.band_mm is None:
            return tuple(asks(setting, target, measure, job.unit))[:1]
        first = asks(setting, target, measure, job.unit)[0]
        band = band_words(target.band_mm, job.unit)
        return (first, f"Out of the band, {band}: note it and go on. Nothing is turned this round.")

    # What is known of the adjuster in hand ----------------------------------------------------

    def judged(self, setting: Setting) -> Verdict:
        """How the newest reading of an item lies to its band; unknown where there is none."""
        return verdict(self.model.job.target(setting.item), self.record(setting).newest)

    def standing_words(self, setting: Setting) -> list[str]:
        """What was read of it so far, with what that asks for."""
        record, job = self.record(setting), self.model.job
        if record.found is None:
            return []
        words = [f"As found: {record.found.words}."]
        if record.again is not None:
            words.append(f"Measured again: {record.again.words}.")
        return [*words, *self.asks(job, record)]

    def why_not_left(self, setting: Setting) -> str:
        """Why an item cannot be noted as in its band; nothing where it can."""
        told, measure = self.judged(setting), self.record(setting).newest
        if told not in (Verdict.TIGHT, Verdict.WIDE):
            return ""
        assert measure is not None
        return (
            f"{setting.name} measured {measure.words}: out of its band, too {told.value}. Set it, "
            "or measure again."
        )

    # What comes next --------------------------------------------------------------------------

    def next(self, typed: str, turn: str) -> Next:
        """What the dark button does: the next thing to do. `typed` stands in the field, `turn` is
        the turn to this stop or to the next one, or nothing.
        """
        model = self.model
        if model.usable is None:
            other = model.instead
            return Next(Act.USE, f"Use: {other}") if other else Next(Act.NOTHING, "No safe method")
        if model.round.finished:
            return self._last()
        if typed.strip():
            return Next(Act.TAKE, "Take the reading")
        stop, setting = model.round.stop, self.setting
        assert stop is not None
        if stop.loose_now and not model.round.is_done(model.place + 1):
            return Next(Act.SET, "Tick this quarter: taken up")
        if turn and (setting is None or not (model.plan and model.plan.swept)):
            return Next(Act.TURN, turn)
        if setting is None:
            return Next(Act.NOTHING, "This stop is done")
        name, told = setting.name, self.judged(setting)
        good = told is Verdict.IN_BAND and not self.record(setting).was_set
        if good or (model.checking and told is Verdict.UNKNOWN):
            return Next(Act.LEAVE, f"Leave {name}: in band")
        words = f"Note {name}: out of band" if model.checking else f"Tick {name} as set"
        return Next(Act.SET, words)

    def _last(self) -> Next:
        model = self.model
        if model.round.to_set:
            return Next(Act.SET_THOSE, f"Set those: {counted(len(model.round.to_set), 'item')}")
        nut = self.next_nut
        if nut is not None:
            return Next(Act.NUT, f"Tick {nut.name}: torqued, striped")
        return Next(Act.NOTHING, "All is done")

    # The last round ---------------------------------------------------------------------------

    @property
    def nuts(self) -> list[Setting]:
        """What gets the torque wrench at the end: every locknut that was slackened on this round.

        Pedestals and the clamps of injectors are torqued at their own stop, on the heel.
        """
        model = self.model
        return [
            setting
            for deed in model.round.deeds
            if isinstance(deed, Item) and model.work.how(deed) in (SET, OFF_HEEL)
            for setting in [setting_of(model.rig.engine, deed)]
            if setting.nut_in_last_round
        ]

    @property
    def next_nut(self) -> Setting | None:
        """The next nut of the last round without torque or stripe."""
        open_ones = (one for one in self.nuts if not self._is_round(self.record(one)))
        return next(open_ones, None)

    @staticmethod
    def _is_round(record: ItemRecord) -> bool:
        return record.torqued and record.stripe

    def with_nut(self, setting: Setting, job: Job, *, torqued: bool, stripe: bool) -> Job:
        """The job with a nut ticked: torqued to what the file says, and striped."""
        nm = setting.tools.torque_nm if torqued else 0.0
        record = replace(job.record(setting.item), torqued=torqued, torque_nm=nm, stripe=stripe)
        return job.with_item(setting.item, record)

    def how_after(self, setting: Setting) -> str | None:
        """How a reading that was just taken ticks the item; None where a hand has still to act."""
        told, checking = self.judged(setting), self.model.checking
        if checking and told is not Verdict.UNKNOWN:
            return LEFT if told is Verdict.IN_BAND else OFF
        read = self.stage(setting) is Stage.READ
        return SET if read and not checking and told in _GOOD else None


_FIELD: Final = {FOUND: "as found", LEFT_AS: "as left", AFTER_NUT: "after nut"}
"""What the field asks for, in as many words as it has room for."""
_GOOD: Final = (Verdict.IN_BAND, Verdict.UNKNOWN)
