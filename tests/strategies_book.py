"""Jobs that anybody might have written: for round trips and for merging."""

from datetime import date
from types import MappingProxyType

from hypothesis import strategies as st

from true_compass.book.brackets import Bracket
from true_compass.book.job import (
    BookSource,
    General,
    ItemRecord,
    Job,
    Measure,
    Part,
    Person,
    SeenTo,
    Target,
    ToDo,
    Witness,
)
from true_compass.book.trend import ITEM_ANEW
from true_compass.core.items import Item, Kind
from true_compass.core.items import Part as ItemPart
from true_compass.core.units import GapUnit

WORDS = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cs", "Cc", "Zl", "Zp")), max_size=24
).map(lambda text: " ".join(text.split()))
"""One line of plain words, as the form keeps them."""

GAPS = st.integers(0, 3000).map(lambda n: n / 1000)


@st.composite
def measures(draw: st.DrawFn) -> Measure:
    unit = draw(st.sampled_from(GapUnit))
    if draw(st.booleans()):
        turns = draw(st.integers(0, 80)) / 8
        return Measure(None, turns, f"{turns:g} turns", unit)
    low, high = sorted((draw(GAPS), draw(GAPS)))
    gap = Bracket.of(low) if draw(st.booleans()) else Bracket(low, high)
    return Measure(gap, None, draw(WORDS) or f"{low:g}", unit)


@st.composite
def records(draw: st.DrawFn) -> ItemRecord:
    found = draw(st.none() | measures())
    left = draw(st.none() | measures()) if found is not None else None
    after = draw(st.none() | measures()) if found is not None else None
    shims = st.none() | st.integers(100, 20000).map(lambda n: n / 1000)
    return ItemRecord(
        found,
        left,
        after,
        draw(st.sampled_from((0.0, 27.0, 13.5))),
        draw(st.booleans()),
        draw(WORDS),
        draw(st.sampled_from(("", *ITEM_ANEW))),
        draw(shims),
        draw(shims),
        draw(st.sampled_from(SeenTo)),
        draw(st.booleans()),
        draw(st.booleans()),
    )


ITEMS = st.builds(
    Item,
    st.sampled_from(Kind),
    st.integers(1, 18),
    st.sampled_from(ItemPart),
    st.integers(0, 2),
)
DAYS = st.dates(date(1990, 1, 1), date(2026, 1, 1))


@st.composite
def jobs(draw: st.DrawFn, job_id: str = "j", engine_id: str = "e-birch-3") -> Job:
    found = draw(st.dictionaries(ITEMS, records(), max_size=5))
    items = {item: record for item, record in found.items() if not record.is_empty}
    ends = sorted((draw(GAPS), draw(GAPS)))
    source = BookSource(draw(WORDS), draw(WORDS), draw(WORDS), draw(WORDS))
    target = Target("E", draw(st.booleans()), draw(GAPS), (ends[0], ends[1]), source)
    maybe = st.none() | st.booleans()
    return Job(
        id=job_id,
        engine_id=engine_id,
        engine_digest="",
        day=draw(DAYS),
        made="2026-01-01T00:00:00+00:00",
        person=draw(st.sampled_from((Person("", ""), Person("p-joel", "Joel R.")))),
        clock=draw(st.none() | st.integers(0, 100_000).map(float)),
        by_distance=draw(st.booleans()),
        temperature_c=draw(st.none() | st.integers(-30, 120).map(float)),
        unit=draw(st.sampled_from(GapUnit)),
        hot=draw(st.booleans()),
        targets=draw(st.sampled_from(((), (target,)))),
        pumped=draw(maybe),
        head_first=draw(maybe),
        complaint=draw(WORDS),
        note=draw(WORDS),
        parts=tuple(draw(st.lists(st.builds(Part, WORDS, WORDS), max_size=2))),
        to_do=tuple(draw(st.lists(st.builds(ToDo, WORDS, st.none(), DAYS), max_size=2))),
        put_back=tuple(draw(st.lists(WORDS, max_size=2))),
        readings=tuple(draw(st.lists(st.builds(General, WORDS, WORDS, GAPS), max_size=2))),
        witness=tuple(
            draw(st.lists(st.builds(Witness, st.just("E1"), GAPS, GAPS, GAPS), max_size=1))
        ),
        items=MappingProxyType(items),
    )
