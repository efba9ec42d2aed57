"""Everything that outlasts the program: settings, drafts, and what was done on each engine."""

from dataclasses import dataclass
from pathlib import Path

from true_compass.app.keeping.settings import Settings
from true_compass.files.kinds import BOOK_NAME
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
    book_path: Path
    cam_store: Store
    ignition_store: Store
    records_folder: Path
    results_folder: Path
    troubles: Troubles
    clock: Clock
    demo: bool = False

    @staticmethod
    def at(
        config: Path,
        state: Path,
        clock: Clock = utc_now,
        data: Path | None = None,
        *,
        demo: bool = False,
    ) -> "Keeping":
        """Settings in one folder; drafts and progress in another; the book among the data."""
        troubles = Troubles()
        settings = Settings(Store(config, troubles))
        settings.take_over(config / "settings.ini")
        return Keeping(
            settings,
            Drafts(Store(state / "drafts", troubles), clock),
            Progress(Store(state / "progress", troubles), clock),
            state / "bench",
            (data or state / "data") / BOOK_NAME,
            Store(state / "cam", troubles),
            Store(state / "ignition", troubles),
            data or state / "data",
            state / "results",
            troubles,
            clock,
            demo,
        )
