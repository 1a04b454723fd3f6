"""A computed round as lines: what `gentle-ledger compute` writes."""

import csv
import io
import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from decimal import Decimal

from gentle_ledger.core.cell_format import value_text
from gentle_ledger.core.compute import Computed
from gentle_ledger.core.sheets.model import Cell

COLUMNS = ("row", "number", "mark", "reason", "alphabet", "characters", "parts", "text")
"""The first columns; the computed ones follow them under their own names."""


@dataclass(frozen=True, slots=True)
class PlannedRow:
    """One row as computed: `row` counts from 1, `number` is E.164 or "", `characters` septets or UTF-16 units."""

    row: int
    number: str
    mark: str
    reason: str
    alphabet: str
    characters: int
    parts: int
    text: str


def planned_rows(computed: Computed) -> Iterator[PlannedRow]:
    for row, mark in enumerate(computed.marks):
        size = computed.measures[row]
        yield PlannedRow(
            row + 1,
            computed.numbers[row].e164,
            mark,
            computed.reason(row),
            size.alphabet,
            size.characters,
            size.parts if computed.lead(row) == row else 0,
            computed.texts[row],
        )


def plan_as_csv(computed: Computed) -> str:
    """RFC 4180, one line a row under COLUMNS and the computed columns."""
    more = computed.composer.columns.outputs()
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow((*COLUMNS, *more))
    for planned in planned_rows(computed):
        cells = asdict(planned)
        values = [value_text(value(planned.row - 1)) for value in more.values()]
        writer.writerow([*(cells[name] for name in COLUMNS), *values])
    return out.getvalue()


def plan_as_json_lines(computed: Computed) -> str:
    """The same as JSON, one object a line; computed values as numbers, true and false, or text, null for none."""
    more = computed.composer.columns.outputs()
    lines = []
    for planned in planned_rows(computed):
        members = {name: _json(value) for name, value in asdict(planned).items()}
        members |= {name: _json(value(planned.row - 1)) for name, value in more.items()}
        inside = ", ".join(f"{json.dumps(name, ensure_ascii=False)}: {text}" for name, text in members.items())
        lines.append(f"{{{inside}}}\n")
    return "".join(lines)


def _json(value: Cell | int) -> str:
    """A value in JSON. An amount keeps its digits (186.40): it never becomes a binary float on the way."""
    if value is None or isinstance(value, (bool, int, str)):
        return json.dumps(value, ensure_ascii=False)
    text = value_text(value)
    return text if isinstance(value, Decimal) else json.dumps(text)
