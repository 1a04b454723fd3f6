"""What a formula comes to while it is being written. Nothing is kept in the round."""

from gentle_ledger.app.commands.columns import Formula
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.by_row import giving_way
from gentle_ledger.core.columns.evaluation import Evaluation, evaluate
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


def try_on_all_rows(opened: OpenRound, written: Formula) -> tuple[list[int], int, str]:
    """The rows (from 0) in which it has no value, in how many it is blank, and what is wrong with the first."""
    evaluation, position = try_formula(opened, written)
    shown = evaluation.column(position).shown
    wrong: list[int] = []
    blank, why = 0, ""
    for row in giving_way(range(len(shown)), opened.give_way):
        found = shown[row]
        if isinstance(found, Unreadable):
            why = why or found.why
            wrong.append(row)
        elif found is None:
            blank += 1
    return wrong, blank, why
