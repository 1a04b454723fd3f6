"""Figures as people write them: which marks part the decimals, told by all cells of a column together."""

import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from functools import lru_cache

from babel.numbers import get_currency_precision, get_currency_symbol, get_decimal_symbol, get_group_symbol

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.invisible import visible, without_apostrophe
from gentle_ledger.core.cells.locales import known_currency
from gentle_ledger.core.cells.order import (
    FIGURES,
    Order,
    Place,
    Reading,
    asked,
    decides,
    each_by_itself,
    quoted,
    with_answer,
)

MOST_DIGITS = 30
_LONGEST = 60

_SPACES = "'\u2019\u00b4 "
_BODY = re.compile(rf"[\d.,{_SPACES}]*\d[\d.,{_SPACES}]*")
# Groups of three, or of two before a last one of three as in India (CLDR, pattern #,##,##0).
_GROUPED = re.compile(r"[1-9]\d{0,2}(?:([.,' ])\d{3})(?:\1\d{3})*|[1-9]\d?(?:([., ])\d\d)+\2\d{3}")
_PLAIN = re.compile(r"\d+(?:\.\d\d?)?")
_CREDIT = re.compile(r"(.*?[\d.,)\-])\s*(cr|dr)\.?", re.IGNORECASE)
_DASHED = re.compile(r"(.*\d)[.,](?:-{1,2}|\u2013|\u2014|=)$")
_BARE_MARK = re.compile(r"(\d[\d' ]*)[.,]")
_MINUS = "-\u2212\u2013\u2012\ufe63\uff0d"


@dataclass(frozen=True, slots=True)
class Written:
    """A figure as it stands: what stands beside it, and the values it can have.

    Attributes:
        sign: the currency's sign or code beside it, "" without one.
        percent: whether "%" stands behind it.
        point: its value where the point marks decimals; None where it cannot be read so.
        comma: the same for the comma.
        mark: the one point or comma in it; "" where it has none or several.
        three: whether exactly three digits stand behind that mark.
        decimals: how many digits stand behind it.
        grouped: whether that mark may part groups.
    """

    sign: str
    percent: bool
    point: Decimal | None
    comma: Decimal | None
    mark: str = ""
    three: bool = False
    grouped: bool = False
    decimals: int = 0

    @property
    def only(self) -> Order | None:
        """The one way it can be read in; None where it reads the same in either, or could be read in both."""
        if self.point is None:
            return Order.COMMA
        return Order.POINT if self.comma is None else None

    def value(self, order: Order | None) -> Decimal | None:
        """What the figure is worth with this decimal mark; None where it cannot be read so."""
        return self.comma if order is Order.COMMA else self.point if order is Order.POINT else None

    def order_under(self, said: Order) -> Order | None:
        """How it is read where that was said of its column: a figure that can be read in one way only is read so."""
        return said if self.value(said) is not None else self.only

    def doubtful(self, order: Order, *, thousandths: bool, answered: bool) -> bool:
        """Whether its lone mark would part three decimals in this order, where there are no such `thousandths`.

        Once the clerk has `answered`, a mark that can part nothing but decimals is no doubt.
        """
        return self.three and not thousandths and self.mark == _MARK[order] and (self.grouped or not answered)


_MARK = {Order.POINT: ".", Order.COMMA: ","}


_PLAINLY = re.compile(r"-?[0-9]{1,15}\.[0-9]{1,2}")


def plainly_with_point(cell: str) -> bool:
    """Whether a cell is an amount as nearly all are written in a text file: it needs no closer look."""
    return _PLAINLY.fullmatch(cell) is not None


@lru_cache(maxsize=4096)
def written(typed: str) -> Written | None:
    """A text as a figure, or None for one that is none, such as a word with a figure in it.

    Accounting custom for negative amounts: (12.50), 12.50-, 12.50 CR; 12.50 DR is not negative; 12.- is 12 (common
    practice, no source), and so is 12. with nothing behind its mark. Digits of any script count (Unicode, Nd).
    """
    text = without_apostrophe(visible(typed))
    if not text or len(text) > _LONGEST:
        return None
    text = text if text.isascii() else _in_plain_marks(text)
    return _from_body(text, Beside()) if _PLAIN.fullmatch(text) else _with_company(text)


@dataclass(slots=True)
class Beside:
    """What stands beside the digits of a figure."""

    signed: bool = False
    negative: bool = False
    sign: str = ""
    percent: bool = False


def _in_plain_marks(text: str) -> str:
    """Digits of any script, and its decimal and group marks, as plain ones; digits of two scripts are no figure."""
    zeros = {ord(c) - unicodedata.decimal(c) for c in text if unicodedata.category(c) == "Nd"}
    if len(zeros) > 1:
        return ""
    plain = (str(unicodedata.decimal(c)) if unicodedata.category(c) == "Nd" else _MARKS.get(c, c) for c in text)
    return "".join(plain)


# U+066B and U+066C are the Arabic decimal and group marks; the others are forms of the plain ones.
_MARKS = {
    "\u066b": ".",
    "\u066c": "'",
    "\u066a": "%",
    "\uff0e": ".",
    "\uff0c": ",",
    "\u2019": "'",
    "\u00b4": "'",
    "\uff05": "%",
    **dict.fromkeys(_MINUS, "-"),
}


def _with_company(text: str) -> Written | None:
    """A figure with a sign, brackets, a currency, "%" or "CR" beside its digits, each at most once."""
    beside = Beside()
    if match := _CREDIT.fullmatch(text):
        text, beside = match[1].strip(), Beside(signed=True, negative=match[2].casefold() == "cr")
    while not _BODY.fullmatch(text):
        shorter = _taken_off(text, beside)
        if shorter is None:
            return None
        text = shorter
    bare = _BARE_MARK.fullmatch(text)
    return _from_body(bare[1] if bare else text, beside)


def _taken_off(text: str, beside: Beside) -> str | None:
    """The text without the outermost thing that stands beside its digits; None when that is nothing known."""
    if match := _DASHED.fullmatch(text):
        return match[1]
    if not beside.percent and text.endswith("%"):
        beside.percent = True
        return text[:-1].strip()
    bracketed = text.startswith("(") and text.endswith(")")
    if not beside.signed and (bracketed or text[:1] in {"-", "+"} or text.endswith("-")):
        beside.signed, beside.negative = True, not text.startswith("+")
        return (text[1:-1] if bracketed else text[1:] if text[0] in "-+" else text[:-1]).strip()
    if not beside.sign and (split := _currency_beside(text)):
        beside.sign, rest = split
        return rest
    return None


def _currency_beside(text: str) -> tuple[str, str] | None:
    """The currency's sign or code in front of or behind the digits, and the rest; None when there is none."""
    first = next((i for i, c in enumerate(text) if c.isdigit() or c in "-+.,("), len(text))
    last = next((i for i in range(len(text), 0, -1) if text[i - 1].isdigit() or text[i - 1] in ")-.,"), 0)
    if first >= last:
        return None
    front, back = text[:first].strip(), text[last:].strip()
    if bool(front) == bool(back):
        return None
    sign = front or back
    if not (known_currency(sign.upper()) or any(unicodedata.category(c) == "Sc" for c in sign)):
        return None
    return sign.upper() if sign.isalpha() else sign, text[first:last].strip()


def _from_body(body: str, beside: Beside) -> Written | None:
    if len(body) > _LONGEST or sum(c.isdigit() for c in body) > MOST_DIGITS:
        return None
    point, comma = _by_mark(body, "."), _by_mark(body, ",")
    if point is None and comma is None:
        return None
    marks = [c for c in body if c in ".,"]
    mark = marks[0] if len(marks) == 1 else ""
    decimals = len(body) - 1 - body.index(mark) if mark else 0
    three = decimals == _GROUP
    grouped = three and _GROUPED.fullmatch(body) is not None
    if beside.negative:
        point, comma = (None if value is None else value.copy_negate() for value in (point, comma))
    return Written(beside.sign, beside.percent, point, comma, mark, three, grouped, decimals)


_GROUP = 3
"""Digits of a group, and the decimals that can be mistaken for one."""


def _by_mark(body: str, mark: str) -> Decimal | None:
    """The value of digits where `mark` parts the decimals and any other mark may only part groups; None for none."""
    whole, found, decimals = body.rpartition(mark)
    if not found:
        whole, decimals = body, ""
    elif mark in whole or not (decimals.isdecimal() or (whole and not decimals)):
        return None
    if whole and not whole.isdecimal() and not _GROUPED.fullmatch(whole):
        return None
    digits = _NO_DIGIT.sub("", whole) or "0"
    return Decimal(f"{digits}.{decimals}" if decimals else digits)


_NO_DIGIT = re.compile(r"[^0-9]")


@lru_cache(maxsize=64)
def order_of(locale: str) -> Order:
    """The decimal mark of a locale (CLDR)."""
    return Order.COMMA if get_decimal_symbol(locale.replace("-", "_")) == "," else Order.POINT


@lru_cache(maxsize=64)
def _groups_by_mark(locale: str) -> bool:
    """Whether the locale parts groups by a point or a comma, as none does that parts them by spaces (CLDR)."""
    return get_group_symbol(locale.replace("-", "_")) in {".", ","}


@lru_cache(maxsize=64)
def signs_of(currency: str) -> frozenset[str]:
    """The ways this currency may stand beside an amount: its ISO 4217 code and CLDR signs, the bare sign included."""
    full = get_currency_symbol(currency, locale="en")
    bare = "".join(c for c in full if unicodedata.category(c) == "Sc")
    initial = currency[0] + bare if bare else full
    return frozenset({currency.upper(), full, bare, initial} - {""})


def has_thousandths(currency: str) -> bool:
    """Whether the currency is written with three decimals or more (ISO 4217, minor unit)."""
    return bool(get_currency_precision(currency) >= 3)


def reading_of(cells: Iterable[Cell], currency: str | None, locale: str, said: Order | None = None) -> Reading:
    """How a column of figures is read; `currency` is that of a column of money, None for any other figures.

    A cell that can be read in one way only is evidence. A lone mark before exactly three digits never is: it parts
    groups, or is a doubt; in a currency of fewer than three decimals it never parts decimals. `said` is the clerk's
    answer, where there is one.
    """
    thousandths = currency is None or has_thousandths(currency)
    seen = _Seen(thousandths)
    for row, cell in enumerate(cells):
        if isinstance(cell, str):
            if plainly_with_point(cell):
                seen.note_sure(row, cell, Order.POINT)
            elif (found := written(cell)) is not None and (found.mark or found.only):
                seen.note(row, cell, found)
    home, by_mark = order_of(locale), _groups_by_mark(locale)
    return with_answer(seen.reading(home, by_mark), said, lambda: seen.reading(home, by_mark, alone=True))


class _Seen:
    """What the cells of a column show: by order, those that can be read in it only, and lone marks before three digits.

    A lone mark before three digits is counted under the order in which it parts groups; one that can only part three
    decimals, of which the currency has fewer, is `beyond`.
    """

    def __init__(self, thousandths: bool) -> None:
        self.thousandths = thousandths
        self.sure = dict.fromkeys(FIGURES, 0)
        self.threes = dict.fromkeys(FIGURES, 0)
        self.first_sure: dict[Order, Place] = {}
        self.first_three: dict[Order, Place] = {}
        self.beyond: Place | None = None

    def note(self, row: int, cell: str, found: Written) -> None:
        if found.three and not found.grouped and not self.thousandths:
            self.beyond = self.beyond or (row, cell)
        elif found.three and found.grouped:
            order = Order.COMMA if found.mark == "." else Order.POINT
            self.threes[order] += 1
            self.first_three.setdefault(order, (row, cell))
        elif (only := found.only) is not None:
            self.note_sure(row, cell, only)

    def note_sure(self, row: int, cell: str, only: Order) -> None:
        self.sure[only] += 1
        self.first_sure.setdefault(only, (row, cell))

    def reading(self, home: Order, groups_by_mark: bool, *, alone: bool = False) -> Reading:
        """
        Args:
            home: the decimal mark of the round's locale.
            groups_by_mark: whether that locale parts groups by the other one.
            alone: whether each cell speaks for itself only.
        """
        if all(self.sure.values()):
            return self._in_two_ways()
        order = next((order for order in FIGURES if self.sure[order]), home)
        other = FIGURES[1 - FIGURES.index(order)]
        sure, decimals, groups = self.sure[order], self.threes[other], self.threes[order]
        if self.beyond and not sure:
            return self._asked(self.beyond, self.first_three.get(order) or self.first_three.get(other))
        if decimals and (alone or not self.thousandths or not decides(sure, decimals)):
            return self._asked(self.first_three[other], self.first_sure.get(order) or self.first_three.get(order))
        if groups and (alone or not ((order is home and groups_by_mark) or decides(sure, groups))):
            return self._asked(self.first_three[order], self.first_sure.get(order))
        if order is not home and sure == 1 and self._is_long(self.first_sure[order][1]):
            return self._asked(self.first_sure[order], None)
        example = self.first_sure.get(order) or self.first_three.get(order) or self.first_three.get(other)
        if example is None:
            return Reading()
        return Reading(order, sure, f"{quoted(example[1])} is read as {self._under(example[1], order)}")

    def _in_two_ways(self) -> Reading:
        """A column that is written in both ways: cells that could be read in either are asked about, if any are."""
        open_ones = [place for place in (*self.first_three.values(), self.beyond) if place]
        both = sorted(self.first_sure.values())
        if open_ones:
            return self._asked(*sorted(open_ones)[:1], *both)
        return Reading(Order.EACH, sum(self.sure.values()), each_by_itself(both, self._under))

    def _is_long(self, cell: str) -> bool:
        """Whether one lone cell parts more decimals than any currency has: 1,0000 may be a slip for ten thousand."""
        found = written(cell)
        return not self.thousandths and found is not None and bool(found.mark) and found.decimals > _GROUP

    def _asked(self, *places: Place | None) -> Reading:
        cells = [place for place in places if place]
        orders = (*FIGURES, Order.EACH) if any(self.sure.values()) else FIGURES
        return asked(cells, "how does this column write its figures?", orders, self._under)

    def _under(self, cell: str, said: Order) -> str:
        """What a cell is where that is said of its column, in the plainest writing."""
        found = written(cell)
        order = found.order_under(said) if found else None
        if found is None or order is None:
            return "held"
        if found.doubtful(order, thousandths=self.thousandths, answered=order is said):
            return "held"
        return format(found.value(order) or Decimal(0), "f")
