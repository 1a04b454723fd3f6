"""The small two-column tables kept with a round: a tariff by berth class, a list of holidays."""

import re
from collections.abc import Mapping
from datetime import date

from gentle_ledger.core.cells.cell import Cell, column_key
from gentle_ledger.core.formulas.values import number_in

_ISO_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")


def table_value(text: str) -> Cell:
    """What an entry stands for: a number, a day in ISO 8601, true or false, or the text itself.

    A code with zeros in front stays text.
    """
    stripped = text.strip()
    if not stripped:
        return None
    if not re.match(r"0\d", stripped) and (number := number_in(stripped)) is not None:
        return number
    if _ISO_DAY.fullmatch(stripped):
        try:
            return date.fromisoformat(stripped)
        except ValueError:
            return text
    return {"true": True, "false": False}.get(stripped.casefold(), text)


def tables_of(lookups: Mapping[str, Mapping[str, str]]) -> dict[str, dict[str, Cell]]:
    """The tables as formulas use them: names and keys in any case."""
    return {
        column_key(name): {column_key(key): table_value(text) for key, text in table.items()}
        for name, table in lookups.items()
    }
