"""The kinds of lines: one module each in this folder, found by itself."""

import importlib
import pkgutil
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from pydantic import BaseModel

from gentle_ledger.sending import lines
from gentle_ledger.sending.lines import Line

Make = Callable[[Any, Callable[[], datetime]], Line]
"""From a kind's settings and the moment (for dates in a carrier's answers) to a line."""


@dataclass(frozen=True, slots=True)
class LineKind:
    """A kind of line; see `line_kind` for its attributes."""

    key: str
    doc: str
    settings: type[BaseModel]
    make: Make


KINDS: dict[str, LineKind] = {}
"""Every kind of line that was declared, by its key; filled by `line_kind`."""


def line_kind(*, key: str, doc: str, settings: type[BaseModel]) -> Callable[[Make], Make]:
    """Declares a function that makes lines as a kind of line.

    Args:
        key: its short name, kept with every line of the kind.
        doc: what it is, for the clerk.
        settings: the model of what has to be set for one.
    """

    def declared(make: Make) -> Make:
        if key in KINDS:
            raise ValueError(f"There are two kinds of line with the key {key!r}.")
        KINDS[key] = LineKind(key, doc, settings, make)
        return make

    return declared


def kinds() -> dict[str, LineKind]:
    """Every kind of line there is."""
    for module in pkgutil.iter_modules(lines.__path__):
        importlib.import_module(f"{lines.__name__}.{module.name}")
    return KINDS


def line_of(kind: str, settings: dict[str, Any], now: Callable[[], datetime]) -> Line:
    """A line of a kind. Raises KeyError for no such kind, and ValidationError for settings that do not fit it."""
    found = kinds()[kind]
    return found.make(found.settings.model_validate(settings), now)
