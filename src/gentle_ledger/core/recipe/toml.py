"""A recipe to and from TOML."""

import tomllib
from decimal import Decimal

import tomli_w
from pydantic import ValidationError

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.recipe.model import FORM, Recipe


def recipe_from_bytes(data: bytes) -> Recipe:
    """A recipe from a file's bytes. Raises RecipeError, naming the key that is wrong."""
    try:
        return recipe_from_toml(data.decode("utf-8-sig"))
    except UnicodeDecodeError as fault:
        raise RecipeError("The settings file is not UTF-8 text, as TOML has to be.") from fault


def recipe_from_toml(text: str) -> Recipe:
    """Raises RecipeError naming the key that is wrong."""
    try:
        data = tomllib.loads(text, parse_float=Decimal)
        form = data.get("form", FORM)
        if isinstance(form, int) and form > FORM:
            raise RecipeError(
                f"The settings file is of form {form}, and this version of the program knows forms up to {FORM}.",
                "Read it with a newer version.",
            )
        return Recipe.model_validate(data)
    except tomllib.TOMLDecodeError as fault:
        raise RecipeError(f"The settings file is not valid TOML: {clipped(str(fault), 200)}.") from fault
    except RecursionError as fault:
        raise RecipeError("The settings file is nested deeper than any is.") from fault
    except ValidationError as fault:
        first = fault.errors(include_url=False, include_input=False)[0]
        key = ".".join(str(step) for step in first["loc"]) or "the settings file"
        why = {"extra_forbidden": "there is no such setting"}.get(
            first["type"], first["msg"].removeprefix("Value error, ")
        )
        # In TOML whatever stands below the head of a table belongs to that table.
        head = first["type"] == "extra_forbidden" and first["loc"][-1] in Recipe.model_fields and len(first["loc"]) > 1
        remedy = f"Write {first['loc'][-1]} above the first line in square brackets." if head else ""
        raise RecipeError(f'The recipe cannot be used: "{key}": {why[:1].lower() + why[1:]}.', remedy) from fault


def recipe_to_toml(recipe: Recipe) -> str:
    """The recipe as TOML that `recipe_from_toml` reads back as the same recipe."""
    data = recipe.model_dump(mode="python", exclude_none=True, exclude_defaults=False)
    data["columns"] = {name: {k: str(v) for k, v in s.items()} for name, s in data["columns"].items()}
    if recipe.combine:
        data["combine"]["columns"] = {name: str(how) for name, how in recipe.combine.columns.items()}
    data["checks"] = {name: str(level) for name, level in recipe.checks.items()}
    data["countries"] = list(recipe.countries)
    file = recipe.file
    of_file = {
        "worksheet": file.worksheet,
        "characters": file.characters,
        "left_out": [str(each) for each in file.left_out],
        "commas": {name: str(answer) for name, answer in file.commas.items()},
    }
    data["file"] = {name: answer for name, answer in of_file.items() if answer}
    for key in ("checks", "sent_columns", "file", "wordings", "columns", "combine", "leave_out", "lookups"):
        # Tables stand last in TOML, and empty ones say nothing.
        found = data.pop(key, None)
        if found:
            data[key] = list(found) if isinstance(found, tuple) else found
    return tomli_w.dumps(data, multiline_strings=False)
