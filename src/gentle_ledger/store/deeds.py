"""What a window asked for: done once, however often it asks, and by whom of several windows."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import DeedDone, Round


@dataclass(frozen=True, slots=True)
class Deed:
    """What a window says of something it asks for.

    Attributes:
        key: asked for once more under the same key, it is done once all the same
            (draft-ietf-httpapi-idempotency-key-header, section 2); "" where it has none.
        window: a random name of the window; "" where it says none.
        uid: the random id of the round as the window knows it; "" where it says none.
        seen: the newest version of the round that the window had shown by then; None where it does not say.
    """

    key: str = ""
    window: str = ""
    uid: str = ""
    seen: int | None = None


NO_DEED = Deed()


class OtherLedger(NotNow):
    """It was typed for a round of another ledger that had the same number."""

    kind = "another ledger"


@dataclass(frozen=True, slots=True)
class Done:
    """That it was done, and the number of the change; None where nothing had to be changed."""

    change: int | None


def done_already(session: Session, found: Round, deed: Deed) -> Done | None:
    """What became of a deed that was asked for before; None where it was not. Raises OtherLedger."""
    if deed.uid and deed.uid != found.uid:
        raise OtherLedger(
            "This was typed for a round of another ledger, and is not written into this one.",
            "Start the program with the ledger it was typed for, or give it up.",
        )
    known = session.get(DeedDone, (found.id, deed.key)) if deed.key else None
    return Done(known.change_id) if known else None


def note_done(session: Session, found: Round, deed: Deed, change: int | None, at: datetime) -> None:
    """Notes that it was done, within the transaction that does it."""
    if deed.key:
        session.add(DeedDone(key=deed.key, round_id=found.id, change_id=change, at=at))
        session.flush()
