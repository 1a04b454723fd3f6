"""What is done about the columns of a sheet that say which rows were sent: nothing in silence.

A mark column of ours is heeded at once: the rows that it says were sent are left out, and one press takes that back.
Another one that reads like it is asked about, and its rows are held until somebody has said.
"""

from collections.abc import Iterable, Iterator

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.columns.combining import Groups
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.sent_marks import SentMarks, sent_marks


def answered(recipe: Recipe, column: str, leave_out: bool) -> Recipe:
    """The recipe with the answer to what a column is: its rows are left out, or it is something else."""
    others = {name: said for name, said in recipe.sent_columns.items() if column_key(name) != column_key(column)}
    return recipe.model_copy(update={"sent_columns": {**others, column: leave_out}})


def heeded(recipe: Recipe, sheet: Sheet) -> Recipe:
    """The recipe for a sheet that was just brought in: our own mark columns are heeded, unless they have an answer."""
    for marks in sent_marks(sheet):
        if marks.ours and recipe.sent_answer(marks.column) is None:
            recipe = answered(recipe, marks.column, True)
    return recipe


def sent_before(recipe: Recipe, columns: Iterable[SentMarks], groups: Groups) -> Iterator[tuple[int, SentMarks, bool]]:
    """The rows that were sent by what a column says: each with that column, and whether it is left out or held.

    It is held while nobody has said what the column is, and where only some of the rows of one text were sent: one text
    for all of them cannot be sent in part.
    """
    for marks in columns:
        answer = recipe.sent_answer(marks.column)
        for row in sorted(marks.rows) if answer is not False else ():
            together = groups.together(row) or (row,)
            yield row, marks, bool(answer) and marks.rows.issuperset(together)
