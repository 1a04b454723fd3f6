"""Sentences that several checks make of what they found."""

import unicodedata
from collections import Counter
from collections.abc import Sequence

from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding


def counted(findings: Sequence[Finding], parameter: str) -> list[tuple[str, int]]:
    """The different values of a parameter among the findings, the most frequent first, each with its count."""
    return Counter(finding.about(parameter) for finding in findings).most_common()


def in_rows(findings: Sequence[Finding], parameter: str, says: str = "{} in {}") -> str:
    """The values of a parameter, each with the number of rows it stands in; three of them, and the rest counted."""
    return listed([says.format(value, count(n, "row")) for value, n in counted(findings, parameter)], 3)


def first_and_more(findings: Sequence[Finding]) -> str:
    """What is found of the first row, and how many more are like it."""
    first = findings[0]
    more = f", and {count(len(findings) - 1, 'more row')} like it" if len(findings) > 1 else ""
    return f"Row {number_of_row(first.row)}: {first.reason.sentence}{more}"


def first_reason(findings: Sequence[Finding]) -> str:
    """What is found of the first row: of all of them it is the same."""
    return findings[0].reason.sentence


def character_name(character: str) -> str:
    """ "’ (right single quotation mark)": the character with its Unicode name."""
    name = unicodedata.name(character, "").lower() or f"U+{ord(character):04X}"
    shown = character if character.isprintable() and not character.isspace() else ""
    return f"{shown} ({name})".strip()
