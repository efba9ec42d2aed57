"""Everything that outlasts the program: settings, drafts, and what was done on each engine."""

from dataclasses import dataclass
from pathlib import Path

from true_compass.app.keeping.settings import Settings
from true_compass.session.drafts import Drafts
from true_compass.session.progress import Clock, Progress, utc_now
from true_compass.session.store import Store, Troubles


@dataclass(frozen=True, slots=True)
class Keeping:
    """The folders of one user, or of a demonstration."""

    settings: Settings
    drafts: Drafts
    progress: Progress
    runs_folder: Path
    troubles: Troubles
    clock: Clock

    @staticmethod
    def at(config: Path, state: Path, clock: Clock = utc_now) -> "Keeping":
        """Settings in one folder; drafts and progress in another."""
        troubles = Troubles()
        settings = Settings(Store(config, troubles))
        settings.take_over(config / "settings.ini")
        return Keeping(
            settings,
            Drafts(Store(state / "drafts", troubles), clock),
            Progress(Store(state / "progress", troubles), clock),
            state / "bench",
            troubles,
            clock,
        )
