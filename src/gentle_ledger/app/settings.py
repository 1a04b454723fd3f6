"""Changing a round's recipe piece by piece, each change checked as the whole recipe is."""

from collections.abc import Mapping, Sequence
from typing import TypeVar

from pydantic import BaseModel, ValidationError

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe

M = TypeVar("M", bound=BaseModel)


class NotUsable(LedgerError):
    """A setting that was entered does not fit."""

    kind = "not usable"


def changed(recipe: Recipe, changes: Mapping[str, object]) -> Recipe:
    """The recipe with some of its settings set anew. Raises NotUsable with the reason."""
    return _checked(Recipe, {**recipe.model_dump(), **{name: _plain(value) for name, value in changes.items()}})


def column_settings(settings: ColumnSettings, changes: Mapping[str, object]) -> ColumnSettings:
    """The same for one column's settings; what is set to nothing is as if never set."""
    return _checked(ColumnSettings, {**settings.model_dump(), **{name: v or None for name, v in changes.items()}})


def _checked(model: type[M], data: dict[str, object]) -> M:
    try:
        return model.model_validate(data)
    except ValidationError as fault:
        first = fault.errors()[0]
        raise NotUsable(refusal(first["loc"], first["msg"])) from fault


def refusal(place: Sequence[object], why: str) -> str:
    """What a model says of one of its fields, as a sentence that names the field."""
    named = ".".join([str(part).replace("_", " ") for part in place[:1]] + [str(part) for part in place[1:]])
    if why.startswith("Input should "):
        return f"This cannot be used: {named} {why.removeprefix('Input ').partition(', unable')[0]}."
    return f"This cannot be used: {named + ': ' if named else ''}{why.removeprefix('Value error, ')}."


def _plain(value: object) -> object:
    if isinstance(value, list):
        return [_plain(each) for each in value]
    return value.model_dump() if isinstance(value, BaseModel) else value
