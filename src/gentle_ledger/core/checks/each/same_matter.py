"""Another round wrote to the same number about the same reference."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped, count, listed
from gentle_ledger.core.checks.history import code_of
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

SAME = reason_kind("same reference lately", lambda code, where, title: f"a text about {clipped(code).upper()} {where}")


def codes_of(view: RoundView, row: int) -> list[str]:
    """The references of a row as they are compared, those of its columns with that role; each once."""
    cells = view.composer.readings.sheet.rows[row]
    places = (i for i, role in enumerate(view.composer.roles[: len(cells)]) if role is Role.REFERENCE)
    return list(dict.fromkeys(code for i in places if (code := code_of(cells[i]))))


def _sentence(findings: Sequence[Finding]) -> str:
    what = count(len(findings), "person was", "people were")
    titles = [f'"{title}"' for title, _ in counted(findings, "title")]
    return f"{what} written to about the same reference lately, in {listed(titles, 2)}"


@check(
    key="same matter",
    level=Level.LOOK,
    place=50,
    label="reminded recently",
    doc="Another round sent a text with the same reference to the same number within the days that are set.",
    do="See whether they are owed another text about the same thing; if not, leave the row out.",
    sentence=_sentence,
)
def same_matter(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.history.codes else ():
        number = view.numbers[row].e164
        found = next(((c, b) for c in codes_of(view, row) if (b := view.history.codes.get((number, c)))), None)
        if found:
            code, before = found
            yield Finding("same matter", row, SAME(code=code, where=before.said, title=before.title))
