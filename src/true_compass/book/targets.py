"""What each kind of item of an engine is set to, as its file says, for a job to copy."""

from true_compass.book.job import BookSource, Target, target_key
from true_compass.core.adjusting.setting import Way, settings_of
from true_compass.core.engine import Engine
from true_compass.core.items import Kind, Part


def targets_of(engine: Engine) -> tuple[Target, ...]:
    """One target a kind of item, mm; a band that the file does not give is marked as assumed.

    For a hydraulic tappet it is how far the plunger is pushed in.
    """
    found: dict[str, Target] = {}
    for setting in settings_of(engine):
        key = target_key(setting.item)
        if key in found or setting.way is Way.CONTACT:
            continue
        kind = setting.item.kind
        told = None
        if isinstance(kind, Kind) and setting.item.is_valve:
            told = (
                engine.train.preload_mm
                if engine.train.hydraulic
                else engine.train.accepted_mm(kind)
            )
        found[key] = Target(
            key,
            engine.lash_hot,
            setting.target_mm,
            # A bridge just touches both tips: what is typed of it is never less than nothing.
            (max(setting.band_mm[0], 0.0), setting.band_mm[1]),
            assumed=told is None,
            source=_source(engine, key),
            per_turn_mm=setting.per_turn_mm if setting.way is Way.PLUNGER else 0.0,
        )
    return tuple(found.values())


def _source(engine: Engine, key: str) -> BookSource:
    """Where the figures of some items stand, as the file says: of them, or of everything."""
    told = {source.of: source for source in engine.sources}
    of, _, part = key.partition(" ")
    # The page of the rockers says nothing of a bridge's screw where it has a page of its own.
    source = (told.get("bridge") if part == Part.BRIDGE.value else None) or told.get(of)
    source = source or told.get("")
    if source is None:
        return BookSource()
    return BookSource(source.book, source.edition, source.page, source.variant)
