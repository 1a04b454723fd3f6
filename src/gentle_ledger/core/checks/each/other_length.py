"""A number is a digit longer or shorter than nearly all that begin like it."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

OTHER = reason_kind(
    "number of another length",
    lambda digits, usual, others: f"{digits} digits, and {others} others that begin like it have {usual}",
)

_BEGINNING = len("+4366")
"""Characters that most kinds of numbers can be told by: the country's code and what comes first behind it."""
_FEW = 10
_NEARLY_ALL = 0.9


@check(
    key="other length",
    level=Level.MAY_BE_RELEASED,
    place=58,
    label="of another length",
    doc="Some countries have mobile numbers of several lengths (Austria, Finland, New Zealand): there a digit more or "
    "less makes another number. This one differs from nine in ten of those that begin like it.",
    do="Compare the number with what they gave you; mend it, or send all the same and say why.",
    sentence=lambda findings: f"{count(len(findings), 'number is', 'numbers are')} longer or shorter than the others",
)
def other_length(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    usual = _usual(found.e164 for found in view.numbers)
    for row in rows if usual else ():
        number = view.numbers[row].e164
        length, times = usual.get(number[:_BEGINNING], (len(number), 0))
        if len(number) != length:
            # Digits as people count them: without the plus.
            reason = OTHER(digits=len(number) - 1, usual=length - 1, others=times)
            yield Finding("other length", row, reason, view.mobile_column)


def _usual(numbers: Iterable[str]) -> dict[str, tuple[int, int]]:
    """By beginning, how long nearly all numbers are, and how many of those there are; none where all are as long."""
    lengths: defaultdict[str, Counter[int]] = defaultdict(Counter)
    # Most countries have one length: told at once, without looking at each number.
    by_length = Counter(map(len, known := set(numbers) - {""}))
    for number in known if len(by_length) > 1 else ():
        lengths[number[:_BEGINNING]][len(number)] += 1
    usual = {}
    for beginning, found in lengths.items():
        length, times = found.most_common(1)[0]
        if len(found) > 1 and found.total() >= _FEW and times >= _NEARLY_ALL * found.total():
            usual[beginning] = length, times
    return usual
