"""What a check is, what it says, and how it is declared."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.recipe.model import CheckLevel


class Level(StrEnum):
    """What a finding does to its row."""

    HOLDS = "holds"
    MAY_BE_RELEASED = "may be released"
    LOOK = "look"

    @property
    def holds(self) -> bool:
        """True where the row is not sent as long as the finding stands."""
        return self is not Level.LOOK


class Mend(StrEnum):
    """What can be done about all rows of a finding, or one of them, at one press."""

    LEAVE_OUT = "leave out"
    CLOSE_UP = "close up"
    PLAIN = "plain characters"
    ONE_LINK = "one link a row"


@dataclass(frozen=True, slots=True)
class Finding:
    """What a check says of one row.

    Attributes:
        check: the key of the check.
        row: counted from 0.
        reason: why, with all that the sentences about it need.
        column: the column it is about, if it is about one.
    """

    check: str
    row: int
    reason: Reason
    column: str | None = None

    def about(self, parameter: str) -> str:
        """A parameter of the reason, as text."""
        return str(self.reason[parameter])


HELD = "held"
"""The words on the tag of what holds its rows."""

Find = Callable[[RoundView, Sequence[int]], Iterator[Finding]]
"""Looks at some rows of a round: those that are neither left out nor held by an earlier check."""


@dataclass(frozen=True, slots=True)
class Check:
    """A rule about rows; see `check` for its attributes."""

    key: str
    level: Level
    place: int
    label: str
    doc: str
    do: str
    sentence: Callable[[Sequence[Finding]], str]
    find: Find
    fixed: bool = False
    mends: tuple[Mend, ...] = (Mend.LEAVE_OUT,)
    label_of_one: str = ""

    def tag(self, rows: int, *, holds: bool) -> str:
        """The words behind the number of its rows, whatever its level is in a round."""
        if holds:
            return HELD
        if self.label == HELD:
            return "worth a look"
        return (rows == 1 and self.label_of_one) or self.label

    def level_for(self, settings: Mapping[str, CheckLevel]) -> Level | None:
        """What its findings do in a round with those levels set; None where it is not made at all."""
        wanted = None if self.fixed else settings.get(self.key)
        if wanted is CheckLevel.OFF:
            return None
        if wanted is CheckLevel.LOOK:
            return Level.LOOK
        # What is only worth a look has a text: whoever has it held may let it go as well.
        return Level.MAY_BE_RELEASED if wanted is CheckLevel.HOLDS and not self.level.holds else self.level


DECLARED: dict[str, Check] = {}
"""Every check that was declared, by its key."""


def check(
    *,
    key: str,
    level: Level,
    place: int,
    doc: str,
    do: str,
    sentence: Callable[[Sequence[Finding]], str],
    label: str = HELD,
    fixed: bool = False,
    mends: tuple[Mend, ...] = (Mend.LEAVE_OUT,),
    label_of_one: str = "",
) -> Callable[[Find], Find]:
    """Declares a function as a check.

    Args:
        key: its short name, in settings and addresses.
        level: what its finding does to the row.
        place: where it stands among the checks of its level, the smallest first; what holds comes before what does not.
        doc: what it looks for and why, for the help page.
        do: what the clerk can do about it, in a sentence.
        sentence: what it says of all its findings together.
        label: the words behind the number of its rows, in front of that sentence.
        fixed: whether no round may set another level for it.
        mends: what can be done about it at one press; nothing where it is the round's set-up that is to be mended.
        label_of_one: the label where there is one row, if that is another.
    """

    def declared(find: Find) -> Find:
        if key in DECLARED:
            raise ValueError(f"There are two checks with the key {key!r}.")
        DECLARED[key] = Check(key, level, place, label, doc, do, sentence, find, fixed, mends, label_of_one)
        return find

    return declared
