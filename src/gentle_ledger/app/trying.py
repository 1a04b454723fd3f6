"""What a formula comes to while it is being written. Nothing is kept in the round."""

from dataclasses import dataclass

from gentle_ledger.app.commands.columns import Formula
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.evaluated import evaluate
from gentle_ledger.core.columns.evaluation import Evaluation
from gentle_ledger.core.formulas.values import Wrong
from gentle_ledger.core.recipe.model import ColumnSettings

_NAMELESS = "\u2060"
"""The name of a column that has none yet: a mark of no width, which no sheet's column has for a name."""


def try_formula(opened: OpenRound, written: Formula) -> tuple[Evaluation, int]:
    """The round's columns with the one that is being written among them, and its position."""
    recipe = opened.recipe
    if written.was is not None:
        recipe = recipe.with_column(written.was, ColumnSettings())
    name = written.was or _NAMELESS
    settings = written.settings()
    if not settings.computed:
        settings = settings.model_copy(update={"formula": " "})
    found = evaluate(opened.readings, recipe.with_column(name, settings), opened.kept.left_out)
    position = found.columns.position(name)
    if position is None:  # pragma: no cover - the column was put in just above
        raise NotUsable("The column is not there.")
    return found.evaluation, position


@dataclass(frozen=True, slots=True)
class TriedOnAll:
    """A formula tried on all rows.

    Attributes:
        wrong: in how many of them it has no value.
        first: the first of these (from 0); None where there is none.
        label: what a clerk calls that row.
        why: what is wrong in it.
        blank: in how many it is blank.
    """

    wrong: int
    first: int | None
    label: str
    why: str
    blank: int


@dataclass(frozen=True, slots=True)
class ConditionTried:
    """A condition tried on all rows.

    Attributes:
        rows: in how many of them it is true.
        first: the first of these (from 0); None where there is none.
        label: what a clerk calls that row.
        unsure: in how many it cannot be said.
        why: why not, in the first of these.
    """

    rows: int
    first: int | None
    label: str
    unsure: int
    why: str


def try_condition(opened: OpenRound, when: str) -> ConditionTried:
    """In how many rows a condition is true that can be used, while it is being written."""
    composer = opened.composer
    condition = composer.evaluation.condition("", when)
    found, unsure, why = list[int](), 0, ""
    for row in range(len(opened.readings.sheet.rows)):
        try:
            if condition.is_true(composer.groups.place(row)):
                found.append(row)
        except Wrong as fault:
            unsure, why = unsure + 1, why or fault.why
    first = found[0] if found else None
    return ConditionTried(len(found), first, "" if first is None else composer.label(first), unsure, why)


def try_on_all_rows(opened: OpenRound, written: Formula) -> TriedOnAll:
    """What a formula comes to in all rows; it is kept for when the formula is put in."""
    evaluation, position = try_formula(opened, written)
    shown = evaluation.column(position).shown.whole()
    wrong = [(row, found.why) for row, found in enumerate(shown) if isinstance(found, Unreadable)]
    first, why = wrong[0] if wrong else (None, "")
    label = "" if first is None else opened.composer.label(first)
    return TriedOnAll(len(wrong), first, label, why, shown.count(None))
