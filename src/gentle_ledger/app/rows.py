"""Which rows of a round are looked for."""

from sqlalchemy.orm import Session

from gentle_ledger.app.counting.client import Counting
from gentle_ledger.app.counting.jobs import FindWords
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.core.recipe.model import place_of
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.messages import rows_with_mark
from gentle_ledger.store.models import Round


def fitting(
    counting: Counting,
    session: Session,
    found: Round,
    opened: OpenRound,
    mark: str | None,
    finding: str | None,
    words: str,
    wording: str | None = None,
) -> list[int]:
    """The rows (from 0) that have this mark, this finding, this wording and these words, in order.

    None and "" ask for nothing; the wording for all the rest goes by its own name.
    """
    passing: set[int] | None = None
    if finding is not None and found.stage == Stage.PREPARING:
        passing = set(counting.counted(opened).rows_found(finding))
    if mark is not None and found.stage == Stage.PREPARING:
        marked = set(counting.counted(opened).rows_with(mark))
        passing = marked if passing is None else passing & marked
    elif mark is not None:
        passing = {row_of_number(number) for number in rows_with_mark(session, found.id, mark)}
    if wording is not None and found.stage == Stage.PREPARING:
        reading = set(counting.counted(opened).rows_reading(place_of(opened.recipe, wording)))
        passing = reading if passing is None else passing & reading
    if words.strip():
        holding = counting.answer(opened, FindWords(words))
        return [row for row in holding if passing is None or row in passing]
    return list(range(found.row_count)) if passing is None else sorted(passing)
