"""How the program is: whether the ledger can be written, who sends by which line, the last copy, the version."""

import time

from fastapi import APIRouter
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from gentle_ledger import __version__
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.words import count
from gentle_ledger.store.copies import kept_copies
from gentle_ledger.store.errors import Trouble, cannot_write, no_room_at
from gentle_ledger.store.lines import kept_away, line_in_use, lines_at_work
from gentle_ledger.store.models import LineRecord
from gentle_ledger.store.presence import heard, runs
from gentle_ledger.store.senders import turn_of
from gentle_ledger.store.statements import statements_of
from gentle_ledger.version import commit, version_said
from gentle_ledger.web.context import Context, Here
from gentle_ledger.web.health.schemas import HealthOut, LineHealth

router = APIRouter(prefix="/api/health", tags=["health"])

_PATIENCE = 1.0
"""Seconds for which the ledger may be locked before that is said: whoever asks waits."""


@router.get("")
def health(here: Here) -> HealthOut:
    """How the program is. It answers with 200 also where it is not well; `well` says so."""
    lines: list[LineHealth] = []
    trouble = _trouble_of_ledger(here)
    try:
        with here.database.reading() as session:
            lines = _lines(here, session)
    except (SQLAlchemyError, LedgerError) as fault:
        trouble = trouble or _sentence(fault)
    copies = kept_copies(here.database.path)
    last_copy = copies[0].at if copies else None
    found = HealthOut(
        well=not trouble and not here.signal.copy_trouble and all(_is_well(line) for line in lines),
        said=[],
        version=__version__,
        commit=commit(),
        ledger=str(here.database.path.absolute()),
        writable=not trouble,
        trouble=trouble,
        lines=lines,
        last_copy=last_copy,
        copy_trouble=here.signal.copy_trouble,
    )
    return found.model_copy(update={"said": _said(here, found)})


def _trouble_of_ledger(here: Context) -> str:
    """Why the ledger cannot be written at present, as a sentence; "" where it can."""
    try:
        with here.database.writing_bare(patience=_PATIENCE):
            return no_room_at(here.database.path)
    except (SQLAlchemyError, OSError, LedgerError) as fault:
        return _sentence(fault)


def _sentence(fault: Exception) -> str:
    known = fault if isinstance(fault, LedgerError) else cannot_write(fault)
    return known.sentence if known else "The ledger cannot be read or written. Look into the log."


def _lines(here: Context, session: Session) -> list[LineHealth]:
    in_use = line_in_use(session)
    return [_line(here, session, line, line is in_use, going) for line, going in lines_at_work(session)]


def _line(here: Context, session: Session, line: LineRecord, in_use: bool, going: int) -> LineHealth:
    turn = turn_of(statements_of(session), line.id)
    said = heard(here.database.path, line.id)
    trouble = here.trouble_of(turn)
    if not trouble.reason and (away := kept_away(line)):
        trouble = Trouble(away.reason, away.since)
    return LineHealth(
        line=line.identity or line.name,
        in_use=in_use,
        sender=runs(turn),
        heard=None if said is None else round(max(0.0, time.monotonic() - said.beat), 1),
        trouble=trouble.reason,
        since=trouble.since,
        going=going,
    )


def _is_well(line: LineHealth) -> bool:
    return not line.trouble and (line.sender or not (line.in_use or line.going))


def _said(here: Context, found: HealthOut) -> list[str]:
    said = [version_said(), f"Ledger: {found.ledger}, can be written."]
    if found.trouble:
        said[-1] = f"Ledger: {found.ledger}. {found.trouble}"
    for line in found.lines:
        rounds = f"; {count(line.going, 'round')} going" if line.going else ""
        there = "a sender is there" if line.sender else "no sender runs"
        last = "" if line.heard is None else f", heard of {line.heard:.0f} s ago"
        said.append(f"Line {line.line}: {there}{last}{rounds}.")
        if line.trouble:
            since = f" So it is since {here.at_office(line.since):%Y-%m-%d %H:%M}." if line.since else ""
            said[-1] += f" {line.trouble.removesuffix('.')}.{since}"
    at = f"{here.at_office(found.last_copy):%Y-%m-%d %H:%M}" if found.last_copy else "none"
    said.append(f"Last copy: {at}.{f' {found.copy_trouble}' if found.copy_trouble else ''}")
    said.append("All is well." if found.well else "Something needs somebody, see above.")
    return said
