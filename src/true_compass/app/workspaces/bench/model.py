"""What is in the hand at the bench: actions go through the session, which owns every fact."""

from dataclasses import dataclass
from typing import Any, Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.desk import Desk
from true_compass.bench.state import RefusedError, cover_of, plug
from true_compass.core.adjusting.setting import Setting
from true_compass.core.crank.layout import Form
from true_compass.drawing.scene import Place
from true_compass.session.bench import OnBench

Answer = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Tool:
    """One tool or hand: its letter, its word, the kinds of place that take it, and a sentence."""

    slug: str
    letter: str
    word: str
    goes_on: tuple[str, ...]
    sentence: str


HANDS: Final = (
    Tool("thumb", "T", "Thumb", ("hole",), "Thumb: any open plug hole, then turn."),
    Tool("wiggle", "R", "Rockers", ("rocker",), "Rockers: both of the cylinder you press."),
    Tool("spin", "N", "Spin a rod", ("rocker",), "Two fingers: the push rod you press."),
    Tool("look", "M", "Marks", ("damper",), "Eyes: press the damper, the gears or the rotor."),
)
TOOLS: Final = (
    Tool("line", "L", "Soft line", ("hole",), "Soft line: any open plug hole."),
    Tool("stop", "O", "Stop", ("hole",), "Positive stop: any open plug hole. Touch it gently."),
    Tool("wheel", "G", "Wheel", ("damper",), "Degree wheel: press the damper to read it."),
    Tool("dial", "A", "Dial", ("hole", "rocker"), "Dial: an open plug hole, or a valve."),
    Tool("blades", "F", "Blades", ("rocker",), "Blades: the valve you press."),
    Tool("lift", "U", "Lift", ("rocker",), "Hand: lift the rod or the rocker you press."),
)
ALL_TOOLS: Final = (*HANDS, *TOOLS)
BY_SLUG: Final = {tool.slug: tool for tool in ALL_TOOLS}
STOP_MM: Final = 1.0
GENTLE_DEG: Final = 2.0
FELT: Final = ("wiggle", "lift", "spin", "feeler", "go-no-go", "thumb", "line", "bridge", "height")
"""What whoever feels finds out; all else is seen by whoever turns."""


class BenchModel(QObject):
    """The bench as its views see it."""

    changed = pyqtSignal()
    said = pyqtSignal(str)
    page_wanted = pyqtSignal(str)

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self._session = desk.session
        self.hand: Tool | None = None
        self.thumb = 0
        self.item = ""
        self.row_shown = 0
        self.cylinder = 1
        self.sentence = ""
        self.refused = ""
        self.no_play_deg: dict[str, float] = {}
        self.role = ""
        self.foretold = ""
        self.swap_from = ""
        self.asked_untouched = False
        desk.bridge.bench_changed.connect(self.changed)

    @property
    def bench(self) -> OnBench | None:
        """What is on the bench."""
        return self._session.state.bench

    @property
    def begun(self) -> OnBench:
        """What is on the bench; something is."""
        assert self._session.state.bench is not None
        return self._session.state.bench

    @property
    def in_lesson(self) -> bool:
        """Whether this run, now finished, is what the lesson that is worked through asked for."""
        lesson, bench = self._session.state.lesson, self.bench
        # Asked at every action; nothing is worked out until the run is finished.
        if lesson is None or lesson.over or bench is None or bench.verdict is None:
            return False
        return lesson.scenario == bench.run.work.scenario

    def do(self, word: str, **keys: Any) -> Answer | None:
        """Do an action; its answer, or None where it was refused and that was said."""
        if self.bench is None:
            return None
        before = self.sentence, self.refused
        # Views paint at the session's own signal: the sentence of the action before is over.
        self.refused = ""
        self.sentence = self.hand.sentence if self.hand is not None else ""
        try:
            return self._session.bench_do({"do": word, **keys})
        except RefusedError as error:
            self.sentence = self.refused = str(error)
            if before != (self.sentence, self.refused):
                self.said.emit(self.sentence)
            self.changed.emit()
            return None

    # Tools -----------------------------------------------------------------------------------

    def take(self, tool: Tool | None) -> None:
        """Take a tool into the hand, or put it back."""
        self.hand = None if tool is self.hand else tool
        self.foretold = ""
        self.sentence = self.hand.sentence if self.hand else ""
        self.changed.emit()

    def put_back(self) -> bool:
        """Put back what is in the hand; whether there was anything."""
        if self.thumb:
            self.thumb = 0
            self.changed.emit()
            return True
        had = self.hand is not None
        self.hand, self.sentence = None, ""
        self.changed.emit()
        return had

    def accepts(self, place: Place) -> bool:
        """Whether the tool in the hand goes to a place."""
        if self.hand is None or place.kind not in self.hand.goes_on:
            return False
        return not place.cylinder or self.reaches(place.cylinder)

    def press(self, place: Place) -> None:
        """Use the hand at a place: a tool there, or take it off and put it on."""
        if place.cylinder:
            if not self.reaches(place.cylinder):
                self.say("Eyes reach both sides, hands one. Walk round first: V.")
                return
            self.cylinder = place.cylinder
        looks = place.kind in ("cap", "front cover") and self._is_off(place)
        if self.hand is not None and self.hand.slug == "look" and looks:
            self._look_at(place)
        elif self.accepts(place):
            self._use(place)
        elif place.kind == "rocker" and self.hand is None:
            self.open_item(place.item)
        elif place.kind == "damper":
            self.do("look", at="marks")
        elif self.hand is not None and place.kind not in ("cover", "hole", "cap", "front cover"):
            self.say(f"{self.hand.word} does not go there. {self.hand.sentence}")
        else:
            self._toggle(place)

    def stands_at(self) -> int:
        """The bank (from 0) at which one stands at a flat engine; the only one elsewhere."""
        layout = self.begun.run.work.engine.layout
        banks = layout.banks_in_use
        return banks[self.row_shown % len(banks)]

    def reaches(self, cylinder: int) -> bool:
        """Whether a hand reaches a cylinder: at a flat engine only those of the side it is on."""
        layout = self.begun.run.work.engine.layout
        if layout.form is not Form.FLAT:
            return True
        return layout.seats[cylinder - 1].bank == self.stands_at()

    def say(self, sentence: str) -> None:
        """Say a sentence in the place of the tool's own."""
        self.sentence = sentence
        self.changed.emit()

    def part_of(self, place: Place) -> str:
        """The part that a place is of: `plug 3`, `cover A`, `cap`."""
        if place.kind == "hole":
            return plug(place.cylinder)
        if place.kind == "cover":
            return cover_of(self.begun.run.work, place.cylinder)
        return place.kind

    def _is_off(self, place: Place) -> bool:
        return self.part_of(place) not in self.begun.run.state.parts_on

    def _toggle(self, place: Place) -> None:
        part = self.part_of(place)
        if place.kind in ("cap", "front cover") and self._is_off(place):
            self._look_at(place)
        else:
            self.do("on" if self._is_off(place) else "off", part=part)

    def _look_at(self, place: Place) -> None:
        self.do("look", at="rotor" if place.kind == "cap" else "cam marks")

    def _use(self, place: Place) -> None:
        assert self.hand is not None
        slug, cylinder = self.hand.slug, place.cylinder
        if slug == "thumb":
            if plug(cylinder) in self.begun.run.state.parts_on:
                self.say(f"Plug {cylinder} is in: take it out first.")
                return
            self.thumb = 0 if self.thumb == cylinder else cylinder
            self.say("Turn now: the thumb stays on the hole." if self.thumb else "")
        elif slug == "wiggle":
            for setting in self.valves_of(cylinder):
                self._foretell("wiggle", setting.name)
                if self.do("wiggle", item=setting.name) is None:
                    return
        elif slug in ("spin", "lift"):
            self._foretell(slug, place.item)
            self.do(slug, item=place.item)
        elif slug == "look":
            self.do("look", at="marks")
        elif slug == "line":
            self.do("line", cylinder=cylinder)
        elif slug == "stop":
            self.do("stop", cylinder=cylinder, depth_mm=STOP_MM)
        elif slug == "wheel":
            self.do("wheel")
        elif slug == "dial":
            on = f"piston {cylinder}" if place.kind == "hole" else f"valve {place.item}"
            if self.do("indicator", on=on) is not None:
                self.do("zero")
                self.do("read")
        elif slug == "blades":
            self.open_item(place.item)

    def _foretell(self, word: str, item: str) -> None:
        """Say what the next look will tell, if somebody has said it."""
        if self.foretold:
            said = f"{self.foretold}, true" if word == "spin" else self.foretold
            self.do("foretell", next=word, item=item, says=said)

    def foretell(self, word: str) -> None:
        """Say what the look in hand will tell, or take that back."""
        self.foretold = "" if word == self.foretold else word
        self.changed.emit()

    def hand_over(self, role: str) -> None:
        """Another person takes the role: one turns, one feels."""
        if self.do("hand over", role=role) is not None:
            self.role = role
            self.put_back()

    def hides(self, do: str) -> bool:
        """Whether a reading is the other person's: it is for them to say it."""
        felt = do in FELT
        return (self.role == "turns" and felt) or (self.role == "feels" and not felt)

    def valves_of(self, cylinder: int) -> list[Setting]:
        """The valve items of a cylinder."""
        settings = self.begun.run.work.settings
        return [s for s in settings if s.item.cylinder == cylinder and s.item.is_valve]

    @property
    def setting(self) -> Setting:
        """The item in hand, or the first."""
        work = self.begun.run.work
        return work.settings[work.place.get(self.item, 0)]

    def open_item(self, name: str) -> None:
        """Go to the page where an item is measured and set."""
        if name:
            self.item, self.refused = name, ""
            self.page_wanted.emit("set")

    # Turning ---------------------------------------------------------------------------------

    def bar(self, by_deg: float) -> None:
        """Turn, with the thumb on a hole if it is there; what is live is read again."""
        if self.bench is None or self.begun.verdict is not None:
            return
        if self.role == "feels":
            self.say("The other person turns. Hand over first.")
            return
        if self.thumb:
            done = self.do("thumb", cylinder=self.thumb, deg=by_deg)
        elif self.begun.run.state.stop is not None and abs(by_deg) > GENTLE_DEG:
            done = self.do("touch", deg=by_deg)
        else:
            done = self.do("bar", deg=by_deg)
        if done is not None:
            self._read_live()

    def _read_live(self) -> None:
        state = self.begun.run.state
        if state.line:
            self.do("line", cylinder=state.line)
        if state.dial is not None and not state.dial.knocked:
            self.do("read")
        if any(reading.action["do"] == "wheel" for reading in self.begun.readings):
            self.do("wheel")

    def rock(self) -> None:
        """Rock it 5° on and back."""
        self.do("rock", deg=5.0)

    def chalk(self) -> None:
        """Chalk the damper here."""
        self.do("chalk")


def counted_words(bench: OnBench | None) -> tuple[str, str]:
    """What the turn bar may say: degrees since the chalk, or that there is none."""
    if bench is None:
        return "–", "no engine here"
    state = bench.run.state
    if state.chalk_deg is None:
        return "?", "nothing chalked yet"
    turned = round(state.crank_deg - state.chalk_deg, 1)
    return f"{turned:+g}°".replace("-", "−"), "since you chalked it"
