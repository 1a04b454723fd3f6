"""How a column as a whole writes its figures and its days: what its cells show, and what they leave open."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import clipped, count, listed


class Order(StrEnum):
    """How the cells of a column are to be taken where they could be taken in several ways."""

    DAY_FIRST = "day first"
    MONTH_FIRST = "month first"
    YEAR_FIRST = "year first"
    POINT = "decimal point"
    COMMA = "decimal comma"
    EACH = "each by itself"
    CLOCKS = "the office's clocks"
    AS_WRITTEN = "the day as written"


FIGURES = (Order.POINT, Order.COMMA)
DAYS = (Order.DAY_FIRST, Order.MONTH_FIRST, Order.YEAR_FIRST)
MOMENTS = (Order.CLOCKS, Order.AS_WRITTEN)
"""A midnight of another place is a moment, which has its day by the office's clocks, or stands for its day alone."""


def answer_for(role: Role, answer: Order | None) -> Order | None:
    """The clerk's answer where it is one for such a role; one for days says nothing of figures."""
    fitting = FIGURES if role.counts else (*DAYS, *MOMENTS) if role is Role.DATE else ()
    return answer if answer in fitting or (fitting and answer is Order.EACH) else None


@dataclass(frozen=True, slots=True)
class Reading:
    """How a column is read, and why.

    Attributes:
        order: the way all its cells are taken; None while that is a question, or where no cell needs to be told.
        evidence: how many cells can be read in this way only.
        example: one of these cells, and what it is read as; "" when there is none.
        question: what the clerk is to be asked, a whole sentence; "" when the cells leave nothing open.
        answers: the orders that can answer it, each with what the cell in question would then be.
        answered: whether the clerk has said it: a cell that can be read in one way only stays as it is all the same.
    """

    order: Order | None = None
    evidence: int = 0
    example: str = ""
    question: str = ""
    answers: tuple[tuple[Order, str], ...] = ()
    answered: bool = False

    @property
    def said(self) -> str:
        """Why the column is read as it is, in one sentence; "" where nothing had to be told."""
        if self.question or not self.example:
            return self.question
        if not self.evidence:
            return f"{self.example}, as is usual here."
        return f"{self.example}: {count(self.evidence, 'cell')} can be read in this way only."


_FEWEST = 2
"""One cell alone may be a slip: it decides nothing for others."""


def decides(evidence: int, doubtful: int) -> bool:
    """Whether the cells that can be read in one way only tell how those are meant that could be read in several.

    At least two of them, and no fewer than those they speak for: so a slip cannot turn a column.
    """
    return evidence >= max(_FEWEST, doubtful)


Place = tuple[int, str]
"""A row of a column, from 0, and what stands in it."""


def asked(cells: Iterable[Place], ask: str, orders: Iterable[Order], under: Callable[[str, Order], str]) -> Reading:
    """A question about the cells of a column.

    Args:
        cells: those in question.
        ask: the question itself, behind the cells: "which comes first in this column?"
        orders: the possible answers.
        under: says what a cell is in an order.
    """
    inside = sorted(cells)
    stand = listed([f"{quoted(cell)} in row {number_of_row(row)}" for row, cell in inside])
    answers = ((order, listed([f"{quoted(cell)} is {under(cell, order)}" for _, cell in inside])) for order in orders)
    return Reading(question=f"{stand}: {ask}", answers=tuple(answers))


def each_by_itself(cells: Iterable[Place], under: Callable[[str, Order], str]) -> str:
    """That cells which are written in different ways can each be read in one way only."""
    return listed([f"{quoted(cell)} is read as {under(cell, Order.EACH)}" for _, cell in cells])


def quoted(typed: str) -> str:
    """A cell in the quotation marks of a question, cut short when it is long."""
    return f"“{clipped(typed)}”"


def with_answer(found: Reading, said: Order | None, again: Callable[[], Reading]) -> Reading:
    """How cells are read once the clerk has said it.

    Cells that decide for themselves leave no question: an answer against all of them was given about others, and is
    asked for anew.

    Args:
        found: how they are read without it.
        said: the answer, where there is one.
        again: reads them so that they decide nothing for those that can be read in several ways.
    """
    own = found.order
    if said is None or found == Reading():
        return found
    if found.question or not found.evidence or said in {own, Order.EACH, *MOMENTS}:
        return Reading(said, answered=True)
    asked_anew = again()
    if not asked_anew.question:
        return found
    ask = f"{asked_anew.question} The answer was “{said}”, but {count(found.evidence, 'cell')} can only be “{own}”."
    return replace(asked_anew, question=ask, answers=tuple(each for each in asked_anew.answers if each[0] is not said))
