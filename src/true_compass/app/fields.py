"""How a field to type in looks."""

from true_compass.drawing.theme import BODY, Theme


def field_style(theme: Theme, scale: float, *, wrong: bool) -> str:
    """Style sheet of one field."""
    edge = theme.ink.name() if wrong else theme.line.name()
    width, focus = (3 if wrong else 1.6) * scale, 2.6 * scale
    font = f"600 {round(BODY * scale)}px 'Compass Text'"
    sheet, ink, now, tint = (c.name() for c in (theme.sheet, theme.ink, theme.now, theme.now_tint))
    return f"""
    QLineEdit, QComboBox {{ background: {sheet}; color: {ink}; font: {font};
        border: {width:.1f}px solid {edge}; border-radius: 4px; padding: 0 6px; }}
    QLineEdit:focus, QComboBox:focus {{ border: {focus:.1f}px solid {now}; }}
    QComboBox::drop-down {{ border: none; width: {round(18 * scale)}px; }}
    QComboBox QAbstractItemView {{ background: {sheet}; color: {ink}; font: {font};
        selection-background-color: {tint}; selection-color: {ink}; }}
    """
