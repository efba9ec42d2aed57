"""How the form shows a value as text, and reads it back into the values of an engine file."""

from typing import Any, Final

from true_compass.core.limits import EngineError
from true_compass.core.spark import parse_points, points_text
from true_compass.core.units import parse_length_mm, parse_number, parse_numbers
from true_compass.files.defaults import EXTRA_DEFAULTS

Values = dict[str, Any]


def plain(value: Any) -> str:
    """A value as it is, numbers without needless digits."""
    return f"{value:.10g}" if isinstance(value, float) else str(value)


def numbers(value: Any) -> str:
    """Numbers with spaces between them."""
    return " ".join(f"{number:.10g}" for number in value or [])


def words(value: Any) -> str:
    """Words with spaces between them."""
    return " ".join(str(part) for part in value or [])


def read_text(_path: str, text: str) -> str:
    """Text, trimmed."""
    return text.strip()


def read_whole(path: str, text: str) -> int:
    """A whole number."""
    number = parse_number(path, text)
    if number != int(number):
        raise EngineError(path, f"must be a whole number, not {text.strip()}")
    return int(number)


def read_wholes(path: str, text: str) -> list[int]:
    """Whole numbers with spaces between them."""
    numbers = parse_numbers(path, text)
    if any(number != int(number) for number in numbers):
        raise EngineError(path, "must be whole numbers with spaces between them")
    return [int(number) for number in numbers]


def read_words(_path: str, text: str) -> list[str]:
    """Words with spaces or commas between them."""
    return text.replace(",", " ").split()


def read_hub(path: str, text: str) -> float:
    """A length; nothing is 0."""
    return parse_length_mm(path, text) if text.strip() else 0.0


def maybe(path: str, text: str) -> float | None:
    """A number, or None for nothing."""
    return parse_number(path, text) if text.strip() else None


def maybe_mm(path: str, text: str) -> float | None:
    """A length, or None for nothing."""
    return parse_length_mm(path, text) if text.strip() else None


def show_durations(value: Any) -> str:
    """Durations as `250 seat, 216 1mm@tappet`."""
    return ", ".join(f"{row['deg']:.10g} {row['at']}" for row in value or [])


def read_durations(path: str, text: str) -> list[Values]:
    """Durations of a cam card."""
    rows = []
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        degrees, _, at = part.partition(" ")
        if not at:
            raise EngineError(path, f"must be like 250 seat, 216 1mm@tappet; {part!r} is not")
        rows.append({"deg": parse_number(path, degrees), "at": at.strip().replace(" ", "")})
    return rows


def show_table(value: Any) -> str:
    """How many rows a lift table has."""
    return f"{len(value['angles_deg'])} rows" if value else ""


def read_table(path: str, text: str) -> None:
    """A lift table cannot be typed; nothing takes it away."""
    if text.strip():
        raise EngineError(path, "is read from a CSV file: use the button below, or clear this")


BUMP: Final = ("opens_deg", "closes_deg", "lift_mm", "ramp_deg")
EXTRA: Final = (*BUMP, "ratio", "lash_mm")


def show_bump(value: Any) -> str:
    """A compression release as `612 700 0.8 10`."""
    return " ".join(f"{value[key]:.10g}" for key in BUMP if key in value) if value else ""


def read_bump(path: str, text: str) -> Values | None:
    """A compression release; nothing is none."""
    numbers = parse_numbers(path, text)
    if not numbers:
        return None
    if len(numbers) not in (3, 4):
        raise EngineError(path, "must be opens, closes, lift and ramp, such as 612 700 0.8 10")
    return dict(zip(BUMP, numbers, strict=False))


def show_extras(value: Any) -> str:
    """Injector and brake as `brake 655 755 2.2 20 1.3 0.6`; without a lobe as `brake 0.6`."""
    return ", ".join(
        " ".join([row["kind"], *(f"{figure:.10g}" for figure in _figures(row))])
        for row in value or []
    )


def _figures(row: Values) -> list[float]:
    """The figures of an injector or a brake up to the last one that says something."""
    if row.get("opens_deg") is None:
        return [row["lash_mm"]] if "lash_mm" in row else []
    last = max(place for place, key in enumerate(EXTRA) if key in row)
    return [row.get(key, EXTRA_DEFAULTS[key]) for key in EXTRA[: last + 1]]


def read_extras(path: str, text: str) -> list[Values]:
    """Injector and brake lobes."""
    rows = []
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        kind, _, rest = part.partition(" ")
        numbers = parse_numbers(path, rest)
        if kind == "brake" and len(numbers) <= 1:
            rows.append({"kind": kind, **dict(zip(("lash_mm",), numbers, strict=False))})
            continue
        if kind not in ("injector", "brake") or not 3 <= len(numbers) <= len(EXTRA):
            raise EngineError(
                path, f"must be like brake 655 755 2.2 20 1.3 0.6; {part[:30]!r} is not"
            )
        rows.append({"kind": kind, **dict(zip(EXTRA, numbers, strict=False))})
    return rows


def read_band(path: str, text: str) -> list[float]:
    """Both ends of a band; nothing is none."""
    ends = parse_numbers(path, text)
    if len(ends) not in (0, 2):
        raise EngineError(path, "must be both ends with a space between them, such as 0.2 0.3")
    return ends


def show_advances(value: Any) -> str:
    """Advances of banks as `A 2 0, B 1 0`."""
    return ", ".join(
        f"{row['bank']} {row.get('intake_deg', 0.0):.10g} {row.get('exhaust_deg', 0.0):.10g}"
        for row in value or []
    )


def read_advances(path: str, text: str) -> list[Values]:
    """Advances of banks."""
    rows = []
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        words = part.split()
        if len(words) != 3:
            raise EngineError(path, f"must be like A 2 0, B 1 0; {part[:30]!r} is not")
        numbers = [parse_number(path, word) for word in words[1:]]
        rows.append({"bank": words[0], "intake_deg": numbers[0], "exhaust_deg": numbers[1]})
    return rows


def show_points(value: Any) -> str:
    """Points of advance as `1000:0, 2800:22`."""
    return points_text(value or ())


def read_points(path: str, text: str) -> list[list[float]]:
    """Points of advance; nothing is none."""
    return [list(point) for point in parse_points(path, text)]


def show_phrases(value: Any) -> str:
    """Phrases with commas between them."""
    return ", ".join(value or [])


def read_phrases(_path: str, text: str) -> list[str]:
    """Phrases with commas between them."""
    return [phrase.strip() for phrase in text.split(",")] if text.strip() else []


def read_yes(_path: str, text: str) -> bool:
    """Whether the choice is yes."""
    return text == "yes"


def yes(value: Any) -> str:
    """`yes` or `no`."""
    return "yes" if value else "no"


def show_banks(value: Any) -> str:
    """Banks as `A -45 ahead, B 45`."""
    rows = value or [{"name": "A", "angle_deg": 0.0}]
    return ", ".join(
        f"{row['name']} {row['angle_deg']:.10g}{' ahead' if row.get('ahead') else ''}"
        + (f" offset {row['axis_offset_mm']:.10g}" if row.get("axis_offset_mm") else "")
        for row in rows
    )


def read_banks(path: str, text: str) -> list[Values]:
    """Banks."""
    banks = []
    for part in text.split(","):
        words = part.split()
        if len(words) < 2:
            raise EngineError(path, f"must be like A -45 ahead, B 45; {part.strip()!r} is not")
        bank: Values = {"name": words[0], "angle_deg": parse_number(path, words[1])}
        rest = words[2:]
        if "ahead" in rest:
            bank["ahead"] = True
            rest.remove("ahead")
        if len(rest) == 2 and rest[0] == "offset":
            bank["axis_offset_mm"] = parse_length_mm(path, rest[1])
            rest = []
        if rest:
            raise EngineError(path, f"does not know {rest[0]!r}: only ahead, or offset and mm")
        banks.append(bank)
    return banks


MEANINGS: Final = ("firing", "other")


def show_marks(value: Any) -> str:
    """Marks as `pulley 0 creeps white = TDC`, `cam_cap 0 cam`."""
    return ", ".join(
        " ".join(
            part
            for part in (
                mark["where"].replace(" ", "_"),
                "–" if mark.get("angle_deg") is None else f"{mark['angle_deg']:.10g}",
                "creeps" if mark.get("can_creep") else "",
                mark.get("meaning", "tdc") if mark.get("meaning") in MEANINGS else "",
                "cam" if mark.get("shaft") == "cam" else "",
                f"of {mark['cylinder']}" if mark.get("cylinder", 1) != 1 else "",
                mark.get("colour", ""),
                f"= {mark['stamped']}" if mark.get("stamped") else "",
            )
            if part
        )
        for mark in value or []
    )


def read_marks(path: str, text: str) -> list[Values]:
    """Marks: where, angle (or –), then creeps, firing, other, cam, of and a cylinder, a colour."""
    marks = []
    for part in filter(None, (piece.strip() for piece in text.split(","))):
        plain, _, stamped = part.partition("=")
        words = plain.split()
        if len(words) < 2:
            raise EngineError(path, f"must be like pulley 0 creeps = TDC; {part!r} is not")
        where, angle, *rest = words
        mark: Values = {"where": where.replace("_", " "), "stamped": stamped.strip()}
        mark["angle_deg"] = None if angle in ("–", "-") else parse_number(path, angle)
        if "of" in rest[:-1]:
            at = rest.index("of")
            mark["cylinder"] = read_whole(path, rest[at + 1])
            del rest[at : at + 2]
        mark["can_creep"] = "creeps" in rest
        mark["meaning"] = next((word for word in rest if word in MEANINGS), "tdc")
        mark["shaft"] = "cam" if "cam" in rest else "crank"
        known = ("creeps", "cam", "crank", "tdc", *MEANINGS)
        mark["colour"] = " ".join(word for word in rest if word not in known)
        marks.append(mark)
    return marks


def read_seat(_path: str, text: str) -> str:
    """A checking lift; nothing is the seat."""
    return text.replace(" ", "") or "seat"


SOURCE_PARTS: Final = ("book", "edition", "page", "variant")


def show_sources(value: Any) -> str:
    """Sources as `I: Workshop book / 2 / 41 / turbo; Leaflet`."""
    return "; ".join(
        (f"{row['of']}: " if row.get("of") else "")
        + " / ".join(row.get(part, "") for part in SOURCE_PARTS).rstrip(" /")
        for row in value or []
    )


SOURCE_OF: Final = {of.casefold(): of for of in ("I", "E", "U", "B", "bridge")}


def read_sources(path: str, text: str) -> list[Values]:
    """Sources with a semicolon between them: what it is about, book / edition / page / variant."""
    found = []
    for told in filter(None, (piece.strip() for piece in text.split(";"))):
        of, colon, rest = told.partition(":")
        about = SOURCE_OF.get(of.strip().casefold(), "") if colon else ""
        parts = [part.strip() for part in (rest if about else told).split("/")]
        if len(parts) > len(SOURCE_PARTS) or not parts[0]:
            raise EngineError(path, f"must be like Workshop book / 2 / 41 / turbo; {told!r} is not")
        row = dict(zip(SOURCE_PARTS, parts, strict=False)) | ({"of": about} if about else {})
        found.append({key: value for key, value in row.items() if value})
    return found


def show_drives(value: Any) -> str:
    """Timing sets as `A intake: teeth 42, holes 15/16, key 0.7@19; B: slots 10`."""
    return "; ".join(_show_drive(row) for row in value or [])


def _show_drive(row: Values) -> str:
    parts = [
        f"{word} {row[key]:.10g}"
        for word, key in (("teeth", "teeth"), ("crank", "crank_teeth"), ("idlers", "idlers"))
        if row.get(key)
    ]
    if row.get("holes"):
        parts.append(f"holes {row['holes'][0]}/{row['holes'][1]}")
    if row.get("hole_deg"):
        parts.append(f"hole {row['hole_deg']:.10g} {row.get('hole_degrees_of', 'crank')}")
    parts += [f"key {key}" for key in row.get("keys", ())]
    parts += [f"bush {bush}" for bush in row.get("bushes", ())]
    if row.get("reach_deg"):
        parts.append(f"{'vernier' if row.get('vernier') else 'slots'} {row['reach_deg']:.10g}")
    who = " ".join(filter(None, (row.get("bank"), row.get("shaft"))))
    told = ", ".join(parts) or "fixed"
    return f"{who}: {told}" if who else told


def read_drives(path: str, text: str) -> list[Values]:
    """Timing sets with a semicolon between them: whose they are, then what can be moved."""
    return [
        _read_drive(path, told)
        for told in filter(None, (piece.strip() for piece in text.split(";")))
    ]


def _read_drive(path: str, told: str) -> Values:
    # An offset key may hold a colon of its own (0.7@19:cam): only a first word without a figure
    # names a shaft.
    who, colon, rest = told.partition(":")
    named = bool(colon) and not any(sign in who for sign in "@,")
    row: Values = {}
    if named:
        words = who.split()
        if words and words[-1] in ("intake", "exhaust"):
            row["shaft"] = words.pop()
        if words:
            row["bank"] = " ".join(words)
    for part in filter(None, (piece.strip() for piece in (rest if named else told).split(","))):
        if part != "fixed":
            _read_move(path, part, row)
    return row


def _read_move(path: str, part: str, row: Values) -> None:
    word, _, figure = part.partition(" ")
    figure = figure.strip()
    if word in ("teeth", "crank", "idlers"):
        row[{"crank": "crank_teeth"}.get(word, word)] = read_whole(path, figure)
    elif word == "holes":
        row["holes"] = [read_whole(path, circle) for circle in figure.split("/")]
    elif word == "hole":
        degrees, _, of = figure.partition(" ")
        row["hole_deg"] = parse_number(path, degrees)
        row["hole_degrees_of"] = of or "crank"
    elif word in ("key", "bush"):
        row.setdefault({"key": "keys", "bush": "bushes"}[word], []).append(figure)
    elif word in ("slots", "vernier"):
        row["reach_deg"] = parse_number(path, figure)
        row["vernier"] = word == "vernier"
    else:
        raise EngineError(
            path, f"must be like teeth 42, holes 15/16, key 0.7@19, slots 10; {part[:20]!r} is not"
        )
