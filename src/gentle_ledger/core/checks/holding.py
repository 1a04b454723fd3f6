"""Checks that hold a row: a text from it would be wrong, or would go nowhere."""

from collections import Counter
from collections.abc import Iterator, Sequence

from gentle_ledger.core.checks.model import Check, Finding, RoundView
from gentle_ledger.core.sms.parts import MOST_PARTS
from gentle_ledger.core.wording.links import link_host
from gentle_ledger.core.words import clipped, count, listed


def _by_group(findings: Sequence[Finding]) -> list[tuple[str, int]]:
    return Counter(finding.group for finding in findings).most_common()


def _wording(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    if view.wording_problem:
        for row in rows:
            yield Finding("wording", row, view.wording_problem, view.wording_problem)


def _number(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        problem = view.numbers[row].problem
        if view.mobile_column is None:
            yield Finding("number", row, "no column has the role mobile number", "no column has the role mobile number")
        elif problem:
            yield Finding("number", row, problem, f"{view.mobile_column}: {problem}", view.mobile_column)


def _numbers_sentence(findings: Sequence[Finding]) -> str:
    if findings[0].column is None:
        return "No column is the mobile number: press the small word above the column that holds them"
    groups = _by_group(findings)
    shown = [f"{group} ({n:,})" if n > 1 else group for group, n in groups]
    what = count(len(findings), "number cannot take texts", "numbers cannot take texts")
    more = [f"and {len(shown) - 3:,} more"] if len(shown) > 3 else []
    return f"{what}: {'; '.join(shown[:3] + more)}"


def _no_link(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, links in view.links():
        for row in rows:
            link = links[row]
            if link is not None and link_host(link) is None:
                reason = f"{column} is '{clipped(link)}', not an address that begins with https:// and a host"
                yield Finding("no link", row, column, reason, column)


def _undecided(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.undecided else ():
        if why := view.undecided.get(row):
            yield Finding("rule", row, why, f"the rule {why}")


def _blank(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        blank = [gap.column for gap in view.gaps[row] if gap.why is None]
        if blank:
            verb = "is" if len(blank) == 1 else "are"
            yield Finding("blank", row, listed(blank), f"{listed(blank)} {verb} blank", blank[0])


def _blank_sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{group} is blank in {count(n, 'row')}" for group, n in _by_group(findings)]
    return f"{listed(shown, 3)}; a fallback can stand in"


def _question(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.asked else ():
        if row in view.asked:
            column, why = view.asked[row]
            yield Finding("question", row, column, f"{column}: {why}", column)


def _question_sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{group} in {count(n, 'row')}" for group, n in _by_group(findings)]
    return f"It is a question how to read {listed(shown, 3)}"


def _unreadable(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        for gap in view.gaps[row]:
            if gap.why is not None:
                group = f"{gap.column} {'has no value' if gap.computed else 'cannot be read'}"
                yield Finding("unreadable", row, group, f"{gap.column}: {gap.why}", gap.column)
                break


def _unreadable_sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{group} in {count(n, 'row')}" for group, n in _by_group(findings)]
    first = findings[0]
    why = first.reason.removeprefix(f"{first.column}: ")
    return f"{listed(shown, 3)}; in row {first.row + 1}, {why}"


def _empty(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if not view.texts[row].strip():
            yield Finding("empty", row, "the text is empty", "the text is empty")


def _too_long(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if (parts := view.measures[row].parts) > MOST_PARTS:
            reason = f"the text takes {parts:,} parts; at most {MOST_PARTS} can be joined"
            yield Finding("too long", row, "too many parts", reason)


def _repeat(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    first: dict[tuple[str, str], int] = {}
    for row in rows:
        key = (view.numbers[row].e164, view.texts[row])
        if (earlier := first.setdefault(key, row)) != row:
            reason = f"same number and same text as row {earlier + 1}"
            yield Finding("repeat", row, "same number and same text", reason, view.mobile_column)


def _gone_before(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.history.texts else ():
        if before := view.history.texts.get((view.numbers[row].e164, view.texts[row])):
            group = f'"{before.title}"'
            yield Finding("gone before", row, group, f"the same text {before.said}", view.mobile_column)


def _gone_sentence(findings: Sequence[Finding]) -> str:
    what = count(len(findings), "text went or is to go", "texts went or are to go")
    return f"{what} to the same number already, in {listed([group for group, _ in _by_group(findings)], 2)}"


def _said_sent(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.said_sent else ():
        if row in view.said_sent:
            column, said = view.said_sent[row]
            yield Finding("said sent", row, column, f"{column} says '{clipped(said)}': was it sent already?", column)


def _two_columns(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column in view.doubled[:1]:
        for row in rows:
            yield Finding("two columns", row, column, f"the sheet has a column {column}, and so has the set-up", column)


def _combine(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    if view.combine_problem:
        for row in rows:
            yield Finding("combine", row, view.combine_problem, view.combine_problem)


HOLDING = (
    Check(
        "wording",
        "held",
        True,
        "The wording has a field that is not closed or that no column answers to: no text can be made.",
        _wording,
        lambda findings: findings[0].reason,
    ),
    Check(
        "two columns",
        "held",
        True,
        "The sheet has a column of the same name as one that the set-up computes: it is to be said which counts.",
        _two_columns,
        lambda findings: f"There are two columns {findings[0].group}: say which counts",
    ),
    Check(
        "combine",
        "held",
        True,
        "Rows are to be combined by a column that is not there: one person might get several texts.",
        _combine,
        lambda findings: findings[0].reason,
    ),
    Check(
        "question",
        "held",
        True,
        "Amounts or days in the row could be read in two ways, and the column does not tell in which.",
        _question,
        _question_sentence,
    ),
    Check(
        "number",
        "held",
        True,
        "The number is missing, has the wrong length, or is of a kind that takes no texts.",
        _number,
        _numbers_sentence,
    ),
    Check(
        "blank",
        "held",
        True,
        "A cell that the wording uses is blank and its column has no fallback.",
        _blank,
        _blank_sentence,
    ),
    Check(
        "unreadable",
        "held",
        True,
        "A cell that the wording uses is not what its column is for, such as a word among amounts, or its formula has "
        "no value.",
        _unreadable,
        _unreadable_sentence,
    ),
    Check(
        "no link",
        "held",
        True,
        "A link that the wording uses is not an absolute http or https address: nobody could open it.",
        _no_link,
        lambda findings: f"{count(len(findings), 'link')} cannot be opened: {findings[0].reason}",
    ),
    Check(
        "rule",
        "held",
        True,
        "A rule that leaves rows out cannot be decided, because its formula comes to an error.",
        _undecided,
        lambda findings: f"The rule {_by_group(findings)[0][0]} ({count(len(findings), 'row')})",
    ),
    Check(
        "empty",
        "held",
        True,
        "There is nothing in the text.",
        _empty,
        lambda findings: (
            "The wording is empty: write what each row should read" if len(findings) > 1 else "1 text is empty"
        ),
    ),
    Check(
        "too long",
        "held",
        True,
        "The text needs more parts than can be joined again (3GPP TS 23.040 counts them in one octet).",
        _too_long,
        lambda findings: f"{count(len(findings), 'text is', 'texts are')} longer than {MOST_PARTS} parts",
    ),
    Check(
        "repeat",
        "held",
        True,
        "The same text would go to the same number a second time. The first of the rows stays ready.",
        _repeat,
        lambda findings: f"{count(len(findings), 'row repeats', 'rows repeat')} another row's number and text",
        releasable=True,
    ),
    Check(
        "said sent",
        "held",
        True,
        "A column of the sheet reads as if it said which rows were sent, and nobody has said whether it does.",
        _said_sent,
        lambda findings: f"{count(len(findings), 'row')} may have been sent: say what {findings[0].group} is",
        releasable=True,
    ),
    Check(
        "gone before",
        "held",
        True,
        "The same text went to the same number in another round, or is to go there, within the days that are set.",
        _gone_before,
        _gone_sentence,
        releasable=True,
    ),
)
