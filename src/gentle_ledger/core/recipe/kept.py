"""A recipe as a round keeps it, with the version of its form; earlier forms are brought up to date as tables are."""

import json
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.recipe.model import FORM, Recipe

Step = Callable[[dict[str, Any]], dict[str, Any]]


def _from_no_form(data: dict[str, Any]) -> dict[str, Any]:
    """What was kept before forms had a version is of the first one."""
    return data


STEPS: dict[int, Step] = {0: _from_no_form}
"""From each form to the next one; the key is the form it starts from."""

NEWER = "all of it, which a newer version of the program wrote"


def kept_recipe(recipe: Recipe) -> str:
    """A recipe as JSON, as `salvaged` reads it back."""
    return recipe.model_dump_json()


_BY_NAME = ("columns", "lookups")
"""The parts of a recipe of which one entry can be left out by itself."""


def salvaged(text: str) -> tuple[Recipe, tuple[str, ...]]:
    """A recipe kept as JSON, and the names of what in it cannot be used and was left out.

    A round that another version kept, or that was damaged, must open all the same, so that it can be seen and mended.
    """
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        data = None
    if isinstance(data, dict):
        form = data.get("form", 0)
        if not isinstance(form, int) or form > FORM:
            return Recipe(), (NEWER,)
        for step in range(form, FORM):
            data = STEPS[step](data)
        data["form"] = FORM
    lost: list[str] = []
    while isinstance(data, dict):
        try:
            return Recipe.model_validate(data), tuple(lost)
        except ValidationError as fault:
            place = fault.errors(include_url=False)[0]["loc"]
            if not place or place[0] not in data:
                break
            holder, key = data, place[0]
            if key in _BY_NAME and len(place) > 1 and isinstance(data[key], dict) and place[1] in data[key]:
                holder, key = data[key], place[1]
            del holder[key]
            lost.append(clipped(str(key)))
    return Recipe(), ("all of it",)
