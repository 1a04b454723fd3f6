"""Rows of a started round that were mended: looked at anew, and written down as they are then."""

from gentle_ledger.app.counting.jobs import LookAnew, ReadAnew
from gentle_ledger.app.superseded import Superseded
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.checks import levels_in
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Standing as PlannedStanding
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.reopening import any_mended, none_twice, write_anew
from gentle_ledger.store.rounds import round_of
from gentle_ledger.web.context import Context

_TRIES = 20


def look_anew(here: Context, round_id: int) -> None:
    """Computes what is held in a started round, or was mended, and writes it down. Raises NotNow."""
    for _ in range(_TRIES):
        found, opened = here.opened(round_id)
        if found.stage == Stage.PREPARING:
            return
        try:
            rows = here.counting.answer(opened, ReadAnew(here.settings.zone))
        except Superseded:
            continue
        with here.database.writing() as session:
            found = round_of(session, round_id)
            if found.version == opened.version:
                if repeats_are_held(opened.recipe):
                    rows = none_twice(session, round_id, rows)
                if write_anew(session, found, rows, here.now()):
                    found.version += 1
                return
    raise NotNow("Others are changing this round all the time.", "Wait a moment, and do it once more.")


def repeats_are_held(recipe: Recipe) -> bool:
    """Whether a round holds what repeats a row; who has that off wants the same text to go twice."""
    level = levels_in(recipe).get("repeat")
    return level is not None and level.holds


def finish_looking(here: Context, round_id: int) -> None:
    """The same where somebody mended a row, and the program ended before it was looked at anew."""
    with here.database.reading() as session:
        left = any_mended(session, round_id)
    if left:
        look_anew(here, round_id)


def standing_anew(here: Context, round_id: int, number: RowNumber) -> PlannedStanding:
    """Where a row stands that is looked at anew. Raises Superseded."""
    _, opened = here.opened(round_id)
    return here.counting.answer(opened, LookAnew(row_of_number(number)))
