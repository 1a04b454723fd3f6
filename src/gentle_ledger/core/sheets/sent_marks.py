"""Columns of a sheet that say which rows were sent: our own mark column, and others that read like one.

A row that was sent and goes again is the worst that can happen, so one word that says so is enough to ask. What such
columns are called and say is common practice, no source; the states of a text in capitals are those of SMPP 3.4,
appendix B (from memory).
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, as_written, column_key, is_blank
from gentle_ledger.core.cells.days import day_of_number
from gentle_ledger.core.sheets.export import MARK_COLUMNS
from gentle_ledger.core.sheets.model import Sheet

_OUR_MARKS = frozenset({"ready", "held", "left out", "to go", "going", "sent", "failed", "unsure"})
_OURS_GONE = frozenset({"sent", "going", "unsure"})
"""The marks of ours whose rows may have gone."""
_OURS_ONLY = frozenset({"to go", "left out", "unsure"})
"""Marks that hardly anybody else writes like this."""
_TAIL = frozenset(column_key(name) for name in MARK_COLUMNS)
_HANDED_OVER = ("reference", "time")
"""Those of our columns that are filled only where a text was handed over."""
_ENOUGH = 4
"""So many of our six columns are ours, whatever became of the others."""

_WENT = (
    "sent|resent|texted|delivered|delivrd|notified|messaged|accepted for delivery|acceptd|enroute|"
    r"envoy[e\u00e9]e?s?|livr[e\u00e9]e?s?|exp[e\u00e9]di[e\u00e9]e?s?|"
    "gesendet|versendet|versandt|verschickt|zugestellt|benachrichtigt|"
    "enviad[oa]s?|entregad[oa]s?|notificad[oa]s?|verzonden|verstuurd|afgeleverd|bezorgd|"
    "inviat[oaie]|consegnat[oaie]|entregues?"
)
_BEFORE_WENT = r"(?:already|text|sms|message|msg|mail|auto|was|been|has been|1st|2nd|first|second)[ :.,-]+"
_SAYS_WENT = re.compile(rf"(?:{_BEFORE_WENT})*(?:{_WENT})\b(?P<more>.*)", re.DOTALL)
_SAYS_NO = re.compile(r"[\W_]*(?:no|not|not yet|never|none|nein|nicht|non|pas|niet|n\u00e3o|false|0)[\W_]*")
"""Behind such a word it says that the row did not go: "sent: no"."""
_WEAK = re.compile(
    r"(?:arrived|reminded|contacted|informed|submitted|accepted|dispatched|transmitted|going)\b(.*)", re.DOTALL
)
"""Words that say so only where the column's name does, or another cell."""
_WHEN = re.compile(
    r"(?:[\s\d:,.;()\-\u2013\u2014/@+!]|(?:on|at|by|via|to|am|pm|um|le|el|op|ok|in|the|and|et|und|st|nd|rd|th|t|z|utc)\b"
    r"|(?:sms|text|phone|mail|customer|carrier|again|twice|once|today|yesterday|morning|reminder)s?\b"
    r"|(?:jan|feb|mar|apr|may|mai|jun|jul|aug|sep|oct|okt|nov|dec|dez|mon|tue|wed|thu|fri|sat|sun)[a-z]*\b)*"
)
"""What may stand behind such a word in a cell that says nothing else: when, how, to whom."""

_NAMES = re.compile(
    r"\b(?:sent|texted|messaged|notified|reminded|contacted|informed|delivered|"
    r"(?:sms|text|message|msg)[ _-]?(?:status|state|date|report|receipt|result|on)|"
    r"send(?:ing)?[ _-]?(?:status|state|result)|"
    r"(?:delivery|dlr)[ _-]?(?:status|state|date|time|day|report|receipt|result|on|at)|"
    r"(?:last|first|previous|date|day|when|time)(?: of)?(?: last)? (?:text|sms|message|reminder)|last contact|"
    r"envoy[e\u00e9]e?s?|livr[e\u00e9]e?s?|gesendet|versendet|versandt|verschickt|zugestellt|benachrichtigt|"
    r"enviad[oa]s?|entregad[oa]s?|verzonden|verstuurd|afgeleverd|inviat[oaie]|consegnat[oaie]|entregues?)\b"
)
_MARK_NAME = re.compile(r"mark(?: \d+)?")
_STATUS_NAME = re.compile(r"\b(?:status|state|mark|result|sms|progress|statut|stand|estado|stato)\b")
_UNIT = re.compile(r"[(\[]")
_YES = frozenset(
    {"yes", "y", "x", "xx", "true", "ok", "done", "\u2713", "\u2714", "\u2705", "\u2611", "oui", "ja", "si"}
    | {"s\u00ed", "sim", "wahr", "vrai", "tak", "erledigt", "fait", "hecho"}
)
_DAY = re.compile(
    r"\d{4}[-/.]\d{1,2}[-/.]\d{1,2}.*|\d{1,2}[./-]\d{1,2}[./-]\d{2,4}.*|\d{1,2}\.? ?[^\W\d_]{3,9}\b.*"
    r"|[^\W\d_]{3,9}\.? \d{1,2}\b.*|\d{1,2}:\d{2}.*|\d{1,2} ?[ap]m\b.*"
)
_MOST_TEXTS = 20
"""More texts than this to one row nobody counts: then the figures of such a column are of something else."""


@dataclass(frozen=True, slots=True)
class SentMarks:
    """A column that says which rows were sent.

    Attributes:
        column: its name.
        ours: True for a mark column that this program wrote, and that is as it was.
        rows: the rows (from 0) that it says were sent, or may have been.
        example: what stands in the first of them.
    """

    column: str
    ours: bool
    rows: frozenset[int]
    example: str


def sent_marks(sheet: Sheet) -> tuple[SentMarks, ...]:
    """Every column of the sheet that says of at least one row that it was sent."""
    found = (sent_marks_in(sheet, position) for position in range(len(sheet.columns)))
    return tuple(marks for marks in found if marks)


def beside_marks(sheet: Sheet) -> frozenset[int]:
    """The columns besides its own that what a mark column says can hang on: those of the hand-overs."""
    names = map(column_key, sheet.columns)
    return frozenset(i for i, name in enumerate(names) if re.sub(r" \d+$", "", name) in _HANDED_OVER)


def sent_marks_in(sheet: Sheet, position: int) -> SentMarks | None:
    """What one column of the sheet says; None for one that says of no row that it was sent.

    It hangs on the names of the others as well: beside enough of our other columns a column called Mark is ours, and
    where ours has gone, the moment or the reference of a hand-over speaks for it.
    """
    name = column_key(sheet.columns[position])
    others = {re.sub(r" \d+$", "", column_key(column)) for column in sheet.columns} & _TAIL
    if _MARK_NAME.fullmatch(name) and len(others) >= _ENOUGH:
        return _ours(sheet, position)
    if "mark" not in others and len(others) >= _ENOUGH and name in _HANDED_OVER:
        filled = [row for row, cell in enumerate(sheet.values(position)) if not is_blank(cell)]
        return _made(sheet, position, False, filled)
    return _like_one(sheet, position)


def _made(sheet: Sheet, position: int, ours: bool, rows: Sequence[int]) -> SentMarks | None:
    if not rows:
        return None
    example = as_written(sheet.rows[rows[0]][position]).strip()
    return SentMarks(sheet.columns[position], ours, frozenset(rows), example)


def _ours(sheet: Sheet, position: int) -> SentMarks | None:
    """Our own column. Where a mark was written over, whether its row went is told by what stands beside it."""
    words = [_word(cell) for cell in sheet.values(position)]
    number = re.search(r"( \d+)?$", column_key(sheet.columns[position]))
    beside = [sheet.position(f"{name}{number[0] if number else ''}") for name in _HANDED_OVER]
    handed_over = [place for place in beside if place is not None]
    if any(words) and _OUR_MARKS.isdisjoint(words):
        # A column of that name that somebody else has: marks of a chart.
        return _like_one(sheet, position)
    gone = {row for row, word in enumerate(words) if word in _OURS_GONE}
    doubtful = set()
    for row, word in enumerate(words):
        if word not in _OUR_MARKS:
            filled = any(not is_blank(sheet.rows[row][place]) for place in handed_over)
            if filled or (word and not handed_over) or _says_went(word, alone=False):
                doubtful.add(row)
    return _made(sheet, position, not doubtful, sorted(gone | doubtful))


def _like_one(sheet: Sheet, position: int) -> SentMarks | None:
    """A column in which a word says so; or one that is called "Sent" or the like, of days or of yes."""
    name, cells = column_key(sheet.columns[position]), sheet.values(position)
    words = [_word(cell) for cell in cells]
    by_name = bool(_NAMES.search(name))
    alone = not by_name and not _STATUS_NAME.search(name)
    say = {word for word in set(words) if _says_went(word, alone=alone)}
    went = {row for row, word in enumerate(words) if word in say} if say else set()
    ours = not _OURS_ONLY.isdisjoint(words)
    if went or ours or by_name:
        went |= {row for row, word in enumerate(words) if _weakly(word)}
    if ours:
        went |= {row for row, word in enumerate(words) if word in _OURS_GONE}
    if by_name:
        went |= _say_yes(name, cells, words)
    return _made(sheet, position, False, sorted(went))


def _says_went(word: str, *, alone: bool) -> bool:
    """Whether a cell says that its row went; `alone` where it counts only if it says nothing else: "sent a cheque"."""
    found = _SAYS_WENT.fullmatch(word)
    if not found or _SAYS_NO.fullmatch(found["more"]):
        return False
    return not alone or bool(_WHEN.fullmatch(found["more"]))


def _weakly(word: str) -> bool:
    found = _WEAK.fullmatch(word)
    return found is not None and not _SAYS_NO.fullmatch(found[1])


def _say_yes(name: str, cells: Sequence[Cell], words: Sequence[str]) -> set[int]:
    """The rows that a column called like this says yes to: a day, a time, a tick, or how many texts there were."""
    figures = [(row, value) for row, cell in enumerate(cells) if (value := _figure(cell)) is not None]
    days = [row for row, value in figures if day_of_number(f"{value:f}") is not None]
    counted = not _UNIT.search(name) and all(value == int(value) and value <= _MOST_TEXTS for _, value in figures)
    yes = {row for row, value in figures if counted and value >= 1}
    yes |= set(days) if len(days) == len(figures) else set()
    says = {row for row, (cell, word) in enumerate(zip(cells, words, strict=True)) if _says_yes(word, cell)}
    return yes | says


def _figure(cell: Cell) -> Decimal | None:
    if isinstance(cell, Decimal):
        return cell
    text = cell.strip() if isinstance(cell, str) else ""
    return Decimal(text) if re.fullmatch(r"\d{1,9}(?:\.\d{1,9})?", text) else None


def _says_yes(word: str, cell: Cell) -> bool:
    return isinstance(cell, date) or cell is True or word in _YES or bool(_DAY.fullmatch(word))


def _word(cell: Cell) -> str:
    return column_key(as_written(cell)) if isinstance(cell, (str, bool, date)) else ""
