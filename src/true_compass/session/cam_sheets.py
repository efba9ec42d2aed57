"""What was read of each engine's cam, kept on the disk."""

from typing import Final

from true_compass.core.degreeing.sheet import Sheet
from true_compass.files.cam_sheet import sheet_from, sheet_values
from true_compass.session.kept import Kept, SliceOf
from true_compass.session.session import Session
from true_compass.session.store import Store

CAM: Final = SliceOf(
    "cam", lambda state: state.cam, Session.put_cam, sheet_values, sheet_from, Sheet()
)


def cam_sheets(store: Store, session: Session) -> Kept[Sheet]:
    """Brings readings back and writes them."""
    return Kept(store, session, CAM)
