"""How angles and counts are said, once for screen, paper and commands."""

from true_compass.core.angles import CYCLE_DEG


def shown_degrees(crank_deg: float) -> str:
    """A crank angle as a whole number or with one decimal, never `720`.

    >>> shown_degrees(240.0), shown_degrees(102.857), shown_degrees(719.99)
    ('240', '102.9', '0')
    """
    return f"{round(crank_deg, 1) % CYCLE_DEG:g}"


def at_degrees(crank_deg: float) -> str:
    """The same with its sign.

    >>> at_degrees(359.96)
    '360°'
    """
    return f"{shown_degrees(crank_deg)}°"


def before_tdc(angle_deg: float) -> str:
    """An advance, or a retard beyond TDC.

    >>> before_tdc(10.0), before_tdc(-45.38)
    ('10° before TDC', '45.4° after TDC')
    """
    side = "before" if angle_deg >= 0 else "after"
    return f"{abs(round(angle_deg, 1)):g}° {side} TDC"


def capital(words: str) -> str:
    """Words as they begin a sentence; what else is large in them stays so.

    >>> capital("the valves of I1"), small("The valves of I1")
    ('The valves of I1', 'the valves of I1')
    """
    return words[:1].upper() + words[1:]


def small(words: str) -> str:
    """Words as they go on within a sentence."""
    return words[:1].lower() + words[1:]


def fully_open(name: str) -> str:
    """What is seen of a valve on the nose of its lobe, in one wording for plans and signs."""
    return f"{name} stands fully open"


def valves_rock(cylinder: int) -> str:
    """What is seen of a cylinder in overlap: `the valves of 6 rock`."""
    return f"the valves of {cylinder} rock"


def counted(number: float, one: str, more: str = "") -> str:
    """A number with its noun, which agrees with it.

    >>> counted(1, "item"), counted(12, "item"), counted(2, "rise", "rises")
    ('1 item', '12 items', '2 rises')
    >>> counted(2.5, "turn")
    '2.5 turns'
    """
    shown = f"{number:g}" if isinstance(number, float) else str(number)
    return f"{shown} {one if number == 1 else more or one + 's'}"
