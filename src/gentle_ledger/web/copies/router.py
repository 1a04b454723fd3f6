"""Copies: those that are kept by themselves, and one that is saved elsewhere."""

import os
import tempfile
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import FileResponse
from sqlalchemy import select
from starlette.background import BackgroundTask

from gentle_ledger.store.copies import folder_of_copies, kept_copies, save_copy
from gentle_ledger.store.models import Round
from gentle_ledger.store.places import other_places
from gentle_ledger.web.context import Here
from gentle_ledger.web.copies.schemas import CopiesOut, CopyOut

router = APIRouter(prefix="/api/copies", tags=["copies"])


@router.get("")
def copies(here: Here) -> CopiesOut:
    """The copies of the ledger that are kept by themselves, the newest first."""
    ledger = here.database.path
    with here.database.reading() as session:
        is_new = session.scalar(select(Round.id).limit(1)) is None
    return CopiesOut(
        ledger=str(ledger.absolute()),
        others=[str(path) for path in other_places(ledger, here.settings.state)] if is_new else [],
        folder=str(folder_of_copies(ledger)),
        keep=here.settings.copies,
        trouble=here.signal.copy_trouble,
        copies=[CopyOut(name=copy.path.name, at=copy.at, size=copy.size) for copy in kept_copies(ledger)],
    )


@router.get("/now", response_class=FileResponse)
def copy_now(here: Here) -> FileResponse:
    """A copy of the ledger as it is now, to be saved wherever the browser saves things."""
    here.database.refuse_displaced()
    handle, name = tempfile.mkstemp(suffix=".sqlite3", dir=here.database.path.parent)
    os.close(handle)
    made = Path(name)
    made.unlink()
    save_copy(here.database.path, made)
    shown = f"ledger-{here.now():%Y-%m-%d-%H%M}.sqlite3"
    gone = BackgroundTask(made.unlink, missing_ok=True)
    return FileResponse(made, media_type="application/vnd.sqlite3", filename=shown, background=gone)
