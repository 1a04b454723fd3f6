"""The same text went to the same number in another round."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

GONE = reason_kind("gone in another round", "the same text {where}")
ON_RECORD = reason_kind("on record as gone", "{column} shows that a text {where}")


def _sentence(findings: Sequence[Finding]) -> str:
    what = count(len(findings), "text went or is to go", "texts went or are to go")
    titles = [f'"{title}"' for title, _ in counted(findings, "title")]
    return f"{what} to the same number already, in {listed(titles, 2)}"


@check(
    key="gone before",
    level=Level.MAY_BE_RELEASED,
    place=140,
    doc="The same text went to the same number in another round, or is to go there, within the days that are set; or "
    "the row itself has the reference of a text that went, or its words, whenever that was.",
    do="Leave the row out, or send it all the same and say why.",
    sentence=_sentence,
)
def gone_before(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row in rows if view.history.texts or view.history.on_record else ():
        number = view.numbers[row].e164
        if before := view.history.texts.get((number, view.texts[row])):
            yield Finding("gone before", row, GONE(where=before.said, title=before.title), view.mobile_column)
            continue
        for column, cell in view.witnesses.get(row, ()):
            if before := view.history.on_record.get((number, cell)) or view.history.on_record.get(("", cell)):
                reason = ON_RECORD(column=column, where=before.said, title=before.title)
                yield Finding("gone before", row, reason, column)
                break
