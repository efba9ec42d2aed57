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
from true_compass.lessons.forms import Choice, Figure, Form, Ticks
from true_compass.lessons.lesson import Lesson, LessonQuestion, asked_of

QTI: Final = "http://www.imsglobal.org/xsd/imsqti_v2p1"
CP: Final = "http://www.imsglobal.org/xsd/imscp_v1p1"
XSI: Final = "http://www.w3.org/2001/XMLSchema-instance"
QTI_SCHEMA: Final = "http://www.imsglobal.org/xsd/qti/qtiv2p1/imsqti_v2p1.xsd"
CP_SCHEMA: Final = "http://www.imsglobal.org/xsd/qti/qtiv2p1/qtiv2p1_imscpv1p2_v1p0.xsd"
TEMPLATES: Final = "http://www.imsglobal.org/question/qti_v2p1/rptemplates"
TIMESTAMP: Final = (1980, 1, 1, 0, 0, 0)
"""The oldest that a zip holds: the same lesson gives the same bytes."""


@dataclass(frozen=True, slots=True)
class Package:
    """What was written: how many questions, and what was left out and why."""

    count: int
    left_out: tuple[str, ...]


def write_qti(path: Path, lesson: Lesson, seed: int) -> Package:
    """Write the questions of a lesson from a seed. Raises `OSError`, `LessonError`."""
    files: dict[str, bytes] = {}
    left_out: list[str] = []
    for nth, one in enumerate(asked_of(lesson, seed), start=1):
        name = f"question-{nth:03d}"
        item = _item(name, lesson, one)
        if item is None:
            title = drill_of(one.question.kind).title
            left_out.append(f"{nth}. {title}")
        else:
            files[f"{name}.xml"] = _bytes(item)
    names = [name.removesuffix(".xml") for name in files]
    files["test.xml"] = _bytes(_test(lesson, names))
    files["imsmanifest.xml"] = _bytes(_manifest(lesson, names))
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


def _item(name: str, lesson: Lesson, one: LessonQuestion) -> ET.Element | None:
    question = one.question
    drill, rig = drill_of(question.kind), rig_of(lesson.engine(question.engine))
    q = Asked(rig, question)
    form = drill.form(q)
    if not isinstance(form, Choice | Ticks | Figure) or not drill.on_paper:
        return None
    if isinstance(form, Ticks) and not drill.answer(q):
        # A package cannot say that ticking nothing is right.
        return None
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
    _add(body, "p", f"{rig.engine.name}, {rig.engine.layout_words}, {rig.engine.order_text}.")
    _ask(body, drill.text(q), form)
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


def _manifest(lesson: Lesson, names: list[str]) -> ET.Element:
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
    return manifest
