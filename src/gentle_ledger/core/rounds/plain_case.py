"""What differs in a row's text from the plain case, in words, for whoever reads it before it goes."""

from collections import Counter
from collections.abc import Sequence
from decimal import Decimal
from functools import cached_property

from gentle_ledger.core.cells.phones import countries_of, country_of
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import PlanMark
from gentle_ledger.core.sms.alphabet import Alphabet

ENOUGH = 3
"""From how many texts on there is a plain case to differ from; a figure of ours."""


class PlainCase:
    """What most texts of a round are like; see `differs`."""

    def __init__(self, computed: Computed) -> None:
        self._computed = computed
        self._rows = [row for row in range(len(computed)) if computed.texts[row] and self._is_open(row)]

    def _is_open(self, row: int) -> bool:
        return self._computed.marks[row] is not PlanMark.LEFT_OUT

    @cached_property
    def _sizes(self) -> list[int]:
        return sorted(self._computed.measures[row].characters for row in self._rows)

    @cached_property
    def _alphabets(self) -> Counter[Alphabet]:
        return Counter(self._computed.measures[row].alphabet for row in self._rows)

    @cached_property
    def _countries(self) -> Counter[str]:
        return Counter(countries_of(number for row in self._rows if (number := self._computed.numbers[row].e164)))

    @cached_property
    def _wordings(self) -> Counter[str | None]:
        return Counter(self._computed.wording_name(row) for row in self._rows)

    @cached_property
    def _middles(self) -> list[tuple[str, Role, Sequence[Decimal | None], Decimal]]:
        found = []
        for column, role, figures in self._computed.view.figures():
            known = sorted(figure for row in self._rows if (figure := figures[row]) is not None)
            if len(known) >= ENOUGH:
                found.append((column, role, figures, known[(len(known) - 1) // 2]))
        return found

    def differs(self, row: int) -> list[str]:
        """Parts of sentences about the text of a row (from 0); none where it is like the others, or has no text."""
        if row not in self._set or len(self._rows) < ENOUGH:
            return []
        return [*self._of_size(row), *self._of_figures(row), *self._of_kind(row)]

    @cached_property
    def _set(self) -> frozenset[int]:
        return frozenset(self._rows)

    def _of_size(self, row: int) -> list[str]:
        size, found = self._computed.measures[row], []
        if size.characters == self._sizes[-1] != self._sizes[-2]:
            found.append(f"longest of all, with {size.characters:,} characters")
        if size.characters == self._sizes[0] != self._sizes[1]:
            found.append(f"shortest of all, with {size.characters:,} characters")
        return found

    def _of_figures(self, row: int) -> list[str]:
        found = []
        for column, role, figures, middle in self._middles:
            figure = figures[row]
            if figure is None or middle <= 0 or figure <= 0:
                continue
            times = figure / middle
            if times >= Decimal("1.5") or times <= Decimal("0.5"):
                shown = f"{times:.1f}" if times >= Decimal("0.1") else f"{Decimal(f'{times:.1g}'):f}"
                found.append(f"{column} is {shown} times the usual {'amount' if role is Role.MONEY else 'figure'}")
        return found

    def _of_kind(self, row: int) -> list[str]:
        computed, found = self._computed, []
        alphabet, name = computed.measures[row].alphabet, computed.wording_name(row)
        country = country_of(computed.numbers[row].e164) if computed.numbers[row].e164 else ""
        if alphabet is Alphabet.UCS_2 and self._alphabets[alphabet] == 1:
            found.append("the only one with special characters")
        if country and self._countries[country] == 1:
            found.append(f"the only number of {country}")
        if self._wordings[name] == 1 and len(self._wordings) > 1:
            found.append(f"the only one that reads “{name}”" if name else "the only one that reads the plain wording")
        return found
