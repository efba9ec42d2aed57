"""Cells that no spreadsheet takes for a formula, and how such a cell is read back.

OWASP, *CSV Injection* (from memory): a cell that begins with one of `= + - @`, a tab or a carriage
return is worked out when the table is opened. Where semicolons part the columns, so is what stands
behind one inside a cell.
"""

import re
from typing import Final

_BEGINS: Final = r'(^|[;,\t\r\n|])([\s"]*)'
_FORMULA: Final = r"(?='*[=+\-@])"
_SIGNS: Final = frozenset("=+-@")
_NUMBER: Final = re.compile(r"[+-]?\d+([.,]\d+)?")
_BARE: Final = re.compile(_BEGINS + _FORMULA)
_MARKED: Final = re.compile(_BEGINS + r"'" + _FORMULA)


def safe_cell(text: str) -> str:
    """A cell as it is written: an apostrophe before whatever would begin a formula. A plain number
    is none.

    >>> safe_cell("=1+1"), safe_cell("Ines"), safe_cell("loud; =1+1"), safe_cell("'=1")
    ("'=1+1", 'Ines', "loud; '=1+1", "''=1")
    >>> safe_cell("-0.5")
    '-0.5'
    """
    if _SIGNS.isdisjoint(text) or _NUMBER.fullmatch(text):
        return text
    return _BARE.sub(r"\1\2'", text)


def plain_cell(text: str) -> str:
    """A cell as it was before it was made safe.

    >>> plain_cell("'=1+1"), plain_cell("loud; '=1+1"), plain_cell("''=1"), plain_cell("Ines' =1")
    ('=1+1', 'loud; =1+1', "'=1", "Ines' =1")
    """
    return _MARKED.sub(r"\1\2", text) if "'" in text else text
