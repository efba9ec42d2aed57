"""Sealed scenarios: version 2 of the file. What is hidden is encrypted under an instructor's word.

The key comes from the word by scrypt (RFC 7914) with a salt of its own; what is hidden is encrypted
with ChaCha20-Poly1305 (RFC 8439), which also vouches for what is not hidden: task, hardness and
engine cannot be changed under the seal. `cryptography` is imported only here.
"""

import base64
import hashlib
import json
import os
import unicodedata
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Final

from true_compass.bench.scenario import ItemSaid, Said, Scenario
from true_compass.bench.seal import Seal
from true_compass.core.chained import plain_json
from true_compass.core.limits import EngineError
from true_compass.files.engine_values import engine_digest
from true_compass.files.reading import one_problem, parse_values, read_text
from true_compass.files.scenario_file import (
    SAID,
    SCENARIO_FILE,
    SEALED,
    engine_part,
    parse_scenario,
    scenario_from_values,
    shown,
)

LEAST_LETTERS: Final = 8
MOST_LETTERS: Final = 200
COST: Final = 2**15
"""About a tenth of a second for each word that somebody tries."""
_BLOCKS: Final = 8
_MEMORY: Final = 64 * 1024 * 1024
_KEY_BYTES: Final = 64
_SALT_BYTES: Final = 16
_NONCE_BYTES: Final = 12
CLEAR: Final = ("title", "note", "rig", "task", "cylinder", "hardness", "hand", "method")


class SealError(Exception):
    """A word that does not open a seal, or is none, as one sentence."""


@dataclass(frozen=True, slots=True)
class Sealed:
    """A sealed scenario as it was read: what may be seen of it, with nothing hidden in it."""

    text: str
    seen: Scenario
    salt: bytes
    nonce: bytes
    hidden: bytes

    def opened(self, word: str) -> Scenario:
        """The scenario, by its word. Raises `SealError`."""
        from cryptography.exceptions import InvalidTag
        from cryptography.hazmat.primitives.ciphers.aead import ChaCha20Poly1305

        cipher_key, log_key = _keys(word, self.salt)
        try:
            told = ChaCha20Poly1305(cipher_key).decrypt(
                self.nonce, self.hidden, _vouched(self.seen)
            )
        except InvalidTag:
            raise SealError(
                "This is not the word of the seal, or the file was changed: type it again."
            ) from None
        try:
            values = plain_json(told)
            items = tuple(ItemSaid(**item) for item in values["items"])
            return replace(
                self.seen,
                seed=values["seed"],
                faults=tuple(values["faults"]),
                said=Said(**values["said"], items=items),
                seal=Seal(self.text, log_key),
            )
        except (ValueError, TypeError, KeyError) as error:
            raise SealError(f"What this seal hides makes no sense ({error}).") from None


def checked_word(word: str) -> str:
    """A word for a seal. Raises `SealError`: who has the file can try words as long as he likes."""
    word = unicodedata.normalize("NFC", " ".join(word.split()))
    if not LEAST_LETTERS <= len(word) <= MOST_LETTERS:
        raise SealError(
            f"The word of a seal needs {LEAST_LETTERS} letters at least: take three or four words."
        )
    return word


def _keys(word: str, salt: bytes) -> tuple[bytes, bytes]:
    """The key of the file and that of the log."""
    told = unicodedata.normalize("NFC", " ".join(word.split())).encode("utf-8")
    made = hashlib.scrypt(told, salt=salt, n=COST, r=_BLOCKS, p=1, maxmem=_MEMORY, dklen=_KEY_BYTES)
    return made[:32], made[32:]


def _vouched(scenario: Scenario) -> bytes:
    """What may be seen, as the seal vouches for it."""
    told = {
        "engine": engine_digest(scenario.engine),
        "task": scenario.task.value,
        "cylinder": scenario.cylinder,
        "hardness": scenario.hardness,
        "hand": scenario.hand.value,
        "method": scenario.method,
    }
    return json.dumps(told, sort_keys=True).encode("utf-8")


def sealed_text(scenario: Scenario, word: str) -> str:
    """The text of a scenario file whose faults, seed and condition only a word opens.

    Raises `SealError` for a word that is none.
    """
    from cryptography.hazmat.primitives.ciphers.aead import ChaCha20Poly1305

    salt, nonce = os.urandom(_SALT_BYTES), os.urandom(_NONCE_BYTES)
    cipher_key, _ = _keys(checked_word(word), salt)
    said = scenario.said
    hidden = {
        "seed": scenario.seed,
        "faults": list(scenario.faults),
        "said": {key: getattr(said, key) for key in SAID},
        "items": [
            {"name": i.name, "found_mm": i.found_mm, "nut_moves_mm": i.nut_moves_mm}
            for i in said.items
        ],
    }
    told = json.dumps(hidden).encode("utf-8")
    # Its length would tell how much is hidden.
    told += b" " * (-len(told) % 1024)
    closed = ChaCha20Poly1305(cipher_key).encrypt(nonce, told, _vouched(scenario))
    head = {"engine_digest": engine_digest(scenario.engine)}
    for key in CLEAR:
        value = getattr(scenario, key)
        head[key] = getattr(value, "value", value)
    lines = [
        "# A sealed engine for True Compass. docs/bench.md explains each key.",
        f'format = "{SCENARIO_FILE.word}"',
        "version = 2",
        *(f"{key} = {shown(value)}" for key, value in head.items() if value != ""),
        "",
        f"[{SEALED}]",
        *(
            f"{key} = {shown(base64.b64encode(data).decode('ascii'))}"
            for key, data in (("salt", salt), ("nonce", nonce), ("hidden", closed))
        ),
    ]
    return "\n".join(lines) + "\n\n" + engine_part(scenario.engine)


def read_any_scenario(path: Path) -> Scenario | Sealed:
    """A scenario, or a sealed one that waits for its word. Raises `EngineFileError`."""
    return parse_any_scenario(read_text(path, SCENARIO_FILE.thing), path.name)


def parse_any_scenario(text: str, file_name: str) -> Scenario | Sealed:
    """What `read_any_scenario` reads, from a text."""
    values, _ = parse_values(SCENARIO_FILE, text, file_name)
    if SEALED not in values:
        return parse_scenario(text, file_name)
    return _sealed(text, values, file_name)


def _sealed(text: str, values: dict[str, Any], file_name: str) -> Sealed:
    told = values.pop(SEALED)
    try:
        parts = [base64.b64decode(told[key], validate=True) for key in ("salt", "nonce", "hidden")]
        if (len(parts[0]), len(parts[1])) != (_SALT_BYTES, _NONCE_BYTES):
            raise ValueError("its salt or nonce has another length")
        seen = scenario_from_values(values)
    except EngineError as error:
        raise one_problem(file_name, f"{error.field} {error}") from None
    except ValueError as error:
        raise one_problem(
            file_name, f"has a seal that is none ({error}): ask for the file again"
        ) from None
    return Sealed(text, seen, *parts)
