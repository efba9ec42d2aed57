"""What is wrong with a file, in plain sentences, all at once."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final


@dataclass(frozen=True, slots=True)
class Problem:
    """One wrong field: its path such as `dimensions.rod_mm`, its line if known, and a sentence."""

    field: str
    line: int | None
    sentence: str

    def __str__(self) -> str:
        place = f"line {self.line}: " if self.line else ""
        told = f"{self.field} {self.sentence}" if self.field else self.sentence
        # What it quotes was written by whoever wrote the file.
        return f"{place}{shown_text(told)}."


MOST_TOLD: Final = 10
"""More problems than this are only counted."""


class EngineFileError(Exception):
    """A file that cannot be used. `problems` holds the first wrong fields, `count` is of all."""

    def __init__(self, file_name: str, problems: tuple[Problem, ...], count: int = 0) -> None:
        self.file_name = shown_text(file_name)
        self.problems = problems
        self.count = count or len(problems)
        head = f"{self.file_name}, "
        if self.count > 1:
            head = f"{self.file_name} has {self.count} wrong fields: "
        super().__init__(head + " ".join(self.sentences()))

    def sentences(self) -> list[str]:
        """A sentence a problem; the last one counts those that are not told."""
        rest = self.count - len(self.problems)
        return [*map(str, self.problems), *([f"And {rest:,} more."] if rest > 0 else [])]


def shown_text(text: str) -> str:
    """A text with control and direction characters, and bytes that are no UTF-8, spelt out."""
    if text.isprintable():
        return text
    return "".join(
        char if char.isprintable() or char == "\u00a0" else char.encode("unicode_escape").decode()
        for char in text
    )


def saved_words(path: Path) -> str:
    """That a file was saved, and in which folder.

    >>> saved_words(Path("/home/tutor/Documents/bench-v6.engine.toml"))
    'Saved bench-v6.engine.toml in Documents.'
    """
    return f"Saved {shown_text(path.name)} in {shown_text(path.absolute().parent.name) or '/'}."


def sentence_for(
    error: Mapping[str, Any], known_keys: Iterable[str], thing: str, explained_in: str
) -> str:
    """Our sentence for one error of the validation library; it follows the name of the field."""
    context: Mapping[str, Any] = error.get("ctx", {})
    match error["type"]:
        case "missing":
            return f"is missing: add it ({explained_in} has an example)"
        case "extra_forbidden":
            return _unknown_key(str(error["loc"][-1]), known_keys, thing)
        case "literal_error":
            return f"must be {context['expected']}, not {_shown(error['input'])}"
        case "greater_than_equal":
            return f"must be {context['ge']:g} or more, not {_shown(error['input'])}"
        case "less_than_equal":
            return f"must be {context['le']:g} or less, not {_shown(error['input'])}"
        case "float_type" | "finite_number":
            return f"must be a plain number such as 82.5, not {_shown(error['input'])}"
        case "int_type":
            return f"must be a whole number such as 6, not {_shown(error['input'])}"
        case "string_type":
            return f"must be text in quotes, not {_shown(error['input'])}"
        case "string_too_long":
            return f"must be at most {context['max_length']} characters long"
        case "string_too_short":
            return "must not be empty: give it a name"
        case "too_long":
            return f"must have at most {context['max_length']} values"
        case "greater_than":
            return f"must be more than {context['gt']:g}, not {_shown(error['input'])}"
        case "list_type":
            return f"must be a list such as [0, 180], not {_shown(error['input'])}"
        case "string_pattern_mismatch":
            return "must be plain text without control or direction characters"
        case "model_type":
            return f"must be a table: write a line [{error['loc'][-1]}] and its keys below it"
        case _:
            return str(error["msg"]).removeprefix("Value error, ").rstrip(".")


def _unknown_key(key: str, known_keys: Iterable[str], thing: str) -> str:
    import difflib  # a start without a wrong file has no use for it

    near = difflib.get_close_matches(key[:60], list(known_keys), n=1)
    if near:
        return f"is not a key of {thing}: did you mean {near[0]}"
    return f"is not a key of {thing}: remove it or check its spelling"


def _shown(value: object) -> str:
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) >= 10**30:
        return "a number of more than 30 digits"
    text = repr(value)[:400] if not isinstance(value, bool) else str(value).lower()
    return text if len(text) <= 40 else f"{text[:37]}..."
