"""From a dial and an encoder that tell all the time to the pairs that a person would have read.

The dial is followed over a nose, or over the top of a piston; when it has come down on the far side
by the deepest drop, every drop has its two crank angles, by the line between two samples. Only what
is passed in the running direction counts: after turning back nothing does until the crank has come
up again (common practice, no source).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Final

BACK_DEG: Final = 0.4
"""A step back by more than this is turning back; less is the encoder's own noise."""
COME_UP_DEG: Final = 15.0
MOST_SAMPLES: Final = 6000
LEAST_SAMPLES: Final = 5


@dataclass(frozen=True, slots=True)
class Passed:
    """One drop: crank angles by the encoder before and after the nose, both in [0, 360)."""

    drop_mm: float
    before_deg: float
    after_deg: float


class Capture:
    """Follows samples of crank angle and height; a nose is the highest, a piston's top too."""

    def __init__(self, drops_mm: Sequence[float]) -> None:
        self.drops_mm = tuple(sorted(drops_mm))
        self._samples: list[tuple[float, float]] = []
        self._at: float | None = None
        self._furthest = 0.0
        self.turned_back = False
        self.too_fast = False
        """Whether the last nose was passed with too few samples to tell."""
        self._best = 0

    def feed(self, crank_deg: float, height_mm: float) -> tuple[Passed, ...]:
        """One sample; the pairs when a nose has just been passed, else nothing.

        `crank_deg` is the encoder's, of any turn; `height_mm` the dial, higher towards the nose.
        """
        on = self._unwrapped(crank_deg)
        if self._at is not None and on < self._furthest - BACK_DEG:
            self.turned_back = True
            self._samples.clear()
            self._furthest = max(on, self._furthest - 360.0)
        self._at = on
        if self.turned_back:
            self._come_up(on)
            return ()
        if on <= self._furthest and self._samples:
            return ()
        self._furthest = max(on, self._furthest)
        return self._take(on, height_mm)

    def _unwrapped(self, crank_deg: float) -> float:
        """The angle as a figure that goes on growing from turn to turn."""
        if self._at is None:
            self._furthest = crank_deg
            return crank_deg
        step = (crank_deg - self._at + 180.0) % 360.0 - 180.0
        return self._at + step

    def _come_up(self, on: float) -> None:
        """It counts again once the crank is well past where it was turned back to."""
        if on > self._furthest + COME_UP_DEG:
            self.turned_back = False
            self._furthest = on
        elif on < self._furthest:
            self._furthest = on

    def _take(self, on: float, height: float) -> tuple[Passed, ...]:
        samples = self._samples
        samples.append((on, height))
        if len(samples) > MOST_SAMPLES:
            del samples[: MOST_SAMPLES // 2]
            self._best = max(range(len(samples)), key=lambda row: samples[row][1])
        if len(samples) == 1 or height > samples[self._best][1]:
            self._best = len(samples) - 1
        best = samples[self._best][1]
        deepest = self.drops_mm[-1] * 1.02
        if best - height < deepest:
            return ()
        found = self._pairs() if best - samples[0][1] >= deepest else ()
        # What lies behind a nose is the way down to the next valley: begin anew from here.
        samples[:] = [(on, height)]
        self._best = 0
        return found

    def _pairs(self) -> tuple[Passed, ...]:
        up, down = self._samples[: self._best + 1], self._samples[self._best :]
        self.too_fast = min(len(up), len(down)) < LEAST_SAMPLES
        if self.too_fast:
            return ()
        top = self._samples[self._best][1]
        found = []
        for drop in self.drops_mm:
            before = _crossing(up, top - drop, rising=True)
            after = _crossing(down, top - drop, rising=False)
            if before is not None and after is not None:
                found.append(Passed(drop, before % 360.0, after % 360.0))
        return tuple(found)


def _crossing(
    samples: Sequence[tuple[float, float]], height: float, *, rising: bool
) -> float | None:
    """Where samples pass a height: the mean of the first and last such place, for noise."""
    places = []
    for (a, low), (b, high) in pairwise(samples):
        passes = low < height <= high if rising else low >= height > high
        if passes:
            places.append(a + (height - low) / (high - low) * (b - a))
    return (places[0] + places[-1]) / 2 if places else None
