"""What a check sees and what it says."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from typing import Protocol

from gentle_ledger.core.history import History
from gentle_ledger.core.numbers import Number
from gentle_ledger.core.sms.parts import Measure


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check says of one row.

    `row` counts from 0. `group` is the short phrase under which equal findings are counted ("one digit short for
    Canada"); `reason` is the row's own sentence part, without a full stop.
    """

    check: str
    row: int
    group: str
    reason: str
    column: str | None = None


@dataclass(frozen=True, slots=True)
class Gap:
    """A field that a row cannot fill: its cell is blank, or `why` it cannot be read or, if `computed`, worked out."""

    column: str
    why: str | None = None
    computed: bool = False


class RoundView(Protocol):
    """The computed rows as the checks see them, one entry a row in each sequence."""

    @property
    def numbers(self) -> Sequence[Number]: ...
    @property
    def texts(self) -> Sequence[str]: ...
    @property
    def measures(self) -> Sequence[Measure]: ...
    @property
    def gaps(self) -> Sequence[Sequence[Gap]]: ...
    @property
    def mobile_column(self) -> str | None: ...
    @property
    def wording_problem(self) -> str | None: ...
    @property
    def undecided(self) -> Mapping[int, str]:
        """The rows for which a leave-out rule cannot be decided, and why."""
        ...

    @property
    def asked(self) -> Mapping[int, tuple[str, str]]:
        """The rows that wait for an answer to how a column is read: that column, and why."""
        ...

    @property
    def doubled(self) -> Sequence[str]:
        """The columns that the sheet has and the set-up computes, and that the round uses."""
        ...

    @property
    def combine_problem(self) -> str | None:
        """Why rows cannot be combined as is set, without a full stop."""
        ...

    @property
    def bracketed(self) -> Sequence[str]:
        """The columns whose names the wording has between two brackets, which are written as they stand."""
        ...

    def compared_texts(self) -> Iterator[tuple[str, str, Sequence[int]]]:
        """What asks a column to equal a number, that column, and the rows where it holds a text that looks like one."""
        ...

    def shortened(self) -> Iterator[tuple[str, Mapping[int, str]]]:
        """The money columns the wording uses, with the amounts that have more decimals than are written, by row."""
        ...

    @property
    def history(self) -> History:
        """What went to the round's numbers in other rounds."""
        ...

    @property
    def said_sent(self) -> Mapping[int, tuple[str, str]]:
        """The rows of which a column of the sheet seems to say that they were sent: that column, and what it says."""
        ...

    def codes(self, row: int) -> Sequence[str]:
        """The references of a row, as they are compared."""
        ...

    def amounts(self) -> Iterator[tuple[str, Sequence[Decimal | None]]]:
        """The money columns that the wording uses, with each row's amount."""
        ...

    def home_code(self, row: int) -> str:
        """The country code of a number that stands without one in the row, with its +."""
        ...

    def links(self) -> Iterator[tuple[str, Sequence[str | None]]]:
        """The link columns that the wording uses, with each row's link; None where there is none."""
        ...

    def counted_blanks(self) -> Iterator[tuple[str, str, bool, Sequence[int]]]:
        """The computed columns the wording uses, each with a column it reads and the rows where that one is blank.

        Between the two names and the rows it says whether that column holds figures.
        """
        ...

    def lead(self, row: int) -> int:
        """The row that bears this row's text: itself, unless it is combined with earlier ones."""
        ...

    def culprit(self, row: int, position: int) -> str | None:
        """The column that the character at `position` of the row's text came from; None for the wording."""
        ...


@dataclass(frozen=True, slots=True)
class Check:
    """A rule about rows.

    Attributes:
        key: its short name, in settings and addresses.
        label: the words on the tag in front of its sentence, such as "held" or "longer".
        holds: whether its finding stops the row.
        releasable: whether the clerk may send a row it holds all the same.
        doc: what it looks for and why, for the help page.
        find: looks at the rows in `open_rows` only (neither left out nor held by an earlier check).
        sentence: what it says of all its findings together.
    """

    key: str
    label: str
    holds: bool
    doc: str
    find: Callable[[RoundView, Sequence[int]], Iterator[Finding]]
    sentence: Callable[[Sequence[Finding]], str]
    releasable: bool = False
