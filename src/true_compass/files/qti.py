"""A lesson's questions as a quiz package: IMS QTI 2.1 (Final, 31 August 2012), a zip.

One answer of several, several answers, and numbers go; what else is asked is listed as left out.
Built by the standard library; structure as the specification's XML binding has it (from memory).
"""

import zipfile
from dataclasses import dataclass
from pathlib import Path
from typing import Final
from xml.etree import ElementTree as ET

from true_compass.files.atomic import replacing
from true_compass.lessons.drill import Asked, Drill
from true_compass.lessons.drills import drill_of, rig_of
from true_compass.lessons.forms import Choice, Figure, Form, Place, Slots, Ticks, TwoLists
from true_compass.lessons.kinds.covered import Deeds
from true_compass.lessons.lesson import Lesson, LessonQuestion, asked_of
from true_compass.lessons.paper import FREE, ZERO, lobe_words, order_words

QTI: Final = "http://www.imsglobal.org/xsd/imsqti_v2p1"
CP: Final = "http://www.imsglobal.org/xsd/imscp_v1p1"
XSI: Final = "http://www.w3.org/2001/XMLSchema-instance"
QTI_SCHEMA: Final = "http://www.imsglobal.org/xsd/qti/qtiv2p1/imsqti_v2p1.xsd"
CP_SCHEMA: Final = "http://www.imsglobal.org/xsd/qti/qtiv2p1/qtiv2p1_imscpv1p2_v1p0.xsd"
TEMPLATES: Final = "http://www.imsglobal.org/question/qti_v2p1/rptemplates"
TIMESTAMP: Final = (1980, 1, 1, 0, 0, 0)
"""The oldest that a zip holds: the same lesson gives the same bytes."""


LEFT_OUT: Final = "left-out.txt"


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A question that a package cannot ask: its number (from 1), its kind, and why."""

    nth: int
    title: str
    why: str

    @property
    def words(self) -> str:
        """As a line."""
        return f"{self.nth}. {self.title}: {self.why}"


@dataclass(frozen=True, slots=True)
class Package:
    """What was written: how many questions, and what was left out and why."""

    count: int
    left_out: tuple[LeftOut, ...]


def write_qti(path: Path, lesson: Lesson, seed: int) -> Package:
    """Write the questions of a lesson from a seed. Raises `OSError`, `LessonError`."""
    files: dict[str, bytes] = {}
    left_out: list[LeftOut] = []
    for nth, one in enumerate(asked_of(lesson, seed), start=1):
        name = f"question-{nth:03d}"
        drill, q = _asked(lesson, one)
        why = _why_not(drill, q)
        if why:
            left_out.append(LeftOut(nth, drill.title, why))
        else:
            files[f"{name}.xml"] = _bytes(_item(name, drill, q))
    names = [name.removesuffix(".xml") for name in files]
    files["test.xml"] = _bytes(_test(lesson, names))
    if left_out:
        told = "".join(f"{one.words}\n" for one in left_out)
        files[LEFT_OUT] = f"{lesson.title}: asked elsewhere.\n{told}".encode()
    files["imsmanifest.xml"] = _bytes(_manifest(lesson, names, bool(left_out)))
    with replacing(path) as part, zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as package:
        for name, content in sorted(files.items()):
            package.writestr(zipfile.ZipInfo(name, TIMESTAMP), content)
    return Package(len(names), tuple(left_out))


def _bytes(root: ET.Element) -> bytes:
    ET.indent(root)
    text: bytes = ET.tostring(root, encoding="utf-8", xml_declaration=True)
    return text


def _root(tag: str, space: str, schema: str, **attributes: str) -> ET.Element:
    ET.register_namespace("", space)
    ET.register_namespace("xsi", XSI)
    root = ET.Element(f"{{{space}}}{tag}", attributes)
    root.set(f"{{{XSI}}}schemaLocation", f"{space} {schema}")
    return root


def _add(parent: ET.Element, tag: str, text: str = "", **attributes: str) -> ET.Element:
    space = parent.tag.partition("}")[0] + "}"
    child = ET.SubElement(parent, space + tag, attributes)
    child.text = text or None
    return child


def _asked(lesson: Lesson, one: LessonQuestion) -> tuple[Drill, Asked]:
    rig = rig_of(lesson.engine(one.question.engine))
    return drill_of(one.question.kind), Asked(rig, one.question)


def _why_not(drill: Drill, q: Asked) -> str:
    """Why a package cannot ask a question, as the end of a sentence; nothing where it can."""
    form = drill.form(q)
    if isinstance(form, Deeds):
        return "it is done at the bench"
    if isinstance(form, Place):
        return "it is answered by turning the engine"
    if isinstance(form, TwoLists):
        return "it has two lists, and a mark for each item"
    if isinstance(form, Slots):
        return "it has cylinders in a row, and a mark for each place"
    if isinstance(form, Ticks) and not drill.answer(q):
        return "nothing is to be ticked, which a package cannot mark as right"
    return "" if drill.on_paper else "it is answered on the engine"


def _item(name: str, drill: Drill, q: Asked) -> ET.Element:
    form, rig = drill.form(q), q.rig
    assert isinstance(form, Choice | Ticks | Figure)
    item = _root(
        "assessmentItem",
        QTI,
        QTI_SCHEMA,
        identifier=name,
        title=drill.title,
        adaptive="false",
        timeDependent="false",
    )
    _declare(item, drill, q, form)
    outcome = _add(
        item, "outcomeDeclaration", identifier="SCORE", cardinality="single", baseType="float"
    )
    _add(_add(outcome, "defaultValue"), "value", "0")
    body = _add(item, "itemBody")
    if drill.shows_engine:
        _add(body, "p", f"{rig.engine.layout_words.capitalize()}. {order_words(rig)} {ZERO}")
    if drill.reads_cam:
        _add(body, "p", f"{lobe_words(rig)} {FREE}")
    _ask(body, drill.paper_text(q), form)
    _process(item, form)
    return item


def _declare(item: ET.Element, drill: Drill, q: Asked, form: Form) -> None:
    """What the right answer is; several answers have a point each, and one off for a wrong one."""
    right = form.read(drill.answer(q))
    several, number = isinstance(form, Ticks), isinstance(form, Figure)
    declared = _add(
        item,
        "responseDeclaration",
        identifier="RESPONSE",
        cardinality="multiple" if several else "single",
        baseType="float" if number else "identifier",
    )
    correct = _add(declared, "correctResponse")
    if isinstance(form, Figure):
        _add(correct, "value", f"{right:g}")
    elif isinstance(form, Choice):
        place = next(n for n, option in enumerate(form.options) if option.value == right)
        _add(correct, "value", f"A{place + 1}")
    elif isinstance(form, Ticks):
        for name in right:
            _add(correct, "value", f"A{form.names.index(name) + 1}")
        each = 1.0 / max(len(right), 1)
        mapping = _add(declared, "mapping", lowerBound="0", upperBound="1", defaultValue="0")
        for nth, name in enumerate(form.names, start=1):
            value = f"{each if name in right else -each:.6f}"
            _add(mapping, "mapEntry", mapKey=f"A{nth}", mappedValue=value)


def _ask(body: ET.Element, text: str, form: Form) -> None:
    if isinstance(form, Figure):
        line = _add(body, "p", f"{text} ")
        field = _add(
            line, "textEntryInteraction", responseIdentifier="RESPONSE", expectedLength="8"
        )
        field.tail = f" {form.unit.strip()}"
        return
    several = isinstance(form, Ticks)
    interaction = _add(
        body,
        "choiceInteraction",
        responseIdentifier="RESPONSE",
        shuffle="false",
        maxChoices="0" if several else "1",
    )
    _add(interaction, "prompt", text)
    words = [option.words for option in form.options] if isinstance(form, Choice) else []
    words = list(form.names) if isinstance(form, Ticks) else words
    for nth, said in enumerate(words, start=1):
        _add(interaction, "simpleChoice", said, identifier=f"A{nth}")


def _process(item: ET.Element, form: Form) -> None:
    if isinstance(form, Choice):
        _add(item, "responseProcessing", template=f"{TEMPLATES}/match_correct")
    elif isinstance(form, Ticks):
        _add(item, "responseProcessing", template=f"{TEMPLATES}/map_response")
    elif isinstance(form, Figure):
        condition = _add(_add(item, "responseProcessing"), "responseCondition")
        taken = _add(condition, "responseIf")
        same = _add(
            taken, "equal", toleranceMode="absolute", tolerance=f"{form.within:g} {form.within:g}"
        )
        _add(same, "variable", identifier="RESPONSE")
        _add(same, "correct", identifier="RESPONSE")
        score = _add(taken, "setOutcomeValue", identifier="SCORE")
        _add(score, "baseValue", "1", baseType="float")


def _test(lesson: Lesson, names: list[str]) -> ET.Element:
    test = _root("assessmentTest", QTI, QTI_SCHEMA, identifier="test", title=lesson.title)
    part = _add(
        test, "testPart", identifier="part", navigationMode="nonlinear", submissionMode="individual"
    )
    section = _add(
        part, "assessmentSection", identifier="section", title=lesson.title, visible="true"
    )
    for name in names:
        _add(section, "assessmentItemRef", identifier=name, href=f"{name}.xml")
    return test


def _manifest(lesson: Lesson, names: list[str], some_left_out: bool) -> ET.Element:
    manifest = _root("manifest", CP, CP_SCHEMA, identifier=f"lesson-{lesson.id}")
    metadata = _add(manifest, "metadata")
    _add(metadata, "schema", "QTIv2.1 Package")
    _add(metadata, "schemaversion", "1.0.0")
    _add(manifest, "organizations")
    resources = _add(manifest, "resources")
    test = _add(
        resources, "resource", identifier="test", type="imsqti_test_xmlv2p1", href="test.xml"
    )
    _add(test, "file", href="test.xml")
    for name in names:
        _add(test, "dependency", identifierref=name)
    for name in names:
        resource = _add(
            resources,
            "resource",
            identifier=name,
            type="imsqti_item_xmlv2p1",
            href=f"{name}.xml",
        )
        _add(resource, "file", href=f"{name}.xml")
    if some_left_out:
        resource = _add(
            resources, "resource", identifier="left-out", type="webcontent", href=LEFT_OUT
        )
        _add(resource, "file", href=LEFT_OUT)
    return manifest
