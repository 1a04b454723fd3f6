"""Rounds and their rows."""

import json
from datetime import datetime, timedelta
from functools import lru_cache
from typing import NamedTuple, cast

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.pace.decide import Pace
from gentle_ledger.core.recipe.kept import kept_recipe, salvaged
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.store.cells import cells_from_json
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.models import Message, Round, RoundNumber, Row, SheetNumber
from gentle_ledger.store.releases import release_from_json
from gentle_ledger.store.sheets import KeptRows, put_sheet, use_sheet


def add_round(
    session: Session,
    sheet: Sheet,
    recipe: Recipe,
    file_name: str,
    worksheet: str | None,
    at: datetime,
    reading: str = "",
    laid: int | None = None,
) -> Round:
    """Stores a sheet and its recipe as a new round.

    The rows were written down under the number `laid` before, see `laid_sheet`; a short sheet's are written here.
    """
    number = RoundNumber()
    session.add(number)
    session.flush()
    found = Round(
        id=number.id,
        stage=Stage.PREPARING,
        recipe=kept_recipe(recipe),
        columns=json.dumps(sheet.columns, ensure_ascii=False),
        row_count=len(sheet.rows),
        file_name=file_name,
        worksheet=worksheet,
        reading=reading,
        version=1,
        sheet_version=1,
        created_at=at,
    )
    session.add(found)
    session.flush()
    found.sheet_id = put_sheet(session, sheet) if laid is None else laid
    use_sheet(session, found.sheet_id, found.id)
    return found


def round_of(session: Session, round_id: int) -> Round:
    """The round with that number. Raises NotThere."""
    found = session.get(Round, round_id)
    if found is None:
        raise NotThere("This round does not exist.", "Go back to the list of rounds.")
    if found.removed_at is not None:
        raise NotThere("This round was removed.", "It can be brought back from the foot of the list of rounds.")
    return found


def preparing_round(session: Session, round_id: int) -> Round:
    """The round if its set-up may still change. Raises NotNow once sending has started, and while part of the set-up
    cannot be used: nothing may be sent or built upon that by an oversight."""
    found = not_started(session, round_id)
    refuse_unusable(found)
    return found


def open_round(session: Session, round_id: int) -> Round:
    """The round whether sending has started or not: which of its rows can still be changed is told row by row."""
    found = round_of(session, round_id)
    refuse_unusable(found)
    return found


def refuse_unusable(found: Round) -> None:
    """Raises NotNow while part of a round's set-up cannot be used."""
    if lost := unusable_of(found):
        raise NotNow(
            f"Part of this round's set-up cannot be used: {listed(lost)}.",
            "Say on the desk that it goes on without that, and look at its rows again.",
        )


def not_started(session: Session, round_id: int) -> Round:
    """The round if sending has not started. Raises NotNow."""
    found = round_of(session, round_id)
    if found.stage != Stage.PREPARING:
        raise NotNow(
            "The wording, the rows and the amounts are locked since sending started.",
            "What was seen is what is sent; bring the sheet in again to make a new round.",
        )
    return found


def list_rounds(session: Session) -> list[tuple[Round, dict[Mark, int]]]:
    """All rounds, newest first, each with its count of texts by mark (empty before sending starts)."""
    counts: dict[int, dict[Mark, int]] = {}
    texts = select(Message.round_id, Message.mark, func.count()).where(Message.with_row.is_(None))
    # Of a round that is just being started some may stand there already.
    texts = texts.where(Message.round_id.not_in(select(Round.id).where(Round.stage == Stage.PREPARING)))
    grouped = texts.group_by(Message.round_id, Message.mark)
    for round_id, mark, n in session.execute(grouped):
        counts.setdefault(round_id, {})[Mark(mark)] = n
    rounds = session.scalars(
        select(Round).where(Round.removed_at.is_(None)).order_by(Round.created_at.desc(), Round.id.desc())
    )
    return [(found, counts.get(found.id, {})) for found in rounds]


KEPT_AFTER_REMOVAL = timedelta(days=1)


def remove_round(session: Session, round_id: int, at: datetime) -> None:
    """Removes a round that was never started; what was started stays on record.

    It is kept for a day, so that it can be brought back; what was removed before that goes for good.
    """
    not_started(session, round_id).removed_at = at
    # What hangs on a round goes with it, but its sheets: these may be long, and are cleared away in pieces.
    gone = Round.removed_at < at - KEPT_AFTER_REMOVAL
    session.execute(
        update(SheetNumber).where(SheetNumber.round_id.in_(select(Round.id).where(gone))).values(round_id=None)
    )
    session.execute(delete(Round).where(gone))


def removed_rounds(session: Session, at: datetime) -> list[Round]:
    """The rounds that were removed within a day and can be brought back, the last removed first."""
    lately = select(Round).where(Round.removed_at >= at - KEPT_AFTER_REMOVAL)
    return list(session.scalars(lately.order_by(Round.removed_at.desc())))


def restore_round(session: Session, round_id: int) -> None:
    """Brings a removed round back. Raises NotThere when it is not kept any more."""
    found = session.get(Round, round_id)
    if found is None:
        raise NotThere("This round is not kept any more.")
    found.removed_at = None


class SendingRound(NamedTuple):
    """What of a round the sender must know; see `Round`."""

    id: int
    recipe: str


def recipe_of(found: Round | SendingRound) -> Recipe:
    """The recipe, as far as it can be used; see `unusable_of`."""
    return salvaged(found.recipe)[0]


def pace_of(found: Round | SendingRound, office: str) -> Pace:
    """The pace of a round as the rules of sending have it, where the office is in that zone (IANA)."""
    return _pace_in(found.recipe, office)


@lru_cache(maxsize=64)
def _pace_in(recipe: str, office: str) -> Pace:
    # The sender asks for it before every text, and what it remembers of its hours is remembered with it.
    return salvaged(recipe)[0].pace.as_pace(office)


def unusable_of(found: Round) -> tuple[str, ...]:
    """What of the kept recipe cannot be used and was left out; () when all of it can."""
    return salvaged(found.recipe)[1]


def set_recipe(found: Round, recipe: Recipe) -> None:
    """Keeps a recipe; that the round is another one now is for the caller to note, see `app.edit`."""
    found.recipe = kept_recipe(recipe)


def columns_of(found: Round) -> list[str]:
    """The names of the sheet's columns."""
    return cast("list[str]", json.loads(found.columns))


def sheet_of(session: Session, found: Round) -> Sheet:
    """The whole sheet of a round, in order."""
    wanted = select(Row.cells).where(Row.sheet_id == found.sheet_id).order_by(Row.number)
    unseen = select(Row.number).where(Row.sheet_id == found.sheet_id, Row.hidden)
    texts: dict[str, str] = {}
    rows = [cells_from_json(text, texts) for text in session.scalars(wanted)]
    return Sheet(tuple(columns_of(found)), rows, frozenset(row_of_number(number) for number in session.scalars(unseen)))


def kept_rows_of(session: Session, found: Round) -> KeptRows:
    """Which rows (from 0) the clerk left out or released."""
    wanted = select(Row.number, Row.left_out, Row.released, Row.release)
    wanted = wanted.where(Row.sheet_id == found.sheet_id, Row.left_out | Row.released)
    flags = session.execute(wanted).all()
    return KeptRows(
        frozenset(row_of_number(number) for number, out, _, _ in flags if out),
        {row_of_number(number): release_from_json(release) for number, _, free, release in flags if free},
    )
