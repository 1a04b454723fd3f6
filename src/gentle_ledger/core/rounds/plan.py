"""A computed round as lines: what `gentle-ledger compute` writes."""

import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import asdict, dataclass
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.checks import check_of
from gentle_ledger.core.columns.display import outputs, reading_of
from gentle_ledger.core.columns.writing import value_text
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.sheets.export import csv_of

COLUMNS = ("row", "number", "mark", "reason", "alphabet", "characters", "parts", "text", "wording", "findings")
"""The first columns; the computed ones follow them under their own names."""


@dataclass(frozen=True, slots=True)
class PlannedFinding:
    """What a check, by its key, says of a row; `level` is "holds" or "look"."""

    check: str
    level: str
    reason: str


@dataclass(frozen=True, slots=True)
class PlannedRow:
    """One row as computed.

    Attributes:
        row: counted from 1.
        number: E.164, or "".
        mark, reason: where it stands, and why.
        alphabet, characters, parts: the size of its text; characters are septets or UTF-16 units.
        text: the finished text, or "".
        wording: the name of its wording; None for the plain one, "" where it cannot be said.
        findings: what the checks say of it.
        oddness: how odd it is; see `oddness`.
    """

    row: RowNumber
    number: str
    mark: str
    reason: str
    alphabet: str
    characters: int
    parts: int
    text: str
    wording: str | None
    findings: tuple[PlannedFinding, ...]
    oddness: float


def what_is_said(left_out: str, computed: Computed) -> list[str]:
    """What the desk would say of a round, a sentence each: what was left out, how columns are read, what is held.

    Args:
        left_out: what was left out when the file was read, "" for nothing.
        computed: the round.
    """
    composer = computed.composer
    columns = composer.columns
    said = [f"{left_out[0].upper()}{left_out[1:]}."] if left_out else []
    for position in range(columns.first_computed):
        name, reading = columns.names[position], reading_of(composer.evaluation, position)
        if reading.answered:
            said.append(f"{name} is read with the {reading.order}, as the recipe says.")
        elif reading.said:
            said.append(f"{name}: {reading.said}")
    for key, found in computed.by_check.items():
        check = check_of(key)
        rows = len({f.row for f in found})
        label = check.tag(rows, holds=computed.levels[key].holds)
        said.append(f"{rows:,} {label}: {check.sentence(found)}.")
    return [sentence for sentence in said if sentence]


def planned_rows(computed: Computed) -> Iterator[PlannedRow]:
    """Every row as computed, in order."""
    for row, mark in enumerate(computed.marks):
        size = computed.measures[row]
        yield PlannedRow(
            number_of_row(row),
            computed.numbers[row].e164,
            mark,
            computed.reason(row),
            size.alphabet,
            size.characters,
            size.parts if computed.lead(row) == row else 0,
            computed.texts[row],
            computed.wording_name(row),
            tuple(_findings(computed, row)),
            computed.oddness[row],
        )


def _findings(computed: Computed, row: int) -> Iterator[PlannedFinding]:
    for finding in computed.by_row.get(computed.lead(row), ()):
        level = "holds" if computed.levels[finding.check].holds else "look"
        yield PlannedFinding(finding.check, level, finding.reason.sentence)


def plan_as_csv(computed: Computed) -> str:
    """RFC 4180, one line a row under COLUMNS and the computed columns; safe for a spreadsheet."""
    more = outputs(computed.composer.evaluation)
    lines: list[Iterable[object]] = [(*COLUMNS, *more)]
    for planned in planned_rows(computed):
        cells = asdict(planned) | {"findings": "; ".join(finding.reason for finding in planned.findings)}
        values = [value_text(value(row_of_number(planned.row))) for value in more.values()]
        lines.append([*(cells[name] for name in COLUMNS), *values])
    return csv_of(lines)


def plan_as_json_lines(computed: Computed, said: Sequence[str] = ()) -> str:
    """The same as JSON, one object a line; computed values as numbers, true and false, or text, null for none.

    A computed column that is called like one of our own members goes by its name and "(column)". `said` has sentences
    about the sheet as a whole: the first row carries them.
    """
    more = outputs(computed.composer.evaluation)
    lines = []
    for planned in planned_rows(computed):
        fields = asdict(planned)
        findings, odd = json.dumps(fields.pop("findings"), ensure_ascii=False), fields.pop("oddness")
        members = {name: _json(value) for name, value in fields.items()}
        members |= {"findings": findings, "oddness": json.dumps(odd)}
        members |= {
            f"{name} (column)" if name in members else name: _json(value(row_of_number(planned.row)))
            for name, value in more.items()
        }
        if planned.row == 1 and said:
            members["said"] = json.dumps(list(said), ensure_ascii=False)
        inside = ", ".join(f"{json.dumps(name, ensure_ascii=False)}: {text}" for name, text in members.items())
        lines.append(f"{{{inside}}}\n")
    return "".join(lines)


def _json(value: Cell | int) -> str:
    """A value in JSON. An amount keeps its digits (186.40): it never becomes a binary float on the way."""
    if value is None or isinstance(value, (bool, int, str)):
        return json.dumps(value, ensure_ascii=False)
    text = value_text(value)
    return text if isinstance(value, Decimal) else json.dumps(text)
