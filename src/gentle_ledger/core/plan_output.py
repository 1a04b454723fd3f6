"""A computed round as lines: what `gentle-ledger compute` writes."""

import csv
import io
import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass

from gentle_ledger.core.compute import Computed

COLUMNS = ("row", "number", "mark", "reason", "alphabet", "characters", "parts", "text")


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
            size.parts,
            computed.texts[row],
        )


def plan_as_csv(computed: Computed) -> str:
    """RFC 4180, one line a row under COLUMNS."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for planned in planned_rows(computed):
        cells = asdict(planned)
        writer.writerow([cells[name] for name in COLUMNS])
    return out.getvalue()


def plan_as_json_lines(computed: Computed) -> str:
    """The same as JSON, one object a line."""
    return "".join(json.dumps(asdict(planned), ensure_ascii=False) + "\n" for planned in planned_rows(computed))
