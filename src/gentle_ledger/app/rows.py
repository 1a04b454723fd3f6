"""Which rows of a round are looked for."""

from sqlalchemy.orm import Session

from gentle_ledger.app.open_rounds import OpenRound, RoundCache
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.messages import rows_with_mark
from gentle_ledger.store.models import Round


def fitting(
    rounds: RoundCache,
    session: Session,
    found: Round,
    opened: OpenRound,
    mark: str | None,
    finding: str | None,
    words: str,
) -> list[int]:
    """The rows (from 0) that have this mark, this finding and these words, in order; None and "" ask for nothing."""
    passing: set[int] | None = None
    if finding is not None and found.stage == Stage.PREPARING:
        passing = {each.row for each in opened.computed().by_check.get(finding, ())}
    if mark is not None and found.stage == Stage.PREPARING:
        marked = {row for row, stands in enumerate(opened.computed().marks) if stands == mark}
        passing = marked if passing is None else passing & marked
    elif mark is not None:
        passing = {number - 1 for number in rows_with_mark(session, found.id, mark)}
    if words.strip():
        holding = rounds.search(opened, words)
        return [row for row in holding if passing is None or row in passing]
    return list(range(found.row_count)) if passing is None else sorted(passing)
