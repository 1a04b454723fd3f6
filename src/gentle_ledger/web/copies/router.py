"""Copies: those that are kept by themselves, and one that is saved elsewhere."""

import os
import tempfile
from pathlib import Path

from fastapi import APIRouter
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from gentle_ledger.store.copies import folder_of_copies, kept_copies, save_copy
from gentle_ledger.web.context import Here
from gentle_ledger.web.copies.schemas import CopiesOut, CopyOut

router = APIRouter(prefix="/api/copies", tags=["copies"])


@router.get("")
def copies(here: Here) -> CopiesOut:
    """The copies of the ledger that are kept by themselves, the newest first."""
    ledger = here.database.path
    return CopiesOut(
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
