"""What a person can be able to do, in the order of the trade: one catalogue."""

from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class Skill:
    """One skill: its slug as files hold it, and its title as screens and certificates have it."""

    slug: str
    title: str


SKILLS: Final = tuple(
    Skill(*row)
    for row in (
        ("name-stroke", "Name the stroke"),
        ("two-tdcs", "Tell the two TDCs apart"),
        ("companions", "Companions and overlap"),
        ("firing-order", "Firing order"),
        ("fires-next", "Who fires next"),
        ("rotor-leads", "Rotor and leads"),
        ("valves-here", "Which valves here"),
        ("two-stop-table", "Two-stop table"),
        ("lash-ramps", "Lash and ramps"),
        ("figures", "Thou, mm and turns"),
        ("find-tdc", "Find TDC, covered"),
        ("set-engine", "Set an engine"),
        ("find-fault", "Find the fault"),
        ("degree-cam", "Degree a cam"),
        ("fit-spark", "Fit the spark"),
    )
)
BY_SLUG: Final = {skill.slug: skill for skill in SKILLS}
