"""Paper of a size of one's own."""

import re
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.paper.wheel import check_size

LEAST_PAGE_MM, MOST_PAGE_MM = 140.0, 1200.0
_SIZE: Final = re.compile(
    r"\s*(\d+(?:[.,]\d+)?)\s*(?:mm)?\s*[xX×]\s*(\d+(?:[.,]\d+)?)\s*(?:mm)?\s*", re.ASCII
)


def parse_page_mm(text: str) -> tuple[float, float]:
    """Width and height of a page as they are typed: `200x300`, `200 × 300 mm`.

    Both must be 140 to 1,200 mm: the bars of 100 mm need room for their words.

    >>> parse_page_mm("200 x 300")
    (200.0, 300.0)
    """
    match = _SIZE.fullmatch(text) if len(text) <= 40 else None
    if match is None:
        raise EngineError("paper", f"must be such as 200 x 300, not {text.strip()[:20]!r}")
    wide, high = (float(part.replace(",", ".")) for part in match.groups())
    for name, size in (("paper width", wide), ("paper height", high)):
        check_size(name, size, LEAST_PAGE_MM, MOST_PAGE_MM)
    return wide, high
