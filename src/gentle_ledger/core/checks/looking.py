"""Checks that hold nothing: what a careful clerk would want to have seen before sending."""

import statistics
import unicodedata
from collections import Counter
from collections.abc import Iterator, Sequence
from decimal import Decimal

from gentle_ledger.core.checks.model import Check, Finding, RoundView
from gentle_ledger.core.numbers import country_of
from gentle_ledger.core.sms.alphabet import Alphabet, first_beyond
from gentle_ledger.core.wording.links import link_host
from gentle_ledger.core.words import clipped, count, listed

UNUSUAL_TIMES = 10
"""How many times the middle amount is unusual; a figure of ours."""
FEW = 0.1
"""Up to this share of rows a blank figure or a number from abroad may be a slip; a figure of ours."""
_NAMED = 4
_ENOUGH = 5
"""From how many amounts on there is a middle worth comparing with."""


def character_name(character: str) -> str:
    """ "’ (right single quotation mark)": the character with its Unicode name."""
    name = unicodedata.name(character, "").lower() or f"U+{ord(character):04X}"
    shown = character if character.isprintable() and not character.isspace() else ""
    return f"{shown} ({name})".strip()


def _amount(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, amounts in view.amounts():
        for row in rows:
            value = amounts[row]
            if value is not None and value <= 0:
                word = "nothing" if value == 0 else "less than nothing"
                yield Finding("nothing due", row, word, f"{column} is {word}", column)


def _amount_sentence(findings: Sequence[Finding]) -> str:
    column = findings[0].column
    shown = [f"{word} in {count(n, 'row')}" for word, n in Counter(f.group for f in findings).most_common()]
    return f"{column} is {listed(shown)}"


def _middle(amounts: list[Decimal]) -> Decimal:
    """The middle one of the amounts, the smaller of the two middle ones when they are even in number.

    They are put in order by whole mills (a tenth of a cent): whole numbers sort in a fraction of the time, and a sort
    is one step during which nothing else runs.
    """
    return sorted(amounts, key=lambda amount: int(amount.scaleb(3)))[(len(amounts) - 1) // 2]


def _unusual(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, amounts in view.amounts():
        values = [value for row in rows if (value := amounts[row]) is not None and value > 0]
        if len(values) < _ENOUGH:
            continue
        middle = _middle(values)
        for row in rows:
            value = amounts[row]
            if value is not None and value >= UNUSUAL_TIMES * middle:
                times = f"{value / middle:.0f} times the middle row"
                yield Finding("unusual", row, column, f"{column} is {value:,f}, {times}", column)


def _unusual_sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    more = f", and {count(len(findings) - 1, 'more row')} like it" if len(findings) > 1 else ""
    return f"Row {first.row + 1}: {first.reason}{more}"


def _abroad(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    found = [row for row in rows if not view.numbers[row].e164.startswith(view.home_code(row))]
    # Where many numbers are from elsewhere, that is how the round is.
    if len(found) <= max(1, FEW * len(rows)):
        for row in found:
            country = country_of(view.numbers[row].e164)
            yield Finding("abroad", row, country, f"the number is read as one of {country}", view.mobile_column)


def _abroad_sentence(findings: Sequence[Finding]) -> str:
    countries = [country for country, _ in Counter(finding.group for finding in findings).most_common()]
    return f"{count(len(findings), 'number is', 'numbers are')} read as from another country: {listed(countries, 3)}"


def _other_host(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for column, links in view.links():
        hosts = {row: host for row in rows if (link := links[row]) and (host := link_host(link))}
        usual = Counter(hosts.values()).most_common(1)
        for row, host in hosts.items():
            if host != usual[0][0]:
                yield Finding("other host", row, host, f"{column} leads to {host}, most lead to {usual[0][0]}", column)


def _other_host_sentence(findings: Sequence[Finding]) -> str:
    hosts = list(dict.fromkeys(finding.group for finding in findings))
    return f"{count(len(findings), 'link leads', 'links lead')} to another host than the rest: {listed(hosts, 3)}"


def _counted_blank(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    open_rows = set(rows)
    for column, read, figures, blank in view.counted_blanks():
        counts = "counts as 0" if figures else "adds nothing"
        # A column that is blank in many rows is blank on purpose: nothing paid, no arrears.
        for row in blank if len(blank) <= FEW * len(view.texts) else ():
            bears = view.lead(row)
            # A column that came to an error has said so.
            if bears in open_rows and all(gap.column != column for gap in view.gaps[bears]):
                where = "" if bears == row else f"in row {row + 1}, "
                yield Finding("counted blank", bears, read, f"{where}{read} is blank and {counts} in {column}", read)


def _counted_blank_sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    more = f", and {count(len(findings) - 1, 'more row')} like it" if len(findings) > 1 else ""
    return f"Row {first.row + 1}: {first.reason}{more}"


def _same_number(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    sharing: dict[str, list[int]] = {}
    for row in rows:
        sharing.setdefault(view.numbers[row].e164, []).append(row)
    for number, shared in sharing.items():
        if number and len(shared) > 1:
            # A number may stand in thousands of rows: the first few are named, the rest counted.
            first = shared[: _NAMED + 1]
            for row in shared:
                named = [str(other + 1) for other in first if other != row][:_NAMED]
                rest = len(shared) - 1 - len(named)
                others = f"{', '.join(named)} and {rest:,} more" if rest else listed(named)
                yield Finding("same number", row, number, f"same number as row {others}", view.mobile_column)


def _same_number_sentence(findings: Sequence[Finding]) -> str:
    people = len({finding.group for finding in findings})
    stand = count(people, "number stands", "numbers stand")
    return f"{stand} in {count(len(findings), 'row')} with different texts; they can be combined into one"


def _alphabet(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        if view.measures[row].alphabet is Alphabet.UCS_2:
            text = view.texts[row]
            at = first_beyond(text) or 0
            column = view.culprit(row, at)
            whence = f"in {column}" if column else "in the wording"
            what = character_name(text[at])
            yield Finding("alphabet", row, f"{what} {whence}", f"{what} {whence} needs the larger alphabet", column)


def _alphabet_sentence(findings: Sequence[Finding]) -> str:
    shown = [group for group, _ in Counter(finding.group for finding in findings).most_common()]
    turn = "turns" if len(shown) == 1 else "turn"
    return f"{listed(shown, 2)} {turn} {count(len(findings), 'text')} to the larger alphabet, 70 a part"


def _longer(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    if len(rows) < _ENOUGH:
        return
    usual = statistics.median_low(view.measures[row].parts for row in rows)
    for row in rows:
        size = view.measures[row]
        if size.parts > usual:
            yield Finding("longer", row, f"{size.parts} parts", f"{size.parts} parts where most rows take {usual}")


def _large(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows:
        parts = view.measures[row].parts
        if parts >= MANY_PARTS:
            yield Finding("large", row, str(parts), f"the text takes {parts} parts and costs as much as {parts} texts")


def _large_sentence(findings: Sequence[Finding]) -> str:
    parts = [int(finding.group) for finding in findings]
    largest = findings[parts.index(max(parts))]
    what = count(len(findings), "text takes", "texts take")
    cost = f"together they cost as much as {sum(parts):,} texts of one part"
    return f"{what} {MANY_PARTS} parts or more, row {largest.row + 1} the most with {max(parts)}; {cost}"


def _bracketed(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for name in view.bracketed[:1]:
        for row in rows:
            yield Finding("brackets", row, name, f"the text says {{{name}}}, with its brackets")


def _compared(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    open_rows = set(rows)
    for asks, column, texts in view.compared_texts():
        for row in texts:
            if (bears := view.lead(row)) in open_rows:
                reason = f"{asks} compares {column} with a number, and it is a text here, which never equals one"
                yield Finding("compared", bears, column, reason, column)


def _shortened(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    open_rows = set(rows)
    for column, amounts in view.shortened():
        for row, amount in amounts.items():
            if row in open_rows:
                said = f"{column} is {amount}"
                yield Finding("shortened", row, said, f"{said}, and is written with fewer decimals", column)


def _shortened_sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    amounts = count(len(findings), "amount has", "amounts have")
    return f"{amounts} more decimals than are written ({first.group} in row {first.row + 1})"


def _same_matter(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.history.codes else ():
        number = view.numbers[row].e164
        found = next(((c, b) for c in view.codes(row) if (b := view.history.codes.get((number, c)))), None)
        if found:
            reason = f"a text about {clipped(found[0]).upper()} {found[1].said}"
            yield Finding("same matter", row, f'"{found[1].title}"', reason)


def _same_matter_sentence(findings: Sequence[Finding]) -> str:
    titles = [group for group, _ in Counter(finding.group for finding in findings).most_common()]
    what = count(len(findings), "person was", "people were")
    return f"{what} written to about the same reference lately, in {listed(titles, 2)}"


MANY_PARTS = 4
"""Parts from which a text is dear enough to be looked at, whatever the others take; a figure of ours."""

LOOKING = (
    Check(
        "brackets",
        "brackets",
        False,
        "Two brackets write one: a column's name between two of them stands in the text as it is, not its value.",
        _bracketed,
        lambda findings: (
            f"The texts say {{{findings[0].group}}}: for its value, write it with one bracket on each side"
        ),
    ),
    Check(
        "compared",
        "text",
        False,
        "A formula asks whether a text equals a number. It never does, even where it looks like one.",
        _compared,
        lambda findings: (
            f"{findings[0].reason}, in {count(len(findings), 'row')}: make the column one of numbers, or put the "
            "number in quotes"
        ),
    ),
    Check(
        "large",
        "large",
        False,
        f"The text takes {MANY_PARTS} parts or more, each of which costs as much as a text.",
        _large,
        _large_sentence,
    ),
    Check(
        "shortened",
        "rounded",
        False,
        "An amount has more decimals than its currency. It is written rounded; sums made from it are not.",
        _shortened,
        lambda findings: f"{_shortened_sentence(findings)}; ROUND in its formula makes them what is written",
    ),
    Check(
        "same matter",
        "lately",
        False,
        "Another round sent a text with the same reference to the same number within the days that are set.",
        _same_matter,
        _same_matter_sentence,
    ),
    Check(
        "counted blank",
        "blank",
        False,
        "What nearly every row has is blank here, and the formula or link went on without it.",
        _counted_blank,
        _counted_blank_sentence,
    ),
    Check(
        "unusual",
        "unusual",
        False,
        f"An amount is {UNUSUAL_TIMES} times the middle one or more: a slipped decimal mark, perhaps.",
        _unusual,
        _unusual_sentence,
    ),
    Check(
        "nothing due",
        "no debt",
        False,
        "An amount in the text is zero or negative.",
        _amount,
        _amount_sentence,
    ),
    Check(
        "abroad",
        "abroad",
        False,
        "A few numbers are from another country: perhaps a slip, or a code without its +.",
        _abroad,
        _abroad_sentence,
    ),
    Check(
        "other host",
        "link",
        False,
        "A link leads to another host than most links of the round.",
        _other_host,
        _other_host_sentence,
    ),
    Check(
        "same number",
        "shared",
        False,
        "Several rows have the same number: one person would get several texts.",
        _same_number,
        _same_number_sentence,
    ),
    Check(
        "alphabet",
        "letters",
        False,
        "A character that the 7-bit alphabet lacks makes the whole text take more room: 70 characters a part, not 160.",
        _alphabet,
        _alphabet_sentence,
    ),
    Check(
        "longer",
        "longer",
        False,
        "The text takes more parts than most of the round's texts.",
        _longer,
        lambda findings: f"{count(len(findings), 'text takes', 'texts take')} more parts than most of the round",
    ),
)
