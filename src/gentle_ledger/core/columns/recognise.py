"""Recognising what each column is for, from its header and its cells."""

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from functools import cached_property

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.countries import country_in
from gentle_ledger.core.cells.days import basic_day, day_of_number, shaped_like_a_day, written_day
from gentle_ledger.core.cells.headings import MONEY, heading_words
from gentle_ledger.core.cells.locales import known_currency
from gentle_ledger.core.cells.reading import (
    has_currency_sign,
    is_whole,
    looks_like_amount,
    percents,
)
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.columns.number_columns import NumberColumns, number_columns
from gentle_ledger.core.formulas.explain import unit_of
from gentle_ledger.core.sheets.model import Sheet

# The words offices put above such columns; common practice, no source.
_WORDS = {
    Role.NAME: "name holder surname forename owner customer client contact skipper tenant recipient boat vessel",
    Role.REFERENCE: "reference ref id code account acct invoice berth permit licence license file customer_no no nr",
}
_HEADER = {Role.MONEY: MONEY, **{role: frozenset(words.split()) for role, words in _WORDS.items()}}
_DAYS = frozenset({"date", "day", "dated", "since", "until", "when"})
# What a column is about where these stand last in its name: a fee year, a payment plan.
_TIMES = "year years month months week weeks day days date dates dated period quarter season"
_SORTS = "plan type kind class category group status method terms term level line stage step phase zone count"
_NO_MONEY = frozenset(f"{_TIMES} {_SORTS} reference ref id code no nr number".split())
# Behind what a column is about: dues new, balance forward, fees Nov.
_ADDED = "new old current now net gross incl including tax brought forward open unpaid"
_MONTHS = "jan feb mar apr may jun jul aug sep sept oct nov dec january february march april june july august september"
_SAYS_NOTHING = frozenset(f"{_ADDED} {_MONTHS} october november december".split())
_BRACKETED = re.compile(r"[(\[][^)\]]*[)\]]?")
_SMALL_WORDS = frozenset({"for", "of", "in", "per", "by", "this", "from", "to", "at", "on", "since", "until"})
_LOOK_AT = 500
"""How many filled cells of a column are looked at; enough for any sheet that is not built to mislead."""
_MOST = 0.8
_AMOUNTS = 0.6
"""Enough of what a column's name says: the rest may say "paid" or "n/a", and is held where it cannot be read."""
_MEASURED = 0.5
_HALF = 0.5
_SOME = 1 / 3
"""Two amounts and more, some with cents, under a name of money are money though most cells say "paid" or "ask"."""
_COUNTRY = frozenset({"country", "countries", "nation", "pays", "land", "pais", "país", "paese", "kraj"})
_OF_SOMETHING_ELSE = frozenset({"flag", "registration", "registry", "origin", "birth", "built", "build"})


@dataclass(frozen=True, slots=True)
class Verdict:
    """What a column seems to be for, and what tells so: part of a sentence, "" where nothing does."""

    role: Role
    evidence: str = ""


def numbers_in(sheet: Sheet, region: str) -> NumberColumns:
    """Which columns of a sheet have phone numbers."""
    samples = [_sample(row[i] for row in sheet.rows) for i in range(len(sheet.columns))]
    return number_columns(sheet.columns, samples, region)


def recognise_roles(sheet: Sheet, region: str, locale: str) -> tuple[Role, ...]:
    """A role for each column, in the sheet's order. At most one column becomes the mobile number."""
    return tuple(verdict.role for verdict in recognise(sheet, region, locale))


def recognise(sheet: Sheet, region: str, locale: str) -> tuple[Verdict, ...]:
    """The same, each with its evidence."""
    samples = [_sample(row[i] for row in sheet.rows) for i in range(len(sheet.columns))]
    numbers = number_columns(sheet.columns, samples, region)
    found: list[Verdict] = []
    for i, (name, cells) in enumerate(zip(sheet.columns, samples, strict=True)):
        if i == numbers.chosen:
            found.append(Verdict(Role.MOBILE, "its name and its cells fit phone numbers best of all columns"))
        elif i in numbers.others:
            # A second column of phone numbers: written as it stands, never as a sum.
            goes = sheet.columns[numbers.chosen or 0]
            found.append(Verdict(Role.TEXT, f"it has phone numbers too; texts go to {clipped(goes)}"))
        else:
            facts = Facts(name, cells, locale)
            found.append(next((v for recogniser in RECOGNISERS if (v := recogniser(facts))), Verdict(Role.TEXT)))
    return tuple(found)


def _sample(cells: Iterable[Cell]) -> list[Cell]:
    """The first filled cells of a column."""
    found: list[Cell] = []
    for cell in cells:
        if not is_blank(cell):
            found.append(cell)
            if len(found) == _LOOK_AT:
                break
    return found


def _share(cells: Sequence[Cell], good: int) -> float:
    return good / len(cells) if cells else 0.0


class Facts:
    """What the recognisers look at: a column's name and its first filled cells, each fact told once."""

    def __init__(self, header: str, cells: Sequence[Cell], locale: str) -> None:
        self.header = header
        self.cells = cells
        self.locale = locale
        self.words = heading_words(header)
        self.named = [role for role, names in _HEADER.items() if not names.isdisjoint(self.words)]
        self.coded = Role.REFERENCE in self.named

    @cached_property
    def amounts(self) -> list[Cell]:
        """The cells that look like amounts."""
        return [cell for cell in self.cells if looks_like_amount(cell)]

    @cached_property
    def in_money(self) -> bool:
        """Whether the name says money over such cells."""
        return _names_money(self.header, whole=all(is_whole(cell) for cell in self.amounts))

    @cached_property
    def in_percent(self) -> int:
        """How many cells are in percent."""
        return percents(self.cells)

    def share(self, good: int) -> float:
        """Which share of the cells so many are."""
        return _share(self.cells, good)

    def most(self, good: int, what: str) -> str:
        """ "57 of 58 cells are amounts": evidence by so many cells."""
        return f"{good} of {count(len(self.cells), 'cell')} {'is' if good == 1 else 'are'} {what}"


Recogniser = Callable[[Facts], Verdict | None]


def _by_country(facts: Facts) -> Verdict | None:
    if not facts.cells or not _are_countries(facts.words, facts.cells, facts.locale):
        return None
    return Verdict(Role.COUNTRY, "its name says country, and most cells name one")


def _blank_by_name(facts: Facts) -> Verdict | None:
    if facts.cells:
        return None
    money = [Role.MONEY] if _names_money(facts.header, whole=True) else []
    role = next((r for r in (Role.NAME, *money, Role.REFERENCE) if r in facts.named), Role.TEXT)
    return Verdict(role, "its name says so, and all its cells are blank" if role is not Role.TEXT else "")


def _by_days(facts: Facts) -> Verdict | None:
    if not _are_days(facts.words, facts.cells, facts.locale, money=facts.in_money, coded=facts.coded):
        return None
    return Verdict(Role.DATE, "most cells are days")


def _by_links(facts: Facts) -> Verdict | None:
    links = sum(as_written(cell).strip().lower().startswith(("http://", "https://")) for cell in facts.cells)
    return Verdict(Role.LINK, facts.most(links, "addresses")) if facts.share(links) >= _MOST else None


def _by_percents(facts: Facts) -> Verdict | None:
    found = facts.in_percent
    return Verdict(Role.NUMBER, facts.most(found, "in percent")) if facts.share(found) >= _MOST else None


def _by_money(facts: Facts) -> Verdict | None:
    share = facts.share(len(facts.amounts))
    evidence = facts.most(len(facts.amounts), "amounts")
    cents = any(not is_whole(cell) or has_currency_sign(cell) for cell in facts.amounts)
    if facts.in_money and (share > _HALF or (cents and share >= _SOME and len(facts.amounts) > 1)):
        return Verdict(Role.MONEY, f"its name says money, and {evidence}")
    if share >= _MOST and any(has_currency_sign(cell) for cell in facts.amounts):
        return Verdict(Role.MONEY, f"{evidence}, with a currency's sign")
    return None


def _by_codes(facts: Facts) -> Verdict | None:
    if not facts.coded or facts.share(len(facts.amounts)) < _MOST:
        return None
    return Verdict(Role.REFERENCE, "its name says that it is a code, and its cells are figures")


def _by_figures(facts: Facts) -> Verdict | None:
    share = facts.share(len(facts.amounts))
    # A unit in the column's name, such as (m) or (kWh), says what the cells should be even where some are spoilt.
    measured = unit_of(facts.header) and share >= _MEASURED
    mixed = not facts.in_money and facts.share(len(facts.amounts) + facts.in_percent) >= _MOST
    with_cents = not facts.coded and facts.share(sum(not is_whole(cell) for cell in facts.amounts)) >= _AMOUNTS
    if not (share >= _MOST or measured or mixed or with_cents):
        return None
    return Verdict(Role.NUMBER, facts.most(len(facts.amounts) + (facts.in_percent if mixed else 0), "figures"))


def _by_name(facts: Facts) -> Verdict | None:
    role = next((role for role in (Role.NAME, Role.REFERENCE) if role in facts.named), None)
    return Verdict(role, "its name says so") if role else None


RECOGNISERS: tuple[Recogniser, ...] = (
    _by_country,
    _blank_by_name,
    _by_days,
    _by_links,
    _by_percents,
    _by_money,
    _by_codes,
    _by_figures,
    _by_name,
)
"""What a column can be recognised by, in this order: its content allows a role, and among those its name decides."""


def _are_days(words: list[str], cells: Sequence[Cell], locale: str, *, money: bool, coded: bool) -> bool:
    """Whether nearly all cells are days, or most of them under a name that speaks of days.

    Days that fit both orders are days: the clerk is asked which, and none is written as it stands. Codes look alike.
    Eight digits that are a day are one under a name of days, and under one of money: no bill is of that many dollars.
    What is only shaped like a day (31/11/2026), or is a spreadsheet's number of one, is held rather than written.
    """
    speaks = not _DAYS.isdisjoint(words)
    days = [_is_day(cell, locale, coded=coded, digits=speaks or money) for cell in cells]
    if not speaks and _share(cells, sum(days)) <= _HALF:
        return False
    shaped = sum(_seems_day(cell, speaks=speaks) for cell, day in zip(cells, days, strict=True) if not (day or coded))
    return _share(cells, sum(days) + shaped) >= (_AMOUNTS if speaks else _MOST)


def _is_day(cell: Cell, locale: str, *, coded: bool, digits: bool) -> bool:
    """Whether a cell is a day; `digits` allows eight of them to be one."""
    if isinstance(cell, str) and (found := written_day(cell, locale)) is not None:
        return not (coded and found.open)
    if isinstance(cell, date):
        return True
    return digits and isinstance(cell, (str, Decimal)) and basic_day(as_written(cell)) is not None


def _seems_day(cell: Cell, *, speaks: bool) -> bool:
    if isinstance(cell, str) and shaped_like_a_day(cell):
        return True
    return speaks and isinstance(cell, (str, Decimal)) and day_of_number(as_written(cell)) is not None


def _are_countries(words: list[str], cells: Sequence[Cell], locale: str) -> bool:
    """Whether a column says which country its rows' people are in, by its name and by most cells.

    By the cells alone it could be the flag of a boat, whose owner has a number at home.
    """
    if _COUNTRY.isdisjoint(words) or not _OF_SOMETHING_ELSE.isdisjoint(words):
        return False
    return _share(cells, sum(country_in(cell, locale) is not None for cell in cells)) >= _AMOUNTS


def _names_money(header: str, *, whole: bool) -> bool:
    """Whether a column's name says money: "Season fee" does, "Fee year", "Total berths" and "Cost centre" do not.

    What it is about stands last in it, or in front of a small word ("Fees for the year"); where that is a word that
    means nothing here, whole numbers are no money. "Due in days" over whole numbers is none either.
    """
    words = heading_words(_BRACKETED.sub(" ", header)) or heading_words(header)
    if _HEADER[Role.MONEY].isdisjoint(words):
        return False
    small = next((i for i, word in enumerate(words) if word in _SMALL_WORDS and i), len(words))
    named = [word for word in words[:small] if word not in _SAYS_NOTHING and not known_currency(word.upper())]
    about = named[-1] if named else ""
    if about in _NO_MONEY or (whole and not _NO_MONEY.isdisjoint(words[small:])):
        return False
    return about in _HEADER[Role.MONEY] or not whole
