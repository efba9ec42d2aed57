"""The shims of the open job: what is in, the plan, the drawer and what can be bought."""

from dataclasses import replace
from typing import Final

from true_compass.app.workspaces.book.model import SHIM, BookModel
from true_compass.book.job import SHIM_MM, ItemRecord
from true_compass.core.adjusting.setting import Setting, settings_of
from true_compass.core.adjusting.shims import Position, ShimPlan, plan_shims, stock_sizes_mm
from true_compass.core.items import Item
from true_compass.core.limits import EngineError
from true_compass.core.units import parse_length_mm
from true_compass.core.valves.train import Adjuster
from true_compass.core.words import capital, counted
from true_compass.files.book_db import BookError

USUAL_STOCK: Final = "2.00:3.50:0.05"
MOST_DRAWER: Final = 400

__all__ = ["SHIM", "ShimsModel"]


def read_stock(text: str) -> tuple[float, ...]:
    """Sizes that can be bought, from `least:most:step` in mm. Raises `EngineError`."""
    parts = text.split(":")
    if len(parts) != 3:
        raise EngineError("shims sold", f"must be least:most:step, such as {USUAL_STOCK}")
    return stock_sizes_mm(*(parse_length_mm("shims sold", part) for part in parts))


def is_stock(value: object) -> bool:
    """Whether a kept value is a text that says what can be bought."""
    try:
        return isinstance(value, str) and bool(read_stock(value))
    except EngineError:
        return False


class ShimsModel:
    """Plans are worked out once for each set of readings."""

    def __init__(self, model: BookModel, stock_text: str) -> None:
        self._model = model
        self.stock_text = stock_text
        self._made: tuple[object, ShimPlan | None] = (None, None)

    @property
    def applies(self) -> bool:
        """Whether this engine is set by shims."""
        train = self._model.engine.train
        return train.adjuster is Adjuster.SHIM and not train.hydraulic

    @property
    def settings(self) -> dict[Item, Setting]:
        """The settings of what has a shim, as one walks along the heads."""
        own = {one.item: one for one in settings_of(self._model.engine)}
        return {item: own[item] for item in self._model.items if item.is_valve}

    def _record(self, item: Item) -> ItemRecord:
        job = self._model.job
        return job.record(item) if job is not None else ItemRecord()

    @property
    def gaps(self) -> list[float | None]:
        """The gap of each item as found, mm; the middle of a bracket."""
        founds = [self._record(item).found for item in self._model.items]
        return [
            one.gap.middle if one is not None and one.gap is not None else None for one in founds
        ]

    @property
    def sizes(self) -> list[float | None]:
        """The shim that is in, mm."""
        return [self._record(item).shim_mm for item in self._model.items]

    @property
    def stock_mm(self) -> tuple[float, ...]:
        """Sizes that can be bought."""
        return read_stock(self.stock_text)

    @property
    def drawer_text(self) -> str:
        """What lies in the drawer, as it is typed."""
        return " ".join(f"{size:.2f}" for size in self._drawer())

    def _drawer(self) -> list[float]:
        book = self._model.keeper.book
        return book.learnt.drawer() if book is not None else []

    def put_stock(self, text: str) -> None:
        """Say what can be bought. Raises `EngineError`."""
        read_stock(text)
        self.stock_text = text.strip()
        self._model.changed.emit()

    def put_drawer(self, text: str) -> None:
        """Say what lies in the drawer. Raises `EngineError`."""
        words = text.replace(";", " ").split()
        if len(words) > MOST_DRAWER:
            raise EngineError("drawer", f"holds at most {MOST_DRAWER} shims here")
        sizes = [parse_length_mm("drawer", word) for word in words]
        for size in sizes:
            if not SHIM_MM[0] <= size <= SHIM_MM[1]:
                raise EngineError("drawer", f"has a shim of {size:g} mm: write 2.80 2.85")
        book = self._model.keeper.book
        if book is None:
            raise EngineError("drawer", "needs a book that can be written")
        try:
            book.learnt.put_drawer(sizes)
        except BookError as error:
            raise EngineError("drawer", f"was not kept. {error}") from None
        self._model.changed.emit()

    def positions(self) -> list[Position] | None:
        """Every position; None while a gap or a shim is not measured."""
        job = self._model.job
        if job is None:
            return None
        found = []
        for (item, setting), gap, shim in zip(
            self.settings.items(), self.gaps, self.sizes, strict=False
        ):
            target = job.target(item)
            if gap is None or shim is None or target is None or target.band_mm is None:
                return None
            found.append(
                Position(
                    item.name, shim, gap, target.band_mm, target.target_mm, setting.shim_per_gap
                )
            )
        return found

    @property
    def plan(self) -> ShimPlan | None:
        """The plan, once all is measured."""
        if not self.applies:
            return None
        positions = self.positions()
        if positions is None:
            return None
        key = (tuple(positions), tuple(self._drawer()), self.stock_text)
        if self._made[0] != key:
            self._made = (key, plan_shims(positions, key[1], self.stock_mm))
        return self._made[1]

    def sentence(self) -> tuple[str, str]:
        """The result, and the figure that proves it."""
        if not self.applies:
            words = self._model.engine.train.adjuster.words
            return "No shims on this engine", f"It is set by its {words}."
        job, plan = self._model.job, self.plan
        if job is None:
            return "No job is open", "Begin a job, and measure all gaps."
        items = self._model.items
        if plan is None:
            missing = sum(gap is None for gap in self.gaps)
            if missing:
                return f"{counted(missing, 'gap')} to measure first", "On Job: all as found."
            open_ones = sum(size is None for size in self.sizes)
            return f"{counted(open_ones, 'shim')} to measure", "Type each: shims wear."
        off = sum(not placed.position.in_band for placed in plan.places)
        if plan.impossible:
            names = ", ".join(plan.impossible)
            return f"No shim brings {names} into its band", "Another stock, or look at the seat."
        line = f"{off} of {len(items)} are out of band. Singly that would be {off} to buy."
        if not plan.touched:
            return f"All {len(items)} in band: nothing to do", "Write it down all the same."
        parts = [f"Swap {plan.moved}"] if plan.moved else []
        if plan.drawn_mm:
            parts.append(f"take {len(plan.drawn_mm)} from the drawer")
        parts.append(f"buy {len(plan.bought_mm)}" if plan.bought_mm else "buy none")
        words = ", ".join(parts)
        return f"{capital(words)}: all {len(items)} are then in band", line

    def fitted(self) -> None:
        """Write down what was fitted: new shims, the gaps they leave, and the drawer."""
        plan, job = self.plan, self._model.job
        if plan is None or job is None or plan.impossible:
            return
        for item, placed in zip(self.settings, plan.places, strict=True):
            if placed.position.name == item.name and placed.shim_mm != placed.position.shim_mm:
                record = replace(job.record(item), shim_left_mm=placed.shim_mm)
                job = job.with_item(item, record)
        drawer = self._drawer()
        for size in plan.drawn_mm:
            drawer.remove(size)
        drawer += [plan.places[row].position.shim_mm for row in plan.freed]
        self._model.desk.session.write_job(job, "the shims")
        book = self._model.keeper.book
        if book is not None:
            try:
                book.learnt.put_drawer(drawer)
            except BookError as error:
                self._model.desk.say(str(error))
        self._model.changed.emit()
