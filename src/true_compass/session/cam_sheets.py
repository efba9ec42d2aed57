"""Keeps what was read of each engine's cam on the disk, every reading as it is entered.

A file an engine and window, as `progress` has them. The newest is gone on with.
"""

from true_compass.core.degreeing.sheet import Sheet
from true_compass.files.cam_sheet import sheet_from, sheet_values
from true_compass.session.session import Session, SessionState, Source
from true_compass.session.store import Store, is_held_elsewhere, own_name, short_name


class CamSheets:
    """Brings readings back and writes them."""

    def __init__(self, store: Store, session: Session) -> None:
        self._store = store
        self._session = session
        self._own: dict[str, str] = {}
        session.subscribe(self._on_change)

    def attach(self) -> Sheet:
        """The sheet of the open engine: as it is in the session, else as it was kept."""
        held = self._session.state.cam
        if held is None:
            held = self.of(self._session.state.source)
            self._session.put_cam(held)
        return held

    def of(self, source: Source) -> Sheet:
        """What was read on the engine of a source; a blank sheet where nothing was."""
        for name in self._names(source):
            values = self._store.read(name)
            if values is None:
                continue
            sheet = sheet_from(values.get("cam")) if isinstance(values, dict) else None
            if sheet is not None:
                return sheet
            self._store.set_aside(name)
        return Sheet()

    def _names(self, source: Source) -> list[str]:
        return self._store.names(short_name(source.key))

    def _on_change(self, before: SessionState, after: SessionState) -> None:
        if after.cam is None or before.cam is None:
            return
        if after.source != before.source:
            # Saved under another name: what was read goes along.
            if after.cam is before.cam and not after.cam.is_blank:
                self._keep(after.source, after.cam)
        elif after.cam is not before.cam:
            self._keep(after.source, after.cam)

    def _keep(self, source: Source, sheet: Sheet) -> None:
        own = self._own.setdefault(source.key, own_name(source.key))
        closed = [n for n in self._names(source) if n != own and not is_held_elsewhere(n)]
        if self._store.write(own, {"engine": source.key, "cam": sheet_values(sheet)}):
            # It goes on from the newest of these; what is older was gone on from before.
            for name in closed:
                self._store.drop(name)
            self._store.forget_the_oldest()
