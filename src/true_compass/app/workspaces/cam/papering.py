"""What is printed from the Cam: sizes as they are typed, the proof of each printer, the sheets.

The last good size goes on where a wrong one is typed: the picture stays, and a sentence says why.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from enum import Enum
from typing import TYPE_CHECKING, Any, Final

from PyQt6.QtCore import QObject, pyqtSignal

from true_compass.app.keeping.settings import Remembered
from true_compass.app.workspaces.cam.model import CamModel
from true_compass.core.adjusting.schools import BY_WORD, Choice, NotApplicableError
from true_compass.core.adjusting.stops import Plan
from true_compass.core.degreeing.found import top_found
from true_compass.core.limits import EngineError
from true_compass.core.paper.blades import Blades, parse_blades
from true_compass.core.paper.catalogue import POCKET
from true_compass.core.paper.keyway import Keyway
from true_compass.core.paper.page import parse_page_mm
from true_compass.core.paper.places import check_late
from true_compass.core.paper.proof import LEAST_MM, MOST_MM, PLAIN, Proof, parse_bar_mm
from true_compass.core.paper.tape import (
    Ring,
    Tape,
    parse_teeth,
    tape_of_diameter,
    tape_of_string,
    tape_of_strip,
)
from true_compass.core.paper.wheel import Face, PaperWheel
from true_compass.core.state import Rig
from true_compass.core.units import parse_length_mm, parse_number

if TYPE_CHECKING:
    from true_compass.drawing.documents import Document, Paper
    from true_compass.drawing.paper.sheet import Style

NO_PRINTER: Final = "this printer"
"""What the proof is kept under where the system knows no printer."""
OWN: Final = "Own"
PAPER_WORDS: Final = ("A4", "A3", "Letter", OWN)


class Group(Enum):
    """What the page is about."""

    WHEEL = "Wheel, tape"
    FLYWHEEL = "Flywheel"
    KEYWAY = "Keyway"
    BLADES = "Blades"
    CARDS = "Cards"


class Round(Enum):
    """How it is known how large the damper is."""

    ACROSS = "across"
    STRIP = "by a strip"
    STRING = "by a string"


@dataclass(frozen=True, slots=True)
class Field:
    """Something that is typed: its name on the page, its unit, what stands there at first."""

    name: str
    unit: str = "mm"
    usual: str = ""
    kept: bool = True
    """Whether it is a person's, and outlasts the program; else it is the engine's."""

    @property
    def label(self) -> str:
        """What stands above it, where its heading says the rest."""
        return self.name.removesuffix(" the page")


FIELDS: Final[dict[str, Field]] = {
    "diameter": Field("diameter", usual="180"),
    "hole": Field("hole", usual="20"),
    "damper": Field("damper", kept=False),
    "strip": Field("strip of this paper", kept=False),
    "string": Field("string", kept=False),
    "string_thick": Field("string thick", usual="1"),
    "thick": Field("paper thick", usual="0.10"),
    "late": Field("cast mark late", "°", "0", kept=False),
    "flywheel": Field("flywheel", kept=False),
    "teeth": Field("teeth", "", kept=False),
    "shaft": Field("shaft", usual="25"),
    "key": Field("key", usual="5"),
    "blades": Field("blades", "", kept=True),
    "own": Field("paper", usual="200 x 300"),
    "across": Field("across the page", usual="100"),
    "along": Field("along the page", usual="100"),
}


def _is_texts(value: Any) -> bool:
    return (
        isinstance(value, dict)
        and len(value) <= len(FIELDS)
        and all(isinstance(text, str) and len(text) <= 200 for text in value.values())
    )


def _is_proofs(value: Any) -> bool:
    return isinstance(value, dict) and len(value) <= 40 and all(map(_is_proof, value.values()))


def _is_proof(value: Any) -> bool:
    return (
        isinstance(value, list)
        and len(value) == 2
        and all(isinstance(mm, int | float) and LEAST_MM <= mm <= MOST_MM for mm in value)
    )


def _is_word(value: Any) -> bool:
    return isinstance(value, str) and len(value) <= 200


REMEMBERS: Final = {
    "paper_texts": Remembered({}, _is_texts),
    "paper_proofs": Remembered({}, _is_proofs),
    "paper_printer": Remembered("", _is_word),
    "paper_size": Remembered("A4", lambda value: value in PAPER_WORDS),
}


@dataclass(frozen=True, slots=True)
class Sizes:
    """Everything that was typed, as it was last good."""

    wheel: PaperWheel
    keyway: Keyway
    tape: Tape | None = None
    late_deg: float = 0.0
    flywheel: Tape | None = None
    ring: Ring | None = None
    blades: Blades | None = None
    own_mm: tuple[float, float] = (200.0, 300.0)
    proof: Proof = PLAIN


SAID: Final = {
    "length": ("strip", "string"),
    "string thickness": ("string_thick",),
    "paper thickness": ("thick",),
    "diameter": ("diameter", "damper", "flywheel"),
    "paper width": ("own",),
    "paper height": ("own",),
}
"""Fields of the page that a sentence of the core can be about."""


def _where(said: str, names: tuple[str, ...]) -> str:
    """The field, of those that were read, that a sentence is about."""
    for name in names:
        if said == FIELDS[name].name or name in SAID.get(said, ()):
            return name
    return names[0]


def _safe_plan(rig: Rig, word: str) -> Plan | None:
    """A method's plan on an engine, or None where it has none or an unsafe one."""
    try:
        plan = BY_WORD[word].plan(rig, Choice())
    except NotApplicableError:
        return None
    return plan if plan.safe else None


class Papering(QObject):
    """The page of paper. `printers` gives the names of what the system can print on."""

    changed = pyqtSignal()

    def __init__(self, model: CamModel, printers: Callable[[], list[str]], parent: QObject) -> None:
        super().__init__(parent)
        self.model = model
        self._printers = printers
        self.settings = model.desk.settings
        self.group = Group.WHEEL
        self.face = Face.SPLIT
        self.round = Round.ACROSS
        self.outlines = False
        self.texts = {name: field.usual for name, field in FIELDS.items()}
        self.wrong: dict[str, str] = {}
        self.sizes = Sizes(PaperWheel(), Keyway())
        self._rig: Rig | None = None
        self._planned: tuple[Rig, str, Plan | None] | None = None
        kept: Mapping[str, str] = self.settings.get("paper_texts")
        self.texts |= {name: text for name, text in kept.items() if name in FIELDS}
        self.paper_word: str = self.settings.get("paper_size")
        self.printer: str = self.settings.get("paper_printer")
        self._take_proof()
        model.changed.connect(self._on_model)
        model.desk.bridge.history_changed.connect(self.changed)
        self._on_model()

    # What the engine says -----------------------------------------------------------------------

    @property
    def rig(self) -> Rig:
        """The engine as set."""
        return self.model.rig

    def _on_model(self) -> None:
        if self._rig is self.rig:
            self.changed.emit()  # another cylinder, or a reading more
            return
        engine, old = self.rig.engine, self._rig
        self._rig = self.rig
        if old is None or old.engine.damper_mm != engine.damper_mm:
            self.texts["damper"] = f"{engine.damper_mm:g}" if engine.damper_mm else ""
        if old is None or old.engine.ring_gear_teeth != engine.ring_gear_teeth:
            self.texts["teeth"] = str(engine.ring_gear_teeth or "")
        if old is not None and old.engine.name != engine.name:
            self.texts |= {"strip": "", "string": "", "late": "0", "flywheel": ""}
        self._read_all()
        self.changed.emit()

    @property
    def plan(self) -> Plan | None:
        """The stops of the chosen method, where it has some on this engine and they are safe."""
        word = self.model.desk.session.state.work.school
        word = word if word in BY_WORD else "two-stop"
        if self._planned is None or self._planned[:2] != (self.rig, word):
            self._planned = (self.rig, word, _safe_plan(self.rig, word))
        return self._planned[2]

    # What is typed ------------------------------------------------------------------------------

    def type(self, name: str, text: str) -> None:
        """Take what was typed into a field; a wrong text is told and changes no sheet."""
        if self.texts[name] == text:
            return
        self.texts[name] = text
        self._read_all()
        if name in ("across", "along"):
            self._keep_proof()
        self.remember()
        self.changed.emit()

    def choose(
        self,
        *,
        group: Group | None = None,
        face: Face | None = None,
        known: Round | None = None,
        paper: str = "",
        outlines: bool | None = None,
    ) -> None:
        """Choose what a button stands for."""
        self.group = group or self.group
        self.face = face or self.face
        self.round = known or self.round
        self.paper_word = paper or self.paper_word
        self.outlines = self.outlines if outlines is None else outlines
        self._read_all()
        self.remember()
        self.changed.emit()

    def take_late(self) -> None:
        """The cast mark's error as the readings at the wheel have it."""
        late = self.late_read_deg
        if late is not None:
            self.type("late", f"{late:g}")

    @property
    def late_read_deg(self) -> float | None:
        """How late the first pair about TDC found the wheel's zero, set at the cast mark; or None.

        Once the pointer was set to true TDC, later pairs say nothing of the mark any more.
        """
        sheet = self.model.sheet
        for pair in sheet.rounds[0].tops if sheet.rounds else ():
            told = top_found(self.rig, sheet, pair)
            if told is not None:
                return None if told.held else told.top.mark_error_deg
        return None

    def _read_all(self) -> None:
        """Every field into its size; what is wrong is kept as a sentence beside its name."""
        self.wrong = {}
        self._read(("diameter", "hole"), self._read_wheel)
        self._read(("damper", "strip", "string", "string_thick", "thick"), self._read_tape)
        self._read(("late",), self._read_late)
        self._read(("flywheel", "teeth"), self._read_flywheel)
        self._read(("shaft", "key"), self._read_keyway)
        self._read(("blades",), self._read_blades)
        self._read(("own",), self._read_page)
        self._read(("across", "along"), self._read_proof)

    def _read(self, names: tuple[str, ...], read: Callable[[], Sizes]) -> None:
        try:
            self.sizes = read()
        except EngineError as error:
            where = _where(error.field, names)
            self.wrong[where] = f"{FIELDS[where].name} {error}"

    def _mm(self, name: str) -> float:
        return parse_length_mm(FIELDS[name].name, self.texts[name])

    def _read_wheel(self) -> Sizes:
        wheel = PaperWheel(self._mm("diameter"), self._mm("hole"), self.face)
        return replace(self.sizes, wheel=wheel)

    def _read_tape(self) -> Sizes:
        from true_compass.drawing.paper.made import sense_for

        sense = sense_for(self.rig)
        tape: Tape | None = None
        if self.round is Round.STRIP and self.texts["strip"].strip():
            tape = tape_of_strip(self._mm("strip"), sense)
        elif self.round is Round.STRING and self.texts["string"].strip():
            string, thick = self._mm("string_thick"), self._mm("thick")
            tape = tape_of_string(self._mm("string"), string, thick, sense)
        elif self.round is Round.ACROSS and self.texts["damper"].strip():
            tape = tape_of_diameter(self._mm("damper"), self._mm("thick"), sense)
        return replace(self.sizes, tape=tape)

    def _read_late(self) -> Sizes:
        late = parse_number(FIELDS["late"].name, self.texts["late"].strip() or "0")
        check_late(late)
        return replace(self.sizes, late_deg=late)

    def _read_flywheel(self) -> Sizes:
        from true_compass.drawing.paper.made import REAR, sense_for

        tape: Tape | None = None
        ring: Ring | None = None
        teeth = self.texts["teeth"].strip()
        if teeth:
            ring = Ring(parse_teeth(teeth))
        if self.texts["flywheel"].strip():
            thick = self._mm("thick")
            tape = tape_of_diameter(self._mm("flywheel"), thick, sense_for(self.rig, REAR))
        return replace(self.sizes, flywheel=tape, ring=ring)

    def _read_keyway(self) -> Sizes:
        return replace(self.sizes, keyway=Keyway(self._mm("shaft"), self._mm("key")))

    def _read_blades(self) -> Sizes:
        blades = parse_blades(self.texts["blades"], self.rig.engine.gap_unit)
        return replace(self.sizes, blades=blades)

    def _read_page(self) -> Sizes:
        return replace(self.sizes, own_mm=parse_page_mm(self.texts["own"]))

    def _read_proof(self) -> Sizes:
        across, along = (
            parse_bar_mm(FIELDS[name].name, self.texts[name]) for name in ("across", "along")
        )
        return replace(self.sizes, proof=Proof(across, along))

    # The printer --------------------------------------------------------------------------------

    @property
    def printers(self) -> list[str]:
        """What the system can print on, or one name where it knows none."""
        return self._printers() or [NO_PRINTER]

    def next_printer(self) -> None:
        """Another printer, with its own proof."""
        names = self.printers
        at = names.index(self.printer) + 1 if self.printer in names else 0
        self.printer = names[at % len(names)]
        self._take_proof()
        self._read_all()
        self.remember()
        self.changed.emit()

    @property
    def printer_name(self) -> str:
        """The printer whose proof is shown."""
        return self.printer or NO_PRINTER

    def _take_proof(self) -> None:
        held = self.settings.get("paper_proofs").get(self.printer_name, (100.0, 100.0))
        self.texts["across"], self.texts["along"] = (f"{mm:g}" for mm in held)

    def _keep_proof(self) -> None:
        if "across" in self.wrong or "along" in self.wrong:
            return
        proof = self.sizes.proof
        proofs = dict(self.settings.get("paper_proofs"))
        proofs[self.printer_name] = [proof.across_mm, proof.along_mm]
        while len(proofs) > 40:
            proofs.pop(next(iter(proofs)))
        self.settings.put("paper_proofs", proofs)

    def remember(self) -> None:
        """Keep what is a person's own, not the engine's."""
        kept = {
            name: self.texts[name]
            for name, field in FIELDS.items()
            if field.kept and name not in ("across", "along") and name not in self.wrong
        }
        self.settings.put("paper_texts", kept)
        self.settings.put("paper_size", self.paper_word)
        self.settings.put("paper_printer", self.printer)

    # The sheets ---------------------------------------------------------------------------------

    @property
    def paper(self) -> "Paper":
        """The paper that was chosen."""
        from true_compass.drawing.documents import PAPERS, page_of

        for paper in PAPERS:
            if paper.word == self.paper_word:
                return paper
        wide, high = self.sizes.own_mm
        return page_of(f"{wide:g} × {high:g} mm", wide, high)

    @property
    def style(self) -> "Style":
        """How sheets are printed on this printer."""
        from true_compass.drawing.paper.sheet import Style

        return Style(self.sizes.proof, self.outlines)

    def _on_paper(self, document: "Document") -> "Document":
        return replace(document, papers=(self.paper,), printer=self.printer)

    def _on_named_paper(self, document: "Document") -> "Document":
        """A sheet that is not to scale fills whatever paper is chosen, but no size of one's own."""
        return document if self.paper_word == OWN else self._on_paper(document)

    def proof(self) -> "Document":
        """The page with bars to measure."""
        from true_compass.drawing.paper.proof_page import proof_document

        return self._on_paper(proof_document())

    def wheel(self) -> "Document":
        """The degree wheel."""
        from true_compass.drawing.paper.made import wheel_for

        sizes = self.sizes
        return self._on_paper(
            wheel_for(
                self.rig,
                self.plan,
                sizes.wheel,
                self.style,
                date.today(),
                sizes.late_deg,
                self.model.cylinder,
            )
        )

    def tape(self) -> "Document | None":
        """The damper tape, once it is known how large the damper is."""
        from true_compass.drawing.paper.made import tape_for

        sizes = self.sizes
        if sizes.tape is None:
            return None
        return self._on_paper(
            tape_for(
                self.rig,
                self.plan,
                sizes.tape,
                self.style,
                date.today(),
                sizes.late_deg,
                self.model.cylinder,
                Face.SPLIT if self.face is Face.PROTRACTOR else self.face,
            )
        )

    def flywheel(self) -> "Document | None":
        """The strip for the flywheel, once its size and its teeth are known."""
        from true_compass.drawing.paper.made import flywheel_for

        sizes = self.sizes
        if sizes.flywheel is None or sizes.ring is None:
            return None
        made = flywheel_for(
            self.rig, self.plan, sizes.flywheel, sizes.ring, self.style, date.today()
        )
        return self._on_paper(made)

    def keyway(self) -> "Document":
        """The square for the crank's key."""
        from true_compass.drawing.paper.keyway_page import keyway_document
        from true_compass.drawing.paper.made import about_of, key_marks

        about = about_of(self.rig, date.today())
        made = keyway_document(about, self.sizes.keyway, key_marks(self.rig), self.style)
        return self._on_paper(made)

    def blades(self) -> "Document":
        """Which blades make which gap."""
        from true_compass.drawing.paper.blades_page import blades_document
        from true_compass.drawing.paper.made import about_of

        blades = self.sizes.blades or parse_blades("", self.rig.engine.gap_unit)
        about = about_of(self.rig, date.today())
        return self._on_named_paper(blades_document(about, self.rig.engine, blades, self.style))

    def card(self, word: str) -> "Document":
        """One of the cards, by its word in the catalogue."""
        from true_compass.drawing.paper.made import card_for
        from true_compass.drawing.paper.pocket_card import pocket_document

        if word == POCKET.word:
            return self._on_paper(pocket_document(self.style))
        card = card_for(word, self.rig, self.model.cylinder, self.style, date.today())
        return self._on_named_paper(card)

    @property
    def is_ready(self) -> bool:
        """Whether the page has a sheet to print, without making one."""
        if self.group is Group.FLYWHEEL:
            return self.sizes.flywheel is not None and self.sizes.ring is not None
        return self.group is not Group.CARDS

    def documents(self) -> "tuple[Document, ...]":
        """What the page shows now, in the order in which it is printed."""
        if self.group is Group.WHEEL:
            tape = self.tape()
            return (self.wheel(),) if tape is None else (self.wheel(), tape)
        if self.group is Group.FLYWHEEL:
            strip = self.flywheel()
            return () if strip is None else (strip,)
        if self.group is Group.KEYWAY:
            return (self.keyway(),)
        if self.group is Group.BLADES:
            return (self.blades(),)
        return ()

    def together(self) -> "Document | None":
        """All sheets of the page as one document."""
        from true_compass.drawing.documents import joined

        documents = self.documents()
        return joined(documents) if documents else None

    @property
    def headline(self) -> str:
        """What the sheets come to, in one sentence."""
        sizes = self.sizes
        if self.group is Group.WHEEL:
            wheel = f"One degree: {sizes.wheel.degree_mm:.2f} mm on the wheel"
            if sizes.tape is None:
                return f"{wheel}."
            return f"{wheel}, {sizes.tape.degree_mm:.3f} mm on the damper"
        if self.group is Group.FLYWHEEL:
            if sizes.ring is None:
                return "Count the teeth of the ring gear."
            tooth = f"One tooth is {sizes.ring.tooth_deg:.3g}°"
            if sizes.flywheel is None:
                return f"{tooth}. How large is the flywheel?"
            return f"{tooth}, one degree {sizes.flywheel.degree_mm:.3f} mm"
        if self.group is Group.KEYWAY:
            return "The key at 90° to the split of the case."
        if self.group is Group.BLADES:
            return "Two blades make what one does not."
        return "Cards to hang up, and one for the pocket."
