"""Having rows counted: what the program asks the counting processes, and what it keeps of their answers."""

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from typing import Any, TypeVar, cast

from gentle_ledger.app.counting.counted import Counted, StillSo
from gentle_ledger.app.counting.jobs import CountRows, GroupRows, Job
from gentle_ledger.app.counting.messages import Outcome
from gentle_ledger.app.counting.pool import Place, Pool, ProcessGone
from gentle_ledger.app.faults import JobFailed
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.superseded import Superseded
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.store.database import Database
from gentle_ledger.store.history import read_so_far

T = TypeVar("T")


class NotCounted(LedgerError):
    """The process that counts rows ended, twice in a row."""

    kind = "not counted"
    status = 503

    def __init__(self) -> None:
        super().__init__(
            "The rows could not be counted: the part of the program that does that has ended.",
            "Try again. If it happens again, the machine may be short of memory; close other programs.",
        )


class Counting:
    """Asks the counting processes about the rounds of one ledger file."""

    def __init__(self, database: Database, now: Callable[[], datetime], pool: Pool, office: str = "UTC") -> None:
        self._database = database
        self._now = now
        self._pool = pool
        self._office = office

    def answer(self, opened: OpenRound, job: Job[T]) -> T:
        """The answer to a job on all rows of a round.

        Waits for it. Raises Superseded when a newer state took this one's place, and NotCounted.
        """
        try:
            answer = self._pool.ask(
                self._place(opened.round_id), opened.version, self._now(), job, lambda: not opened.superseded
            )
        except ProcessGone as fault:
            raise NotCounted() from fault
        if answer.outcome is Outcome.SUPERSEDED:
            raise Superseded()
        if answer.outcome is Outcome.REFUSED:
            raise _refusal(answer.found)
        if answer.outcome is Outcome.FAILED:
            raise JobFailed(f"in a counting process\n{answer.found}")
        return cast("T", answer.found)

    def counted(self, opened: OpenRound) -> Counted:
        """Marks, findings and sums of all rows: counted once, and anew when another round wrote to one of its numbers.

        Raises as `answer` does.
        """
        with opened.counting:
            known = opened.counted
            if known is None or self._goes_on(known):
                found = self.answer(opened, CountRows(known.token if known else None))
                # Only of what it was told is known can the process say that it still holds.
                known = replace(cast("Counted", known), read=found.read) if isinstance(found, StillSo) else found
                opened.counted = known
            return known

    def _goes_on(self, known: Counted) -> bool:
        """True when other rounds did something since; whether it concerns this one's numbers is for the count."""
        with self._database.reading() as session:
            return read_so_far(session) != known.read

    def groups(self, opened: OpenRound) -> Groups:
        """Which rows of a round go together. To tell that, the numbers of all of them are read."""
        try:
            return self.answer(opened, GroupRows())
        except Superseded:
            # Whoever looks at a state that is about to be replaced looks at that one, and not at a newer one.
            return evaluate(opened.readings, opened.recipe, opened.kept.left_out).evaluation.groups

    def end(self, opened: OpenRound) -> None:
        """Ends what is under way on a round: a newer state of it is there."""
        self._pool.end(self._place(opened.round_id), opened.version)

    def percent(self, round_id: int) -> int:
        """How far the counting of a round's rows is; 0 while its sheet is still being read."""
        return self._pool.percent(self._place(round_id))

    def _place(self, round_id: int) -> Place:
        return self._database.path, round_id, self._office


def _refusal(found: object) -> LedgerError:
    """The error that a job ended with, as it was there."""
    kind, said = cast("tuple[type[LedgerError], dict[str, Any]]", found)
    fault = kind.__new__(kind, f"{said['what']} {said['remedy']}".strip())
    vars(fault).update(said)
    return fault
