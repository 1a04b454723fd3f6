"""The cells of a row that could be one, parted by its commas, by how they are written; and what kind each is.

Rows of a sheet look alike: what does not matter of a cell (which digit, which letter) is taken off first, so that each
look is worked out once, however many rows there are.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import lru_cache

from gentle_ledger.core.cells.cell import Cell, as_written
from gentle_ledger.core.cells.figures import written

Join = tuple[int, int]
"""The first and the last of the cells that may be one, from 0."""

MAY_TEAR = re.compile(r"\d,\d|[^\W\d_], [^\W\d_]")
"""Where there is nothing like it, no cell can be parted by its comma."""
_BEFORE = r"\(?[-+]?(?:[A-Za-z]{2,3}\s|[A-Za-z]{0,3}[^\w\s.,;:/#'\"()+-]\s?)?\(?-?"
_BEHIND = r"(?:\s?(?:%|[^\w\s.,;:/#'\"()+-]|[A-Za-z]{1,3}\.?))?\)?-?"
_WHOLE = re.compile(rf"\s*{_BEFORE}(?:0|[1-9]\d{{0,8}}|[1-9]\d{{0,2}}(?:[.'\u2019 \u00a0\u202f]\d{{3}})+)")
_DECIMALS = re.compile(rf"\d{{1,2}}{_BEHIND}\s*")
_NOUGHT = re.compile(rf"\s*{_BEFORE}0")
_AFTER_NOUGHT = re.compile(rf"\d{{1,6}}{_BEHIND}\s*")
_FRONT = re.compile(rf"\s*{_BEFORE}[1-9]\d{{0,2}}")
_GROUP = re.compile(r"\d{3}")
_BACK = re.compile(rf"\d{{3}}(?:\.\d{{1,4}})?{_BEHIND}\s*")
_WORD_BEFORE = re.compile(r".*[^\W\d_]", re.DOTALL)
_WORD_BEHIND = re.compile(r" [^\W\d_].*", re.DOTALL)
_LIKE_A_FIGURE = re.compile(r"[^\w]|\d|[A-Za-z]{1,3}[^\w]")
_PARTED = re.compile(r"\d[\-/:]\d")
_LONG = 7
"""Digits of a telephone number or an account, which are no amount."""


class Kind(StrEnum):
    """What stands in a cell; `padded` digits have a nought in front, `digits` are those of a telephone."""

    BLANK = "blank"
    WHOLE = "whole"
    PADDED = "padded"
    FIGURE = "figure"
    DIGITS = "digits"
    WORDS = "words"
    MIXED = "mixed"


_PLAIN = bytes(ord("1") if chr(i) in "23456789" else ord("a") if "b" <= chr(i) <= "z" else i for i in range(256))


def plain_look(text: str) -> str:
    """The text with one digit for all but the nought, and one letter for all small ones: what a look depends on."""
    return text.encode("utf-8", "surrogatepass").translate(_PLAIN).decode("utf-8", "surrogatepass")


@dataclass(frozen=True, slots=True, eq=False)
class CellLook:
    """What a cell can be a part of, and what kind of thing it is; `ends` says how the digits behind a comma end."""

    kind: Kind
    whole: bool = False
    nought: bool = False
    front: bool = False
    decimals: bool = False
    after_nought: bool = False
    group: bool = False
    back: bool = False
    word_before: bool = False
    word_behind: bool = False
    ends: str = ""


@lru_cache(maxsize=65_536)
def cell_look(plain: str) -> CellLook:
    """How a cell looks; it is given as `plain_look` leaves it. Cells that look alike have the same look."""
    back = bool(_BACK.fullmatch(plain))
    decimals = bool(_DECIMALS.fullmatch(plain))
    return _the_cell(
        _kind(plain.strip()),
        bool(_WHOLE.fullmatch(plain)),
        bool(_NOUGHT.fullmatch(plain)),
        bool(_FRONT.fullmatch(plain)),
        decimals,
        bool(_AFTER_NOUGHT.fullmatch(plain)),
        bool(_GROUP.fullmatch(plain)),
        back,
        bool(_WORD_BEFORE.fullmatch(plain)),
        bool(_WORD_BEHIND.fullmatch(plain)),
        plain if back or decimals else "",
    )


def _kind(text: str) -> Kind:
    if not text:
        return Kind.BLANK
    if text.isdigit():
        padded = text[0] == "0" and len(text) > 1
        return Kind.DIGITS if len(text) >= _LONG else Kind.PADDED if padded else Kind.WHOLE
    if not any(c.isdigit() for c in text):
        return Kind.WORDS
    found = written(text) if _LIKE_A_FIGURE.match(text) and not _PARTED.search(text) else None
    if found is None:
        return Kind.MIXED
    if text[0] == "0" and text[1].isdigit():
        return Kind.PADDED
    return Kind.FIGURE if found.mark else Kind.WHOLE


_the_cell = lru_cache(maxsize=65_536)(CellLook)


@dataclass(frozen=True, slots=True, eq=False)
class RowLook:
    """How a row looks.

    Attributes:
        cells: how each cell looks.
        kinds: what kind of thing stands in each.
        runs: those cells that could be one.
        as_one: what kind of thing each run is, if it is one.
    """

    cells: tuple[CellLook, ...]
    kinds: tuple[Kind, ...]
    runs: tuple[Join, ...]
    as_one: tuple[Kind, ...]

    def without_quoted(self, cells: Sequence[Cell], raw: str) -> "RowLook":
        """The same without the runs that have quotes in them; `raw` is the record as it stands in the file."""
        return _with_runs(self, tuple(i for i, run in enumerate(self.runs) if _is_bare(as_one(cells, run), raw)))


@lru_cache(maxsize=65_536)
def _with_runs(look: RowLook, kept: tuple[int, ...]) -> RowLook:
    return replace(look, runs=tuple(look.runs[i] for i in kept), as_one=tuple(look.as_one[i] for i in kept))


def as_one(cells: Sequence[Cell], run: Join) -> str:
    """The cells of a run as the one cell that they may be: "12,50"."""
    return ",".join(as_written(cell) for cell in cells[run[0] : run[1] + 1])


def _is_bare(whole: str, raw: str) -> bool:
    return re.search(rf"(?:^|,){re.escape(whole)}(?=,|\s*$)", raw) is not None


_MOST_RUNS = 6


@lru_cache(maxsize=65_536)
def row_look(cells: tuple[CellLook, ...]) -> RowLook:
    """How a row of such cells looks."""
    found = [run for start in range(len(cells) - 1) for run in _from(cells, start)][:_MOST_RUNS]
    kinds = tuple(cell.kind for cell in cells)
    return RowLook(cells, kinds, tuple(run for run, _ in found), tuple(kind for _, kind in found))


def _from(cells: Sequence[CellLook], start: int) -> Iterator[tuple[Join, Kind]]:
    left, right = cells[start], cells[start + 1]
    if left.word_before and right.word_behind:
        yield (start, start + 1), Kind.MIXED if Kind.MIXED in {left.kind, right.kind} else Kind.WORDS
    if (left.nought and right.after_nought) or (left.whole and right.decimals):
        yield (start, start + 1), Kind.FIGURE
    end = start + 1
    while left.front and end < len(cells):
        if cells[end].back:
            yield (start, end), Kind.WHOLE if cells[end].group else Kind.FIGURE
        if not cells[end].group:
            return
        end += 1
