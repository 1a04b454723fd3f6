"""Notices: what of the ledger as a whole has to be looked at, until somebody says that this was done."""

from fastapi import APIRouter, Response

from gentle_ledger.store.notices import notice_seen, open_notices
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.notices.schemas import NoticeOut

router = APIRouter(prefix="/api/notices", tags=["notices"])


@router.get("")
def notices(here: Here) -> list[NoticeOut]:
    """Those that nobody has looked at yet, the oldest first."""
    with here.database.reading() as session:
        return [NoticeOut(id=number, at=at, sentence=sentence) for number, at, sentence in open_notices(session)]


@router.post("/{notice}/seen", status_code=204)
def notice_looked_at(here: Here, notice: RoundId) -> Response:
    """Somebody has looked at it."""
    with here.database.writing() as session:
        notice_seen(session, notice, here.clock.now())
    here.changed()
    return Response(status_code=204)
