"""Two rows read the same although their amounts differ in the sheet."""

from collections.abc import Hashable, Iterator, Sequence
from itertools import repeat

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

SAME = reason_kind("same text, other amount", "the text is that of row {row} but for the name, and {column} differs")


@check(
    key="same text",
    level=Level.LOOK,
    place=18,
    label="same text",
    doc="Texts are the same but for the name while the rows differ in their amounts: the amount may be missing.",
    do="Put a field with the amount into the wording.",
    mends=(),
    sentence=lambda findings: (
        f"{count(len(findings), 'text is', 'texts are')} the same as another but for the name, though the amounts "
        "differ in the sheet"
    ),
)
def same_text(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    money = [at for at, role in enumerate(composer.roles) if role is Role.MONEY]
    for wording, mine in view.by_wording(rows) if money else ():
        telling = [at for at in wording.used if composer.roles[at] is not Role.NAME]
        # A wording that writes every amount tells rows apart by them.
        if set(money) <= set(telling):
            continue
        places = [composer.groups.place(row) for row in mine]
        shown = [composer.column(at).shown.whole() for at in telling]
        said: Iterator[Hashable] = zip(*([column[at] for at in places] for column in shown), strict=True)
        alike: dict[Hashable, list[int]] = {}
        for row, key in zip(mine, said if shown else repeat(()), strict=False):
            alike.setdefault(key, []).append(row)
        for group in alike.values():
            yield from _found(view, money, group)


def _found(view: RoundView, money: Sequence[int], group: Sequence[int]) -> Iterator[Finding]:
    """Each row of a group of like texts, beside the first one that has another amount."""
    composer = view.composer
    for position in money:
        column = composer.column(position)
        values = [column.values[composer.groups.place(row)] for row in group]
        other = next((row for row, value in zip(group, values, strict=True) if value != values[0]), None)
        if other is not None:
            for row, value in zip(group, values, strict=True):
                beside = other if value == values[0] else group[0]
                yield Finding("same text", row, SAME(row=number_of_row(beside), column=column.name), column.name)
            return
