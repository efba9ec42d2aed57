"""Paper of a size of one's own."""

import re
from typing import Final

from true_compass.core.limits import EngineError
from true_compass.core.paper.wheel import check_size
from true_compass.core.units import parse_length_mm

LEAST_PAGE_MM, MOST_PAGE_MM = 140.0, 1200.0
_TIMES: Final = re.compile(r"[xX×]")


def parse_page_mm(text: str) -> tuple[float, float]:
    """Width and height of a page as they are typed: `200x300`, `200 × 300 mm`, `8.5in x 11in`.

    Both must be 140 to 1,200 mm: the bars of 100 mm need room for their words.

    >>> parse_page_mm("200 x 300")
    (200.0, 300.0)
    """
    parts = _TIMES.split(text.strip().removesuffix("mm"))
    if len(parts) != 2:
        raise EngineError("paper", f"must be such as 200 x 300, not {text.strip()[:20]!r}")
    sizes = []
    for name, part in zip(("paper width", "paper height"), parts, strict=True):
        sizes.append(parse_length_mm(name, part))
        check_size(name, sizes[-1], LEAST_PAGE_MM, MOST_PAGE_MM)
    return sizes[0], sizes[1]
