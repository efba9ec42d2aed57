"""What a person can be able to do, in the order of the trade: one catalogue."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Skill:
    """One skill: its slug as files hold it, and its title as screens and certificates have it.

    `needs` are kinds of question without which it is not shown, and `kinds` how many kinds have to
    be shown in all: a skill is no wider than what was asked.
    """

    slug: str
    title: str
    needs: tuple[str, ...]
    kinds: int = 2


SKILLS: Final = (
    Skill("name-stroke", "Name the stroke", ("stroke",)),
    Skill("two-tdcs", "Tell the two TDCs apart", ()),
    Skill("companions", "Companions and overlap", ("companion",)),
    Skill("firing-order", "Firing order", ()),
    Skill("fires-next", "Who fires next", ("fires-next",), 1),
    Skill("rotor-leads", "Rotor and leads", ("cap",)),
    Skill("valves-here", "Which valves here", ("free",)),
    Skill("two-stop-table", "Two-stop table", ("two-stop",)),
    Skill("lash-ramps", "Lash and ramps", ("ramp", "tight")),
    Skill("figures", "Thou, mm and turns", ("screw",)),
    Skill("find-tdc", "Find TDC, covered", ("covered-tdc",)),
    # The slug is older than its parting into gaps and preload, and files hold it.
    Skill("set-engine", "Set the gaps", ("covered-set",), 1),
    Skill("set-preload", "Set the preload", ("covered-preload",), 1),
    Skill("find-fault", "Find the fault", ("covered-fault",), 1),
    Skill("degree-cam", "Work out a cam’s timing", ("centreline", "advance")),
    Skill("fit-spark", "Work out the advance", ("body", "total")),
)
BY_SLUG: Final = {skill.slug: skill for skill in SKILLS}
