"""How each engine's ignition stands and what was done at it, kept on the disk."""

from typing import Final

from true_compass.core.ignition.bay import BLANK, Bay
from true_compass.files.ignition_bay import bay_from, bay_values
from true_compass.session.kept import Kept, SliceOf
from true_compass.session.session import Session
from true_compass.session.store import Store

IGNITION: Final = SliceOf(
    "ignition", lambda state: state.ignition, Session.put_ignition, bay_values, bay_from, BLANK
)


def ignition_bays(store: Store, session: Session) -> Kept[Bay]:
    """Brings the ignition back as it was left, and writes it."""
    return Kept(store, session, IGNITION)
