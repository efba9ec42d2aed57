"""What the searchable lists hold: demo rigs, and engines that were open before."""

from collections.abc import Callable
from functools import partial

from true_compass.app.keeping.opener import Opener
from true_compass.app.keeping.recents import Recent
from true_compass.app.widgets.search_list import Line
from true_compass.files.rigs import demo_rig, rig_names
from true_compass.session.session import Session


def rig_lines(session: Session, opener: Opener, *, hidden: bool) -> list[Line]:
    """The open file, if it is one, then every demo rig with the lesson that it is good for.

    Where the firing order is asked for (`hidden`), no line tells one.
    """
    state = session.state
    lines = []
    if state.source.path is not None:
        head = f"{state.engine.name} ({state.engine.layout_words})"
        lines.append(
            Line(
                head,
                "" if hidden else state.engine.order_text,
                str(state.source.path),
                opener.reload,
                True,
            )
        )
    for name in rig_names():
        engine = demo_rig(name)
        lines.append(
            Line(
                f"{engine.name} ({engine.layout_words})",
                "" if hidden else engine.order_text,
                "" if hidden else engine.note,
                partial(opener.open_rig, name),
                state.source.rig == name,
            )
        )
    return lines


def recent_lines(opener: Opener, open_one: Callable[[Recent], object]) -> list[Line]:
    """Every engine that was open before, the last first."""
    now = opener.now()
    return [
        Line(
            f"{recent.name} ({recent.layout})",
            recent.when_words(now),
            f"{recent.left}. {recent.source.path or 'Demo rig'}",
            partial(open_one, recent),
        )
        for recent in opener.recent()
    ]
