"""Recognising what each column is for, from its header and its cells."""

import re
from collections.abc import Iterable, Sequence

from gentle_ledger.core.formulas.explain import unit_of
from gentle_ledger.core.numbers import tidy_number
from gentle_ledger.core.reading import (
    could_be_a_day,
    has_currency_sign,
    looks_like_amount,
    looks_like_amount_anywhere,
    percents,
    reader,
)
from gentle_ledger.core.sheets.model import Cell, Sheet, as_written, is_blank
from gentle_ledger.core.values import Role, Unreadable

# The words offices put above such columns; common practice, no source.
_WORDS = {
    Role.MOBILE: "mobile cell cellphone handset sms",
    Role.NAME: "name holder surname forename owner customer client contact skipper tenant recipient boat vessel",
    Role.MONEY: "due dues amount balance total price fee fees charge charges cost owed owing paid payment deposit rate "
    "outstanding arrears credit debit sum",
    Role.REFERENCE: "reference ref id code account acct invoice berth permit licence license file customer_no",
}
_HEADER = {role: frozenset(words.split()) for role, words in _WORDS.items()}
_PHONE_WORDS = frozenset({"phone", "telephone", "tel", "number", "contact", "msisdn"})
_PHONE = re.compile(r"[+(]?[\d][\d\s().\-/\u00a0\u2010-\u2015]{5,}\d")
_LOOK_AT = 500
"""How many filled cells of a column are looked at; enough for any sheet that is not built to mislead."""
_MOST = 0.8
_MEASURED = 0.5


def recognise_roles(sheet: Sheet, region: str, locale: str) -> tuple[Role, ...]:
    """A role for each column, in the sheet's order. At most one column becomes the mobile number."""
    samples = [_sample(row[i] for row in sheet.rows) for i in range(len(sheet.columns))]
    scores = [_phone_score(name, cells, region) for name, cells in zip(sheet.columns, samples, strict=True)]
    mobile = scores.index(max(scores)) if scores and max(scores) > 0 else None
    roles: list[Role] = []
    for i, (name, cells) in enumerate(zip(sheet.columns, samples, strict=True)):
        if i == mobile:
            roles.append(Role.MOBILE)
        elif scores[i] > 0:
            # A second column of phone numbers: written as it stands, never as a sum.
            roles.append(Role.TEXT)
        else:
            roles.append(_role(name, cells, locale))
    return tuple(roles)


def _sample(cells: Iterable[Cell]) -> list[Cell]:
    """The first filled cells of a column."""
    found: list[Cell] = []
    for cell in cells:
        if not is_blank(cell):
            found.append(cell)
            if len(found) == _LOOK_AT:
                break
    return found


def _words(header: str) -> set[str]:
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", header)
    return set(re.findall(r"[^\W\d_]+", spaced.casefold()))


def _share(cells: Sequence[Cell], good: int) -> float:
    return good / len(cells) if cells else 0.0


def _phone_score(header: str, cells: Sequence[Cell], region: str) -> float:
    """Above 0 when the column holds phone numbers; the best one is where the texts go."""
    words = _words(header)
    named = 3 if words & _HEADER[Role.MOBILE] else 1 if words & _PHONE_WORDS else 0
    if not cells:
        return float(named) / 10 if named == 3 else 0.0
    shaped = [cell for cell in cells if _PHONE.search(as_written(cell)) and not _is_date_or_link(cell)]
    share = _share(cells, len(shaped))
    if named == 3 and share >= 0.3:
        return named + share
    if named and share >= 0.5:
        return named + share
    few = shaped[:40]
    reachable = sum(1 for cell in few if tidy_number(cell, region).e164)
    return share if share >= _MOST and reachable >= _MOST * len(few) else 0.0


def _is_date_or_link(cell: Cell) -> bool:
    written = as_written(cell).strip()
    return written.startswith(("http://", "https://")) or bool(re.match(r"\d{4}-\d\d-\d\d", written))


def _role(header: str, cells: Sequence[Cell], locale: str) -> Role:
    words = _words(header)
    if not cells:
        return next((r for r in (Role.NAME, Role.MONEY, Role.REFERENCE) if words & _HEADER[r]), Role.TEXT)
    read_day = reader(cells, Role.DATE, "", locale)
    # Days that fit both orders are days: the clerk is asked which, and none is written as it stands. Codes look alike.
    coded = bool(words & _HEADER[Role.REFERENCE])
    days = sum(not isinstance(read_day(c), Unreadable) or (not coded and could_be_a_day(c)) for c in cells)
    if _share(cells, days) >= _MOST:
        return Role.DATE
    if _share(cells, sum(as_written(c).strip().lower().startswith(("http://", "https://")) for c in cells)) >= _MOST:
        return Role.LINK
    in_percent = percents(cells, locale)
    if _share(cells, in_percent) >= _MOST:
        return Role.NUMBER
    amounts = sum(looks_like_amount(c, locale) for c in cells)
    numeric = _share(cells, amounts) >= _MOST
    if numeric and words & _HEADER[Role.REFERENCE] and not words & _HEADER[Role.MONEY]:
        return Role.REFERENCE
    if numeric and (words & _HEADER[Role.MONEY] or any(has_currency_sign(c) for c in cells)):
        return Role.MONEY
    # A unit in the column's name, such as (m) or (kWh), says what the cells should be even where some are spoilt.
    measured = unit_of(header) and _share(cells, amounts) >= _MEASURED
    mixed = not words & _HEADER[Role.MONEY] and _share(cells, amounts + in_percent) >= _MOST
    if numeric or measured or mixed:
        return Role.NUMBER
    # Amounts in another country's writing are amounts: each row then says that it cannot be read, rather than
    # sending what stands there without its currency.
    foreign = _share(cells, sum(looks_like_amount_anywhere(c) for c in cells)) >= _MOST
    if foreign and words & _HEADER[Role.MONEY] and not words & _HEADER[Role.REFERENCE]:
        return Role.MONEY
    if words & _HEADER[Role.NAME]:
        return Role.NAME
    if words & _HEADER[Role.REFERENCE]:
        return Role.REFERENCE
    return Role.TEXT
