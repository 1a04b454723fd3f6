"""From a plain grid of cells to a Sheet: the header row checked, empty edges cut, every refusal a sentence."""

import re
import statistics
from collections.abc import Callable, Container, Iterable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from enum import StrEnum
from itertools import chain, islice

from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, Cell, as_written, column_key, is_blank
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.figures import written
from gentle_ledger.core.cells.order import FIGURES, Order
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.cells.words import clipped, count, listed
from gentle_ledger.core.sheets.export import as_it_was
from gentle_ledger.core.sheets.model import MAX_COLUMNS, MAX_ROWS, Sheet
from gentle_ledger.core.sheets.quotes import quotes_of, without_quotes

_AMOUNT_OR_PHONE = re.compile(r"[^\w]*\d[\d,]*\.\d+|\+?(?:[\s().\-/]*\d){7,}")


LOOK_AT = 30
"""Lines among which the column names are looked for."""
_TOTALS = re.compile(
    r"(?:(?:grand|sub|general|g\u00e9n\u00e9ral)[ -]?)?(?:totals?|sum|somme|summe|gesamt(?:summe)?|totaal"
    r"|totale|suma|razem|soma)(?: g\u00e9n\u00e9ral)?[ :.]*",
    re.IGNORECASE,
)
"""A whole cell that says so in the languages of the offices around; any other one is told by its sums."""
_MOST_TOTALS = 3
_MOST_BLANK = 5 * MAX_ROWS
PHONE_LIKE = re.compile(r"\+?\(?\d(?:[\s().\-/]*\d){6,}")
"""A cell that looks like a phone number, in any writing."""


class LeftOut(StrEnum):
    """What of a file is no row, and is left out."""

    ABOVE = "lines above the names"
    BLANK = "blank rows"
    TOTALS = "totals"
    HIDDEN = "hidden rows"


@dataclass(frozen=True, slots=True)
class Reading:
    """How a file's lines became rows.

    Attributes:
        header: the line with the column names, from 1.
        above: the filled lines above it, which were passed over, each in one string.
        blank: how many lines below it have nothing in them.
        totals: the lines of totals at the end, which are no rows, each in one string.
        hidden: how many rows the workbook does not show.
    """

    header: int = 1
    above: tuple[str, ...] = ()
    blank: int = 0
    totals: tuple[str, ...] = ()
    hidden: int = 0

    @property
    def left_out(self) -> frozenset[LeftOut]:
        """The kinds of what was left out."""
        counts = {
            LeftOut.ABOVE: len(self.above),
            LeftOut.BLANK: self.blank,
            LeftOut.TOTALS: len(self.totals),
            LeftOut.HIDDEN: self.hidden,
        }
        return frozenset(kind for kind, n in counts.items() if n)

    @property
    def sentence(self) -> str:
        """What was left out, for the clerk: "2 blank rows and 1 row of totals left out"; "" when nothing was."""
        said = [count(len(self.above), "line") + " above the column names"] if self.above else []
        said += [count(self.blank, "blank row")] if self.blank else []
        said += [count(len(self.totals), "row") + " of totals"] if self.totals else []
        said += [f"{count(self.hidden, 'row')} hidden in the workbook"] if self.hidden else []
        return f"{listed(said)} left out" if said else ""


def with_table(
    names: Sequence[str],
    unseen: Container[str],
    before: str | None,
    first_rows: Callable[[str], Sequence[Sequence[Cell]]],
) -> str:
    """The worksheet that is read where nobody has chosen: that of an earlier file, or the first with a table in it.

    A cover page or an empty one is passed over where another has a table. One that the workbook does not show
    (`unseen`) is taken only where it shows none, also if it was read `before`.
    """
    names = [name for name in names if name not in unseen] or names
    if before in names:
        return str(before)
    for least in (_WIDE_TABLE, _WIDE_TABLE - 1):
        for name in names if len(names) > 1 else ():
            lines = first_rows(name)
            at = _header_at(lines)
            below = [_filled(line) for line in lines[at + 1 :]] if at >= 0 else []
            if at >= 0 and _filled(lines[at]) >= least and any(filled >= least for filled in below):
                return name
    return names[0]


_WIDE_TABLE = 3
"""Columns that the table of a round has at least: who, where to, and what is to be said."""


def read_grid(
    grid: Iterable[Sequence[Cell]], header: int | None = None, hidden: Container[int] = ()
) -> tuple[Sheet, Reading]:
    """Reads a grid of cells, line by line.

    Lines with nothing in them and totals at the end are passed over; columns with neither a name nor a value are
    dropped. Raises SheetError, naming row and column, for anything that cannot be read without guessing.

    Args:
        grid: the lines of the file.
        header: the line with the column names, from 1; recognised when None.
        hidden: the lines, from 0, that the workbook does not show.
    """
    raw = iter(grid)
    first: list[Sequence[Cell]] = list(islice(raw, LOOK_AT if header is None else header))
    at = names_at(first, header)
    quotes = quotes_of(first[at]) if 0 <= at < len(first) else None
    first, lines = [_as_it_was(row, quotes) for row in first], (_as_it_was(row, quotes) for row in raw)
    if not 0 <= at < len(first) or all(is_blank(cell) for cell in first[at]):
        raise SheetError(
            "The sheet is empty." if header is None else f"Line {header} has nothing in it.",
            "Bring in a sheet with a row of column names and at least one row below it."
            if header is None
            else "Choose the line with the column names.",
        )
    names_line = first[at]
    above = tuple(_in_a_line(row) for row in first[:at] if not all(is_blank(cell) for cell in row))
    width = _last_filled(names_line) + 1
    if _filled(names_line) > MAX_COLUMNS:
        raise _too_wide(_filled(names_line))
    if header is None:
        _refuse_missing_header(names_line[:width])
    rows, blank, unseen = _rows(chain(first[at + 1 :], lines), width, names_line, at + 1, hidden)
    totals = _take_totals(rows, frozenset(unseen))
    names = _column_names(names_line[:width], rows)
    kept = [i for i, name in enumerate(names) if name]
    if not rows:
        raise SheetError("The sheet has column names but no rows.", "Add at least one row below the names.")
    if len(kept) < width:
        rows = [tuple(row[i] for i in kept) for row in rows]
    unseen = [row for row in unseen if row < len(rows)]
    return Sheet(tuple(names[i] for i in kept), rows, frozenset(unseen)), Reading(
        at + 1, above, blank, totals, len(unseen)
    )


def _too_wide(columns: int) -> SheetError:
    return SheetError(
        f"The sheet has {count(columns, 'column')}; at most {MAX_COLUMNS} can be read.", "Leave out some columns."
    )


def _rows(
    lines: Iterable[Sequence[Cell]], width: int, header: Sequence[Cell], start: int, hidden: Container[int]
) -> tuple[list[tuple[Cell, ...]], int, list[int]]:
    """The filled rows, each checked, how many blank lines stand between and before them, and which rows are hidden."""
    rows: list[tuple[Cell, ...]] = []
    unseen: list[int] = []
    blank = waiting = 0
    for line, row in enumerate(lines, start):
        if (not row or is_blank(row[0])) and all(is_blank(cell) for cell in row):
            waiting += 1
            if waiting > _MOST_BLANK:
                raise SheetError(
                    f"The sheet has more than {_MOST_BLANK:,} blank lines below row {len(rows)}.",
                    "Remove them, or copy the rows into a new sheet, and bring that in.",
                )
            continue
        # Blank lines behind the last row are no loss worth a word.
        blank, waiting = blank + waiting, 0
        if len(rows) == MAX_ROWS:
            raise SheetError(
                f"The sheet has more than {MAX_ROWS:,} rows.", "Split it into smaller sheets, one round each."
            )
        if line in hidden:
            unseen.append(len(rows))
        rows.append(_checked_row(row, width, number_of_row(len(rows)), header))
    return rows, blank, unseen


def _in_a_line(row: Sequence[Cell]) -> str:
    return clipped(", ".join(as_written(cell).strip() for cell in row if not is_blank(cell)), 80)


def _as_it_was(row: Sequence[Cell], quotes: str | None) -> Sequence[Cell]:
    """A line without its quotes, and the apostrophes by which a program made its cells safe for a spreadsheet."""
    if quotes:
        row = without_quotes(row, quotes)
    if not any(type(cell) is str and cell[:1] == "'" for cell in row):
        return row
    return [as_it_was(cell) if isinstance(cell, str) else cell for cell in row]


def names_at(lines: Sequence[Sequence[Cell]], header: int | None = None) -> int:
    """The line that names the columns, from 0: the one that was chosen (from 1), or the one that looks like it."""
    return _header_at(lines[:LOOK_AT]) if header is None else header - 1


def _header_at(lines: Sequence[Sequence[Cell]]) -> int:
    """The line that names the columns: the first filled one, unless that is a title over a wider table."""
    filled = [i for i, row in enumerate(lines) if not all(is_blank(cell) for cell in row)]
    if not filled:
        return -1
    first = filled[0]
    for place, i in enumerate(filled[:-1]):
        if _groups_names(lines[i], [lines[j] for j in filled[place + 1 : place + 11]]):
            first = filled[place + 1]
            continue
        below = [_filled(lines[j]) for j in filled[place + 1 : place + 11]]
        wide = _filled(lines[i]) >= 0.6 * statistics.median(below)
        if wide and not any(_is_data(cell) for cell in lines[i]):
            return i
        if _filled(lines[i]) > _WIDEST_TITLE:
            break
    return first


def _groups_names(line: Sequence[Cell], below: Sequence[Sequence[Cell]]) -> bool:
    """Whether a line puts the names in groups, as `Contact,,Charges` above `Name,Mobile,Due` does.

    It has gaps, or says the same again, where the line below has a word of its own in every place; and that line is no
    row, for it has words where the rows below have phone numbers, amounts or days.
    """
    groups, names = _words(line, years=True), _words(below[0])
    if groups is None or names is None or len({*groups}) >= len(names) or len({*names}) < len(names):
        return False
    if any(is_blank(name) and not is_blank(group) for group, name in zip(line, below[0], strict=False)):
        return False
    named = [i for i, name in enumerate(below[0]) if not is_blank(name)]
    rows = below[1:]
    data = (sum(i < len(row) and _is_data(row[i]) for row in rows) for i in named)
    return bool(rows) and any(2 * share > len(rows) for share in data)


def _words(line: Sequence[Cell], *, years: bool = False) -> list[str] | None:
    """The filled cells of a line, where all are words, or `years` as well."""
    filled = [cell for cell in line if not is_blank(cell)]
    if all((isinstance(cell, str) or years) and not _is_data(cell) for cell in filled):
        return [column_key(as_written(cell)) for cell in filled]
    return None


_WIDEST_TITLE = 2
"""Cells that a line of title may have: the harbour's name, and the month."""


def _filled(row: Sequence[Cell]) -> int:
    return sum(not is_blank(cell) for cell in row)


def _take_totals(rows: list[tuple[Cell, ...]], hidden: Container[int]) -> tuple[str, ...]:
    """Takes the totals off the end of the rows: they are sums of what stands above, in whatever language."""
    taken: list[str] = []
    while len(rows) > 1 and len(taken) < _MOST_TOTALS and _is_totals(rows, hidden):
        taken.insert(0, _in_a_line(rows.pop()))
    return tuple(taken)


def _is_totals(rows: Sequence[tuple[Cell, ...]], hidden: Container[int]) -> bool:
    """Whether the last row is one of totals: no number that takes texts, and every figure in it a sum.

    Where it has a cell that says so in a word, its figures need not be sums. "Total Marine Ltd" is a customer.
    """
    cells = [(i, cell) for i, cell in enumerate(rows[-1]) if not is_blank(cell)]
    if any(isinstance(cell, str) and PHONE_LIKE.fullmatch(cell.strip()) for _, cell in cells):
        return False
    figures = [i for i, cell in cells if _is_figure(cell)]
    words = [cell for i, cell in cells if i not in figures]
    if any(isinstance(cell, str) and _TOTALS.fullmatch(cell.strip()) for cell in words):
        return True
    lacking = any(is_blank(cell) and _usually_filled(rows[:-1], i) for i, cell in enumerate(rows[-1]))
    few = len(words) <= 1 and lacking
    return few and bool(figures) and all(_is_sum(rows, i, hidden) for i in figures)


def _usually_filled(rows: Sequence[tuple[Cell, ...]], column: int) -> bool:
    return sum(not is_blank(row[column]) for row in rows) >= 0.8 * len(rows)


def _is_figure(cell: Cell) -> bool:
    return isinstance(cell, Decimal) or (isinstance(cell, str) and written(cell) is not None)


def _is_sum(rows: Sequence[tuple[Cell, ...]], column: int, hidden: Container[int]) -> bool:
    """Whether the column's last figure is the sum of those above, with or without the rows that are not shown."""
    for order in FIGURES:
        found = [_value(row[column], order) for row in rows]
        last = found[-1]
        for unseen in (False, True):
            above = [v for i, v in enumerate(found[:-1]) if v is not None and not (unseen and i in hidden)]
            if last and len(above) > 1 and sum(above) == last:
                return True
    return False


def _value(cell: Cell, order: Order) -> Decimal | None:
    if isinstance(cell, Decimal):
        return cell
    found = written(cell) if isinstance(cell, str) else None
    return found.value(order) if found else None


def _last_filled(row: Sequence[Cell]) -> int:
    return next((i for i in range(len(row) - 1, -1, -1) if not is_blank(row[i])), -1)


def _refuse_missing_header(header: Sequence[Cell]) -> None:
    """A first row with a date, an amount or a phone number in it, or without a word, is data: the header is missing."""
    data = [i for i, cell in enumerate(header) if _is_data(cell)]
    if not data and not any(isinstance(cell, str) and any(c.isalpha() for c in cell) for cell in header):
        data = [i for i, cell in enumerate(header) if not is_blank(cell)]
    if data:
        first = clipped(as_written(header[data[0]]))
        raise SheetError(
            f'The first row has no column names: column {data[0] + 1} starts with "{first}".',
            "Put a row with the name of each column above the data.",
            row=RowNumber(0),
        )


def _is_data(cell: Cell) -> bool:
    """A column may be called 2026; none is called 186.40, 2026-11-30 or 902-555-0101."""
    if isinstance(cell, str):
        return bool(_AMOUNT_OR_PHONE.fullmatch(cell.strip()))
    if isinstance(cell, Decimal):
        return cell != cell.to_integral_value() or abs(cell) >= 1_000_000
    return cell is not None


def _checked_row(row: Sequence[Cell], width: int, number: RowNumber, header: Sequence[Cell]) -> tuple[Cell, ...]:
    last = _last_filled(row) if len(row) > width else -1
    if last >= width:
        names = f"{'is' if width == 1 else 'are'} only {count(width, 'column')}"
        raise SheetError(
            f"Row {number} has {count(last + 1, 'cell')}, but there {names} named.",
            "A value with a separator in it needs double quotes around it, or a column name is missing.",
            row=number,
        )
    longest = max((len(cell) for cell in row if type(cell) is str), default=0)
    for position, cell in enumerate(row if longest > MAX_CELL_CHARACTERS else ()):
        if isinstance(cell, str) and len(cell) > MAX_CELL_CHARACTERS:
            name = clipped(as_written(header[position])) or f"number {position + 1}"
            raise SheetError(
                f'Row {number}, column "{name}" holds {len(cell):,} characters; a cell holds at most '
                f"{MAX_CELL_CHARACTERS:,}.",
                "Look for a double quote that is opened and never closed.",
                row=number,
                column=name,
            )
    return tuple(row) if len(row) == width else (*row[:width], *(None,) * (width - len(row)))


def _column_names(header: Sequence[Cell], rows: Sequence[tuple[Cell, ...]]) -> list[str]:
    names: list[str] = []
    seen: dict[str, int] = {}
    for position, cell in enumerate(header):
        name = " ".join(as_written(cell).split()) if not is_blank(cell) else ""
        if not name:
            at = next((number_of_row(i) for i, row in enumerate(rows) if not is_blank(row[position])), None)
            if at is not None:
                raise SheetError(
                    f"Column {position + 1} has no name, but row {at} has a value in it.",
                    "Give every column a name in the first row.",
                    row=at,
                )
        elif (key := column_key(name)) in seen:
            raise SheetError(
                f'Columns {seen[key] + 1} and {position + 1} are both called "{clipped(name)}".',
                "Give each column a name of its own.",
                column=name,
            )
        elif "{" in name or "}" in name:
            raise SheetError(
                f'Column {position + 1} is called "{clipped(name)}"; curly brackets mark a field in the wording.',
                "Rename the column without them.",
                column=name,
            )
        else:
            seen[key] = position
        names.append(name)
    return names
