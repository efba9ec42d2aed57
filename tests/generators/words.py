"""Command lines that anybody, or nobody, would type."""

import json
from pathlib import Path
from random import Random
from uuid import UUID

from true_compass.bench.faults import BY_SLUG
from true_compass.cli.common import COMMANDS, PAINTING
from true_compass.core.adjusting.schools import BY_WORD
from true_compass.core.paper.catalogue import BY_WORD as BY_SHEET
from true_compass.files.course import lesson_names, shipped_lesson
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.files.scenarios import scenario_names
from true_compass.lessons.drills import BY_SLUG as KINDS
from true_compass.lessons.drills import questions, rig_of
from true_compass.lessons.result import Header, Person

ENGINE = ("--order", "--events", "--ramp", "--json")
CAM = ("--lash-intake", "--advance-exhaust", "--table-intake", "--lash-exhaust")
PLAN = ("--school", "--stops", "--margin", "--at", "--start", "--explain", "--along-heads")
OPTIONS = {
    "state": ("--at", "--at", *ENGINE),
    "stops": (*PLAN, *ENGINE),
    "compare": ("--longer", *ENGINE),
    "events": ("--at-lift", "--cylinder", *CAM, *ENGINE),
    "lift": ("--step", "--csv", *CAM, *ENGINE),
    "orders": ("--pins", "--banks", "--test", "--backwards", "--json"),
    "check": ("--json",),
    "new": (
        *("--angle", "--banks", "--rows", "--crank", "--pins", "--numbering", "--end", "--order"),
        *("--name", "-o", "--output", "-o"),
    ),
    "draw": ("--at", "--cylinder", "-o", "--output", *CAM, *ENGINE),
    "scenario": (
        *("--engine", "--fault", "--seed", "--task", "--cylinder", "--hardness", "--hand"),
        *("--method", "--title", "-o", "--output", "--json"),
    ),
    "bench": ("--play", "--about", "--about", "--log", "--json"),
    "adjust": (
        *("--adjuster", "--adjuster", "--thread", "--thread", "--ratio", "--measured"),
        *("--target", "--preload", "--hydraulic", "--json"),
    ),
    "shims": (
        *("--shims", "--gaps", "--band", "--shims", "--gaps", "--band", "--names"),
        *("--target", "--stock", "--drawer", "--ratio", "--json"),
    ),
    "book": ("--band", "--blades", "--engine", "--number", "--join", "-o", "--json"),
    "cam": (
        *("--before", "--after", "--drop", "--rig", "--wheel", "--zero", "--against", "--cylinder"),
        *("--intake", "--exhaust", "--card-icl", "--duration-intake", "--icl", "--ecl", "--bank"),
        *("--read", "--target", "--need", "--teeth", "--holes", "--key", "--bush", "--base"),
        *("--nose", "--ratio", "--lash", "--earlier", "--valve", "--json"),
    ),
    "ignition": (
        *("--speed", "--speed", "--vacuum", "--initial", "--weights", "--can", "--at", "--goal"),
        *("--goal", "--gear", "--posts", "--seat", "--post1", "--rotor", "--wired", "--wired"),
        *("--total", "--diameter", "--json"),
    ),
    # Always with an end, and for less than a moment.
    "instrument": ("--simulate", "--on", "--knock", "--lost", "--noise", "--turn", "--seed"),
    "drill": ("--engine", "--engine", "--seed", "--count", "--json"),
    "lesson": ("--json",),
    "mark": ("--csv", "--xlsx", "--json"),
    "worksheet": ("--seed", "--students", "--paper", "-o", "-o"),
    "card": ("--paper", "-o", "--output", *PLAN, *ENGINE),
    "paper": (
        *("--paper", "--proof", "--outlines", "--diameter", "--hole", "--thickness", "--strip"),
        *("--string", "--late", "--teeth", "--scale", "--blades", "--shaft", "--key", "-o", "-o"),
        *PLAN,
    ),
}
FLAGS = ("--json", "--against", "--hydraulic", "--csv", "--along-heads", "--about", "--outlines")
ANYTHING = (
    *("0", "1", "-1", "7", "90", "-45", "359.9", "720", "1e9", "1e400", "nan", "inf", "½", "", " "),
    *("--", "-", "9" * 5000, "0x10", "1-3-4-2", "1-5-3-6-2-4", "1-1", "0,180,180,0", "45,-45"),
    *("15/50/50/15", "-14/50/50/4", "a/b/c/d", "I1", "E99", "C1", "across", "along", "rear", "a4"),
    *("\x1b[31m", "\u202e", "\udcff", "v", "inline", "flat", "radial", "4", "8", "x" * 300, "a\0b"),
)
BOOK = ("trend", "add", "list", "show", "export", "merge", "check", "blank")
CAM_KINDS = ("tdc", "centreline", "card", "lift-at-overlap", "steps", "lobe", "gaps")
READINGS = (
    "9.1",
    "13.5",
    "92/124",
    "92/124,84.5/131",
    "42",
    "15/16",
    "1.0@24",
    "0.7@19:cam",
    "108",
)
IGNITION_KINDS = ("total", "fit", "leads", "mark")
SPARKS = (
    *("2000", "250mbar", "7.4inHg", "8", "900:0,3200:24", "100:0,400:14", "distributor", "-30"),
    *("1-5-3-6-2-4", "1-2-4-6-3-5", "1-0-3-6-2-4", "13", "6", "clockwise", "160", "25 kPa"),
)
GAPS = ("0.2", "0.2,0.3", "2.7,2.8", "0.15/0.25", "I:0.1/0.2,E:0.2/0.3", "M8x1", "pivot-nut", "15")
TABLE = (
    *("job,date,hours,person,item,found_mm,left_mm,note", "1,2025-01-02,5,J,I1,0.2,,", "\ufeff"),
    *("1,2025-01-02,5,J,I1,0.2..0.3,0.2,new head", ";;;", '"', "2,2025-01-03,9,J,E1,9,,", "\0"),
)
OUTPUTS = (
    "x.csv",
    "x.xlsx",
    "x.tcbook",
    "x.pdf",
    "x.svg",
    "x.png",
    "x.engine.toml",
    "x",
    "none/x.svg",
    "",
)
PATHS = (
    "/dev/null",
    "/dev/zero",
    "/",
    ".",
    "/nowhere/x.engine.toml",
    "a" * 300,
    "",
    "\0",
    "\udcff",
)


NO_TARGET = (
    "new",
    "scenario",
    "adjust",
    "shims",
    "book",
    "instrument",
    "drill",
    "lesson",
    "mark",
    "worksheet",
)
SHEET_WORDS = ("list", *BY_SHEET)
ANSWERS: tuple[object, ...] = (
    0,
    1,
    -3.5,
    True,
    None,
    "power",
    "slacken",
    [],
    ["I1"],
    [["I1"], []],
    [1, 2],
    {},
    "1",
)


def asked_words(command: str, random: Random, folder: Path) -> list[str]:
    """Something to ask, to judge, or a lesson: some of it bent."""
    if command == "lesson":
        return [
            random.choice(("check", "list", *ANYTHING[:3])),
            random.choice((*lesson_names(), *PATHS)),
        ]
    if random.random() < 0.5:
        return [random.choice((*KINDS, *lesson_names(), "stroke,free", "stroke,,", *ANYTHING))]
    name = random.choice(rig_names())
    kind = random.choice(
        [slug for slug, drill in KINDS.items() if not drill.missing(rig_of(demo_rig(name)))]
    )
    told = questions([kind], {name: demo_rig(name)}, random.randrange(99), 1)[0].record()
    if random.random() < 0.6:
        where = random.choice((told, told["ask"])) or told
        where[random.choice(list(where))] = random.choice((*ANSWERS, "x" * 500, 1e300))
    answer = {random.choice(("answer", "answer", "answers")): random.choice(ANSWERS)}
    paths = []
    for stem, values in (("q", told), ("a", answer)):
        paths.append(folder / f"{stem}.json")
        text = json.dumps(values)
        paths[-1].write_text(text[: len(text) - (random.random() < 0.1)], encoding="utf-8")
    return ["judge", *map(str, paths)]


def bent_result(random: Random, folder: Path) -> Path:
    """A result, now and then with some of its bytes changed, lost or doubled."""
    lesson, who = shipped_lesson("four-strokes"), Person(str(UUID(int=7)), "=SUM(1)")
    lines = [
        Header(who.id, lesson.id, "", lesson.title, "", who, 7, "0.1.0").line(),
        *('{"given":{},"chain":""}', "[]", "{}"),
    ]
    text = "\n".join(lines[: random.randrange(1, 5)]) + "\n"
    at = random.randrange(len(text))
    text = random.choice((text, text[:at], text[:at] + "\0" + text[at:], text * 2))
    path = folder / "r.result.jsonl"
    path.write_text(text, encoding="utf-8")
    return path


def command_words(random: Random, folder: Path) -> list[str]:
    """A command with a target and options, some of them wrong. Outputs stay in a folder."""
    command = random.choice((*COMMANDS, *PAINTING))
    words = [command]
    if command == "new":
        words.append(random.choice(("inline", "v", "flat", "w", "radial", "u", *ANYTHING)))
        words.append(random.choice(("1", "2", "4", "6", "8", "12", "18", *ANYTHING)))
    elif command == "scenario":
        words.append(random.choice(("new", "new", "list", "faults", *ANYTHING)))
    elif command == "draw":
        words.append(random.choice(("ring", "diagram", "chart", *ANYTHING)))
    elif command == "book":
        # Never the person's own book.
        words += [random.choice((*BOOK, *ANYTHING[:3])), "--book", str(folder / "b.tcbook")]
        table = folder / "t.csv"
        lines = [TABLE[0], *random.choices(TABLE, k=random.randrange(6))]
        table.write_text("\n".join(lines[random.randrange(8) == 0 :]), encoding="utf-8")
        if random.random() < 0.7:
            words.insert(2, str(random.choice((table, table, folder / "b.tcbook"))))
    elif command == "instrument":
        words += ["--for", "0", random.choice(("--pty", "--tcp=0", "--tcp"))]
    elif command == "cam":
        words.append(random.choice((*CAM_KINDS, *ANYTHING[:3])))
    elif command == "paper":
        words.append(random.choice((*SHEET_WORDS, *ANYTHING[:3])))
    elif command == "worksheet":
        words.append(random.choice((*lesson_names(), *PATHS)))
    elif command == "mark":
        words += [str(bent_result(random, folder)), *random.choices(PATHS, k=random.randrange(2))]
    elif command in ("drill", "lesson"):
        words += asked_words(command, random, folder)
    elif command == "ignition":
        words.append(random.choice((*IGNITION_KINDS, *ANYTHING[:3])))
    if command not in NO_TARGET and random.random() < 0.9:
        near = random.random() < 0.8
        known = scenario_names() if command == "bench" else rig_names()
        words.append(random.choice(known if near else (*PATHS, *ANYTHING)))
    for option in random.choices(OPTIONS[command], k=random.randrange(5)):
        if option in FLAGS:
            words.append(option)
            continue
        value = random.choice(ANYTHING)
        if option == "--engine" and random.random() < 0.8:
            value = random.choice(rig_names())
        elif option == "--fault" and random.random() < 0.8:
            value = random.choice(list(BY_SLUG))
        elif command in ("adjust", "shims") and random.random() < 0.8:
            value = random.choice(GAPS)
        elif command == "cam" and random.random() < 0.8:
            value = random.choice(rig_names() if option == "--rig" else READINGS)
        elif command == "ignition" and random.random() < 0.8:
            value = random.choice(SPARKS)
        elif option == "--simulate" and random.random() < 0.8:
            value = random.choice(rig_names())
        elif option == "--on" and random.random() < 0.8:
            value = random.choice(("valve I1", "tappet E1", "piston 1", "valve U1"))
        if option in ("-o", "--output", "--log"):
            value = str(folder / random.choice(OUTPUTS))
        elif option == "--school" and random.random() < 0.9:
            value = random.choice(list(BY_WORD))
        tied = option.startswith("--") and random.random() < 0.2
        words += [f"{option}={value}"] if tied else [option, value]
    if random.random() < 0.1:
        words.insert(random.randrange(1, len(words) + 1), random.choice(ANYTHING))
    return words
