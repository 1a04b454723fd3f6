"""What a round remembers of its file, so that the next one that is made in the same way opens without a question."""

from gentle_ledger.core.recipe.model import FileAnswers, Recipe
from gentle_ledger.core.sheets.bring_in import Before, BroughtIn, Choice


def before_of(recipe: Recipe) -> Before:
    """What was said of the file of an earlier round, by its recipe."""
    file = recipe.file
    return Before(file.worksheet or None, file.characters or None, file.commas)


def remembering(recipe: Recipe, brought: BroughtIn, choice: Choice) -> Recipe:
    """The recipe with what was said of the file that was brought in, and was seen of it; what else was said stays."""
    before = recipe.file
    said = FileAnswers(
        worksheet=brought.worksheet if brought.worksheet and len(brought.worksheets) > 1 else before.worksheet,
        characters=choice.characters or before.characters,
        left_out=tuple(sorted({*before.left_out, *brought.reading.left_out})),
        commas={**before.commas, **brought.commas},
    )
    return recipe.model_copy(update={"file": said})
