"""What the shapes on the screen mean, and the words that need one sentence."""

from typing import Final

CODES: Final = (
    ("Solid mark, hollow mark", "compression TDC above, overlap TDC below"),
    ("Solid arc", "where an exhaust valve is free"),
    ("Hollow arc", "where an intake valve is free"),
    ("Round chip", "intake valve, always at the left"),
    ("Square chip", "exhaust valve, always at the right"),
    ("Solid chip", "free: margin in degrees to the nearer end"),
    ("Outlined chip", "free, but less than 30° from its ramp"),
    ("Pale chip", "not free: on its ramp, or open by so many mm"),
    ("Margin", "base circle left before the tappet moves"),
    ("Companion", "rises with it; one fires, one is in overlap"),
    ("Ramp", "quiet part of the lobe outside the named events"),
    ("On, back", "with or against the running direction"),
    ("ICL, ECL", "intake centreline after TDC, exhaust centreline before it"),
    ("Separation", "half of both together, in cam degrees; advance is half their difference"),
    ("Thou", "0.001 in, which is 0.0254 mm"),
)
