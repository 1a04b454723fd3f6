"""What all parts of a recipe have in common."""

from pydantic import BaseModel, ConfigDict

MOST_CHARACTERS = 10_000
"""Characters a wording, a formula or any other entry of a recipe may have: some 65 parts of a text."""


class RecipePart(BaseModel):
    """A part of a recipe: it does not change, and has no settings but those that are known."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_max_length=MOST_CHARACTERS)
