"""The drawer: wordings kept across rounds."""

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.models import KeptWording


def kept_wordings(session: Session) -> list[KeptWording]:
    """What is in the drawer, by name."""
    found = session.scalars(select(KeptWording).where(KeptWording.removed_at.is_(None)))
    return sorted(found, key=lambda each: (column_key(each.name), each.id))


def kept_wording(session: Session, number: int) -> KeptWording:
    """One of them. Raises NotThere."""
    found = session.get(KeptWording, number)
    if found is None or found.removed_at is not None:
        raise NotThere("This wording is not in the drawer any more.")
    return found


def keep_wording(session: Session, name: str, text: str, at: datetime) -> KeptWording:
    """Puts a wording into the drawer. Raises NotNow for a name that is taken."""
    _refuse_taken(session, name)
    found = KeptWording(name=name, text=text, kept_at=at)
    session.add(found)
    session.flush()
    return found


def rename_wording(session: Session, number: int, name: str) -> KeptWording:
    """Gives one another name. Raises NotThere, or NotNow for a name that is taken."""
    found = kept_wording(session, number)
    if column_key(found.name) != column_key(name):
        _refuse_taken(session, name)
    found.name = name
    return found


def remove_wording(session: Session, number: int, at: datetime) -> None:
    """Takes one out for good, unless it is brought back. Raises NotThere."""
    kept_wording(session, number).removed_at = at


def bring_wording_back(session: Session, number: int) -> None:
    """Puts one back that was removed. Raises NotThere, or NotNow where another has its name by now."""
    found = session.get(KeptWording, number)
    if found is None:
        raise NotThere("This wording was never in the drawer.")
    if found.removed_at is not None:
        _refuse_taken(session, found.name)
        found.removed_at = None


def _refuse_taken(session: Session, name: str) -> None:
    if any(column_key(each.name) == column_key(name) for each in kept_wordings(session)):
        raise NotNow(f"There is a wording “{name}” in the drawer already.", "Choose another name.")
