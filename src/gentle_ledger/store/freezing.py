"""The texts of a round as they are written down when it starts: in pieces, before, where there are many.

Until the round starts they count for nothing, and whoever reads the texts of more than one round leaves those of rounds
that were not started out, see `STARTED`.
"""

import json
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any, cast

from sqlalchemy import Table, func, insert, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import LedgerEntry, Message, Round
from gentle_ledger.store.sheets import is_at_it
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import Statements
from gentle_ledger.store.steps import reasons_as_kept
from gentle_ledger.store.turns import zones_as_text

PIECE = 500
"""Texts that are written together: some ten milliseconds, for which nobody else can write."""
_INSERT_TEXT = insert(cast("Table", Message.__table__))
"""Straight into the table: nothing of the text is needed as an object."""
STARTED = Message.round_id.not_in(select(Round.id).where(Round.stage == Stage.PREPARING))
"""What a text must be to count for anything where the texts of several rounds are read."""


def texts_of_rows(
    round_id: int, rows: Iterable[FrozenRow], going: Iterable[FrozenRow], at: datetime
) -> list[dict[str, Any]]:
    """Every row's number, text and mark as they are kept.

    `going` are the rows whose own texts are to be sent; others that are ready stay Ready.
    """
    chosen = {frozen.row for frozen in going}
    return [
        {
            "round_id": round_id,
            "row": number_of_row(frozen.row),
            "label": frozen.label,
            "address": frozen.number,
            "text": frozen.text,
            "parts": frozen.parts,
            "with_row": None if frozen.bears == frozen.row else number_of_row(frozen.bears),
            "mark": frozen.mark.once_started(chosen=frozen.bears in chosen),
            **reasons_as_kept(frozen.reasons),
            "may_retry": False,
            "tries": 0,
            "uncertain": False,
            "codes": json.dumps(frozen.codes, ensure_ascii=False),
            "released": frozen.released.sentence if frozen.released else "",
            "release": frozen.released.as_json() if frozen.released else "{}",
            "marked_at": at,
            "place": frozen.row if frozen.place is None else frozen.place,
            "moment": None if frozen.moment is None else datetime.fromtimestamp(frozen.moment, UTC),
            "zones": zones_as_text(frozen.zones),
        }
        for frozen in rows
    ]


def freeze(session: Session, found: Round, rows: Iterable[FrozenRow], at: datetime) -> None:
    """Writes all rows of a short round down and starts it, in one transaction: all that are ready go."""
    all_rows = list(rows)
    session.execute(_INSERT_TEXT, texts_of_rows(found.id, all_rows, all_rows, at))
    begin(session, found, at)


def lay_texts(database: Database, round_id: int, version: int, texts: Sequence[dict[str, Any]], token: str) -> None:
    """Writes texts down in pieces, for a round that was computed at that version, under a name, see `at_work`.

    Raises NotNow when the round was changed since, was started, or is just being started by somebody else.
    """
    with database.writing() as session:
        found = _as_computed(session, round_id, version)
        if is_at_it(found.laid_by):
            raise NotNow("This round is just being started in another window.", "Look at it there.")
        found.laid_by = token
    while _clear_piece(database, round_id, token):
        pass
    for start in range(0, len(texts), PIECE):
        with database.writing(piece=True) as session:
            if _as_computed(session, round_id, version).laid_by != token:
                raise NotNow("This round is just being started in another window.", "Look at it there.")
            session.execute(_INSERT_TEXT, texts[start : start + PIECE])


def _as_computed(session: Session, round_id: int, version: int) -> Round:
    found = session.get(Round, round_id)
    if found is None or found.stage != Stage.PREPARING or found.version != version:
        raise NotNow(
            "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
        )
    return found


def begin_laid(session: Session, found: Round, token: str, texts: int, at: datetime) -> None:
    """Starts a round of which so many texts were laid under that name. Raises NotNow where they are not there."""
    there = session.scalar(select(func.count()).select_from(Message).where(Message.round_id == found.id))
    if found.laid_by != token or there != texts:
        raise NotNow("This round was just being started in another window as well.", "Look at it, and send.")
    begin(session, found, at)


def begin(session: Session, found: Round, at: datetime) -> None:
    """Starts a round whose texts stand there. Nothing computed changes after this."""
    step_stage(found, Stage.SENDING)
    found.started_at, found.laid_by = at, ""
    found.started_as = last_start(session) + 1
    session.flush()


def last_start(session: Session) -> int:
    """How often a round was started so far."""
    return session.scalar(select(func.max(Round.started_as))) or 0


def take_back(found: Round) -> None:
    """Brings a round of which nothing went back to being prepared.

    Its texts count for nothing any more, and are cleared away then, see `clear_texts`. A trigger of the store refuses
    this where something went.
    """
    step_stage(found, Stage.PREPARING)
    found.started_at, found.turn = None, 0


def anything_of(session: Session, round_id: int, since: int = 0) -> bool:
    """Whether anything of a round is on record, after an entry: a text was handed over, or somebody saw to one."""
    mine = Message.round_id == round_id
    if since:
        # The few entries since then are looked through, and not the many texts of the round.
        of_round = select(Message.id).where(Message.id == LedgerEntry.message_id, mine).exists()
        wanted = select(LedgerEntry.id).where(LedgerEntry.id > since, of_round)
    else:
        wanted = select(LedgerEntry.id).join(Message, Message.id == LedgerEntry.message_id).where(mine)
    return session.scalar(wanted.limit(1)) is not None


def clear_texts(database: Database, round_id: int) -> None:
    """Clears away, in pieces, the texts of a round that was not started, or was taken back.

    Not those that somebody is just writing down.
    """
    while _clear_piece(database, round_id):
        pass


def _clear_piece(database: Database, round_id: int, token: str | None = None) -> bool:
    with database.writing_bare(piece=True) as ledger:
        found = ledger.first("SELECT stage, laid_by FROM rounds WHERE id = ?", round_id)
        if found is None or found[0] != Stage.PREPARING or (found[1] != token and is_at_it(found[1])):
            return False
        return (
            ledger.run(
                "DELETE FROM messages WHERE id IN (SELECT id FROM messages WHERE round_id = ? LIMIT ?)", round_id, PIECE
            ).rowcount
            > 0
        )


def rounds_to_clear(ledger: Statements) -> list[int]:
    """The rounds that were not started and have texts all the same."""
    found = ledger.rows(
        "SELECT id FROM rounds WHERE stage = ? AND EXISTS (SELECT 1 FROM messages WHERE round_id = rounds.id)",
        Stage.PREPARING,
    )
    return [round_id for (round_id,) in found]
