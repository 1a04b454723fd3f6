"""Cells with a comma in them that a text file parts in two, because nobody put quotes around them: 12,50 or Ames, Bo.

Such a row looks whole wherever a blank cell behind it takes up what is shifted. It shows in what follows: in a figure
where the other rows have none, or where the column's name speaks of words, and in a row wider than its names.
What is doubtful is asked about; RFC 4180, 2.6 wants quotes around a comma in a cell.
"""

import re
from collections import Counter, defaultdict
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import zip_longest

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.headings import MONEY, MONEY_ABROAD, NUMBERS, PROSE, heading_words
from gentle_ledger.core.cells.rows import RowNumber, number_of_row
from gentle_ledger.core.sheets.runs import Join, Kind, RowLook, as_one


class Commas(StrEnum):
    """What the commas in a text file are where they could be either."""

    WITHIN = "within cells"
    BETWEEN = "between cells"


@dataclass(frozen=True, slots=True)
class Torn:
    """A column whose cells may have been parted by their commas, with its first such line.

    Attributes:
        column: its name.
        line: the line of the file, from 1.
        row: the row that it is.
        whole: what stands there if it is one cell: "12,50".
        apart: what stands in which column otherwise; "" for a cell under no name.
        lines: how many lines are doubtful.
        layout: whether most lines are, so that it is how the file is made, and the answer is good for the next one.
    """

    column: str
    line: int
    row: RowNumber
    whole: str
    apart: tuple[tuple[str, str], ...]
    lines: int
    layout: bool

    @property
    def cells(self) -> str:
        """What stands there if it is several cells: "12 in Due, 50 in Note"."""
        return ", ".join(f"{cell} in {name}" if name else f"{cell} under no name" for name, cell in self.apart)

    @property
    def ask(self) -> str:
        """The question to the clerk, which shows both readings."""
        more = f", as in {self.lines - 1:,} more" if self.lines > 1 else ""
        return f"Line {self.line} has “{self.whole}”{more}: is that {self.whole} in {self.column}, or {self.cells}?"


_ANY = frozenset(Kind)
_FIGURES = frozenset({Kind.BLANK, Kind.WHOLE, Kind.FIGURE})


def _by_name(name: str) -> frozenset[Kind]:
    """What a column may hold, as its name speaks."""
    words = set(heading_words(name))
    if _money(words):
        return _FIGURES
    return _ANY - {Kind.WHOLE, Kind.FIGURE, Kind.PADDED} if words & PROSE and not words & NUMBERS else _ANY


def _money(words: set[str]) -> bool:
    return bool(words & (MONEY | MONEY_ABROAD)) and not words & NUMBERS


class _Expected:
    """What the cells of a row may be: by column, and how many of them."""

    def __init__(self, kinds: Sequence[frozenset[Kind]], width: int) -> None:
        self._kinds = kinds
        self._width = width
        self._found: dict[tuple[tuple[Kind, ...], int], int] = {}

    def misfits(self, kinds: tuple[Kind, ...], start: int) -> int:
        """How many cells from `start` on are not what their column holds; a row too wide is one more."""
        if (found := self._found.get((kinds, start))) is None:
            found = self._found[kinds, start] = self._misfits(kinds, start)
        return found

    def _misfits(self, kinds: tuple[Kind, ...], start: int) -> int:
        found = int(len(kinds) > self._width)
        for kind, allowed in zip_longest(kinds[start:], self._kinds[start:]):
            if kind is None:
                found += Kind.BLANK not in allowed
            elif allowed is None:
                found += kind is not Kind.BLANK
            else:
                found += kind not in allowed and not (kind is Kind.WHOLE and Kind.FIGURE in allowed)
        return found


def _with_one(look: RowLook, way: Iterable[Join]) -> tuple[Kind, ...]:
    """The kinds of a row's cells where each of these runs is one cell."""
    found = list(look.kinds)
    for join in sorted(way, reverse=True):
        found[join[0] : join[1] + 1] = [look.as_one[look.runs.index(join)]]
    return tuple(found)


class _Stock:
    """How many rows have which kinds of things in their cells."""

    def __init__(self) -> None:
        self.rows: Counter[tuple[Kind, ...]] = Counter()

    def expected(self, columns: int, without: "_Stock | None" = None) -> _Expected | None:
        """What its rows have in each column, but for those of another stock that are among them; None without rows."""
        other = without.rows if without else Counter[tuple[Kind, ...]]()
        left = [kinds for kinds, n in self.rows.items() if n > other[kinds]]
        if not left:
            return None
        found = [frozenset(column) for column in zip_longest(*left, fillvalue=Kind.BLANK)][:columns]
        blank = [frozenset({Kind.BLANK})] * (columns - len(found))
        return _Expected([*found, *blank], max(columns, *map(len, left)))


_Groups = Mapping[RowLook, Sequence[int]]
"""The lines of the file that look the same."""


def torn_in(names: Sequence[str], looks: Iterable[tuple[int, RowLook]]) -> dict[int, tuple[Join, ...]]:
    """The doubtful runs by line, those that are likeliest in each; `looks` has the rows with their lines."""
    groups: defaultdict[RowLook, list[int]] = defaultdict(list)
    for line, look in looks:
        groups[look].append(line)
    usual = _usual(groups)
    signs = {start for start, found in usual.items() if _seems_torn(found.items(), names)}
    torn: dict[RowLook, tuple[Join, ...]] = {}
    for _ in range(_MOST_LOOKS):
        # A torn row is no witness for another one: what is doubtful is looked at again without the others that are.
        more = _found_beside(groups, names, usual, signs, torn)
        if more == torn:
            break
        torn = more
    found = {line: way for look, way in torn.items() for line in groups[look]}
    for start, runs in usual.items():
        # Where most amounts of a column are torn, the others that look so are, whatever stands behind them.
        doubtful = sum(len(groups[look]) for look in runs if any(first == start for first, _ in torn.get(look, ())))
        if 2 * doubtful > sum(len(groups[look]) for look in runs):
            found |= {line: (run,) for look, run in runs.items() for line in groups[look] if line not in found}
    return dict(sorted(found.items()))


_MOST_LOOKS = 5


class _Others:
    """What a row is held against: all rows that are not known to be torn, and what the names of the columns say."""

    def __init__(self, groups: _Groups, names: Sequence[str], torn: Container[RowLook]) -> None:
        self._columns = len(names)
        self._by_name = _Expected([_by_name(name) for name in names], len(names))
        self._all = _Stock()
        self._shapes = defaultdict[tuple[Join, ...], _Stock](_Stock)
        self._by_start = defaultdict[int, Counter[RowLook]](Counter)
        self._beside: dict[tuple[Join, ...], _Expected | None] = {}
        self._elsewhere: dict[int, _Expected | None] = {}
        for look, lines in groups.items():
            if look not in torn:
                self._all.rows[look.kinds] += len(lines)
                self._shapes[look.runs].rows[look.kinds] += len(lines)
                for start in {start for start, _ in look.runs}:
                    self._by_start[start][look] = len(lines)

    def of(self, look: RowLook, *, named: bool, sign: bool) -> list[tuple[int | None, _Expected]]:
        """What such a row is held against, the first that speaks first; each for runs that begin there, or for all."""
        starts = dict.fromkeys(start for start, _ in look.runs)
        found = [(None, self._near(look, sign=sign)), *((start, self._without(start)) for start in starts)]
        found.append((None, self._by_name if named else None))
        return [(start, each) for start, each in found if each]

    def _near(self, look: RowLook, *, sign: bool) -> _Expected | None:
        """The rows with other runs. A row that looks like one of those fits beside them: nothing is to be asked."""
        shape = self._shapes[look.runs]
        if not sign and self._all.rows[look.kinds] != shape.rows[look.kinds]:
            return None
        if look.runs not in self._beside:
            self._beside[look.runs] = self._all.expected(self._columns, shape)
        return self._beside[look.runs]

    def _without(self, start: int) -> _Expected | None:
        """The rows in which nothing can be torn at this place: those that can be excuse one another."""
        if start not in self._elsewhere:
            mine = _Stock()
            for look, n in self._by_start[start].items():
                mine.rows[look.kinds] += n
            self._elsewhere[start] = self._all.expected(self._columns, mine)
        return self._elsewhere[start]


def _found_beside(
    groups: _Groups,
    names: Sequence[str],
    usual: Container[int],
    signs: Container[int],
    torn: Mapping[RowLook, tuple[Join, ...]],
) -> dict[RowLook, tuple[Join, ...]]:
    """The doubtful runs, beside all rows that are not known to be torn."""
    others, found = _Others(groups, names, torn), dict(torn)
    for look in groups:
        sign = any(start in signs for start, _ in look.runs)
        named = any(start in usual for start, _ in look.runs)
        if best := _best(look, names, others, named=named, sign=sign):
            found[look] = best
    return found


def _usual(groups: _Groups) -> dict[int, dict[RowLook, Join]]:
    """The columns at which a run begins in most rows, each with how those rows look, and their runs there."""
    by_start: defaultdict[int, dict[RowLook, Join]] = defaultdict(dict)
    for look in groups:
        for run in reversed(look.runs):
            by_start[run[0]][look] = run
    rows = sum(map(len, groups.values()))
    return {start: found for start, found in by_start.items() if 2 * sum(len(groups[look]) for look in found) > rows}


def _best(look: RowLook, names: Sequence[str], others: _Others, *, named: bool, sign: bool) -> tuple[Join, ...]:
    """The runs of a row that are likelier one cell each than several cells; none where its cells fit as they are."""
    first = look.runs[0][0] if look.runs else 0
    odd = []
    for place, (start, each) in enumerate(others.of(look, named=named, sign=sign) if look.runs else ()):
        as_it_is = each.misfits(look.kinds, first)
        if as_it_is or sign:
            odd.append((place, start, each, as_it_is))
    found: list[tuple[int, int, int, tuple[Join, ...]]] = []
    for way in _ways(look.runs) if odd else ():
        kinds = _with_one(look, way)
        if any(kind is not Kind.BLANK for kind in kinds[len(names) :]):
            # A row that is too wide in this way too cannot be brought in: there is nothing to choose.
            continue
        for place, start, each, as_it_is in odd:
            if start is None or any(begins == start for begins, _ in way):
                misfits = each.misfits(kinds, first)
                if misfits < as_it_is or (sign and misfits == as_it_is):
                    found.append((place, misfits, _against(look, way, names), way))
    return min(found)[3] if found else ()


def _against(look: RowLook, way: tuple[Join, ...], names: Sequence[str]) -> int:
    """How many of the runs are figures, and would stand in a column whose name does not speak of money."""
    return sum(
        look.as_one[look.runs.index(run)] not in {Kind.WORDS, Kind.MIXED}
        and not (run[0] < len(names) and _money(set(heading_words(names[run[0]]))))
        for run in way
    )


def _ways(runs: Sequence[Join]) -> Iterator[tuple[Join, ...]]:
    """Every choice of runs that do not overlap, but for none."""
    for i, run in enumerate(runs):
        yield (run,)
        yield from ((run, *more) for more in _ways([r for r in runs[i + 1 :] if r[0] > run[1]]))


def _seems_torn(of: Iterable[tuple[RowLook, Join]], names: Sequence[str]) -> bool:
    """Whether what stands behind a comma looks like the rest of an amount in all of these rows, for what names allow.

    Noughts in front stand before decimals and in codes; two digits in every row behind a column of money, or a figure
    with decimals behind whole ones below a thousand, are cents and the end of an amount where no name says otherwise.
    """
    runs = list(of)
    start, end = runs[0][1]
    left, right = (set(heading_words(names[i])) if i < len(names) else set() for i in (start, end))
    backs = {look.cells[last].ends.strip() for look, (_, last) in runs}
    noughts = [back for back in backs if back[:1] == "0" and len(back) > 1]
    code = bool(right & NUMBERS)
    if any("." in back for back in noughts) or (noughts and (_money(left) or not code)):
        return True
    if not _money(left) or _money(right):
        return False
    ends = all(re.match(r"\d{3}\.\d\d(?!\d)", back) for back in backs)
    two = all(re.match(r"\d\d(?!\d)|\d{3}\.\d\d(?!\d)", back) for back in backs)
    return ends or (two and (not code or any("." in back for back in backs)))


def questions(lines: Sequence[Sequence[Cell]], at: int, torn: Mapping[int, tuple[Join, ...]]) -> tuple[Torn, ...]:
    """What is to be asked: one question for each column whose cells may be parted."""
    names = [" ".join(as_written(cell).split()) for cell in lines[at]]
    rows = [line for line in range(at + 1, len(lines)) if any(not is_blank(cell) for cell in lines[line])]
    by_column: dict[int, list[tuple[int, Join]]] = defaultdict(list)
    for line, way in torn.items():
        for join in way:
            by_column[_under(join, way)].append((line, join))
    return tuple(_question(names, lines, column, found, rows) for column, found in sorted(by_column.items()))


def _under(join: Join, way: Iterable[Join]) -> int:
    """The column under which a run stands once those before it are one cell each."""
    return join[0] - sum(end - start for start, end in way if end < join[0])


def _question(
    names: Sequence[str],
    lines: Sequence[Sequence[Cell]],
    column: int,
    found: Sequence[tuple[int, Join]],
    rows: list[int],
) -> Torn:
    line, join = found[0]
    cells = lines[line]
    apart = tuple((_named(names, i), as_written(cells[i]).strip()) for i in range(join[0], join[1] + 1))
    whole = as_one(cells, join).strip()
    layout = 2 * len(found) > len(rows)
    row = number_of_row(rows.index(line))
    return Torn(_named(names, column), line + 1, row, whole, apart, len(found), layout=layout)


def _named(names: Sequence[str], place: int) -> str:
    return names[place] if place < len(names) else ""


def put_together(
    lines: Sequence[Sequence[Cell]],
    at: int,
    torn: Mapping[int, tuple[Join, ...]],
    answers: Mapping[str, Commas],
) -> list[Sequence[Cell]]:
    """The lines where the cells of those columns are one each that were answered to be so."""
    names = [" ".join(as_written(cell).split()) for cell in lines[at]]
    found = list(lines)
    for line, way in torn.items():
        kept = [join for join in way if answers.get(_named(names, _under(join, way))) is Commas.WITHIN]
        found[line] = _put_together(lines[line], kept)
    return found


def _put_together(cells: Sequence[Cell], runs: Iterable[Join]) -> list[Cell]:
    found = list(cells)
    for join in sorted(runs, reverse=True):
        found[join[0] : join[1] + 1] = [as_one(cells, join)]
    return found
