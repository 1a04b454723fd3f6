"""A stretch of a wording that is for some rows only: it becomes a computed column of words, and its field."""

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.columns.column_set import ColumnSet
from gentle_ledger.core.formulas.parse import FormulaError, parse_formula
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.wording.parse import Field, parse_wording

USUAL_NAME = "Extra words"
"""What the column of a stretch is called, where the clerk gives it no name."""


def stretch_formula(stretch: str, when: str, columns: ColumnSet) -> str:
    """The formula of a stretch: its words with the fields joined in where `when` is true, else no text.

    A field that is blank holds its row as it does in a wording, unless words are set for it.
    """
    pieces: list[str] = []
    for piece in parse_wording(stretch).pieces:
        if isinstance(piece, Field):
            position = columns.position(piece.name)
            words = None if position is None else columns.fallback(position)
            field = f"{{{piece.name}}}"
            pieces.append(f"NEEDED({field})" if words is None else f"IF(ISBLANK({field}); {quoted(words)}; {field})")
        else:
            pieces.append(quoted(piece))
    return f'IF({when.strip()}; {" & ".join(pieces)}; "")'


def quoted(text: str) -> str:
    """A text as it stands in a formula."""
    return '"' + text.replace('"', '""') + '"'


def with_stretch(
    recipe: Recipe, columns: ColumnSet, wording: str | None, start: int, end: int, when: str, name: str = ""
) -> tuple[Recipe, str]:
    """A recipe in which a stretch of a wording is for some rows only, and the name of its column.

    Args:
        recipe: the set-up.
        columns: the columns there are.
        wording: the name of the wording; None for the plain one.
        start, end: the stretch, in code points of the wording.
        when: the condition under which it stands in the text, a formula.
        name: of the new column; "" for a usual one.

    Raises RecipeError where the stretch or the condition cannot be used.
    """
    text = next((each.text for each in recipe.wordings if each.name == wording), recipe.wording)
    stretch = text[start:end]
    if not stretch.strip():
        raise RecipeError("Nothing is marked in the wording.", "Mark the words that are for some rows only.")
    fields = parse_wording(text).fields
    if any(field.start < edge < field.end for field in fields for edge in (start, end)):
        raise RecipeError("The marked words cut through a field.", "Mark it whole, or leave it out.")
    try:
        parse_formula(when)
    except FormulaError as fault:
        raise RecipeError(f"The condition cannot be used: {fault.what}", fault.remedy) from fault
    name = _free(" ".join(name.split()) or USUAL_NAME, columns)
    settings = ColumnSettings(formula=stretch_formula(stretch, when, columns), role=Role.TEXT)
    changed = f"{text[:start]}{{{name}}}{text[end:]}"
    recipe = recipe.with_column(name, settings)
    if wording is None:
        return recipe.model_copy(update={"wording": changed}), name
    others = tuple(e.model_copy(update={"text": changed}) if e.name == wording else e for e in recipe.wordings)
    return recipe.model_copy(update={"wordings": others}), name


def _free(name: str, columns: ColumnSet) -> str:
    taken = {column_key(other) for other in columns.names}
    free, n = name, 2
    while column_key(free) in taken:
        free, n = f"{name} {n}", n + 1
    return free
