"""What is done about the columns of a sheet that say which rows were sent: nothing in silence.

A mark column of ours is heeded at once, by a rule of the round that one press takes back. Another one that reads like
it is asked about, and its rows are held until somebody has said.
"""

from gentle_ledger.core.recipe import LeaveOutRule, Recipe
from gentle_ledger.core.sheets.model import Sheet, column_key
from gentle_ledger.core.sheets.sent_marks import SentMarks, sent_marks


def answered(recipe: Recipe, marks: SentMarks, leave_out: bool) -> Recipe:
    """The recipe with the answer to what a column is: its rows are left out by a rule, or it is something else."""
    reason = f"{marks.column} says that it was sent"
    rules = tuple(rule for rule in recipe.leave_out if rule.reason != reason)
    if leave_out:
        rules = (*rules, LeaveOutRule(when=marks.when, reason=reason))
    others = {name: said for name, said in recipe.sent_columns.items() if column_key(name) != column_key(marks.column)}
    return recipe.model_copy(update={"leave_out": rules, "sent_columns": {**others, marks.column: leave_out}})


def heeded(recipe: Recipe, sheet: Sheet) -> Recipe:
    """The recipe for a sheet that was just brought in: what our own mark columns say is heeded.

    An answer of an earlier round stays where it says that the column is something else; where it says that rows are
    left out, its rule is made anew for what stands in this sheet.
    """
    for marks in sent_marks(sheet):
        answer = recipe.sent_answer(marks.column)
        if answer or (answer is None and marks.ours):
            recipe = answered(recipe, marks, True)
    return recipe
