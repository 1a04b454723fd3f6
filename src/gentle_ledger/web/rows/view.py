"""Rows and slips as the browser shows them."""

from collections.abc import Mapping, Sequence

from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.phones import regions_of
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.checks import Finding, check_of
from gentle_ledger.core.columns.links import link_host
from gentle_ledger.core.recipe.model import REST
from gentle_ledger.core.rounds.compute import Standing as PlannedStanding
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.slip import Slip, runs_by_part, slip_of
from gentle_ledger.core.sms.parts import measure, tear
from gentle_ledger.core.wording.bound import Run
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.store.models import LedgerEntry, Message
from gentle_ledger.web.context import Context
from gentle_ledger.web.rows.schemas import BeyondOut, CellOut, HistoryOut, RowFinding, RowOut, RunOut, SlipOut, Standing


def with_originals(composer: Composer, row: RowOut, originals: Mapping[int, Sequence[Cell] | None]) -> RowOut:
    """A row whose mended cells show what stood there before."""
    place = row_of_number(row.number)
    if place in originals:
        before, now = originals[place], composer.readings.sheet.rows[place]
        for i, cell in enumerate(now):
            was = as_written(before[i]) if before else ""
            if was != as_written(cell):
                row.cells[i].original = was
    return row


def cells_together(composer: Composer, row: int) -> list[str | None]:
    """What each column has in the text of the rows that are combined with this one; None for all in a row that stands
    alone, and where there is nothing or it cannot be read.
    """
    place = composer.groups.place(row)
    if place == row:
        return [None] * len(composer.columns.names)
    found = (composer.column(i).shown[place] for i in range(len(composer.columns.names)))
    return [text if isinstance(text, str) else None for text in found]


def cells_out(composer: Composer, row: int) -> list[CellOut]:
    cells = composer.readings.sheet.rows[row]
    missing = {composer.columns.position(gap.column) for gap in composer.gaps(row) if gap.why is None}
    found = []
    columns = composer.columns
    for i, cell in enumerate(cells):
        typed = as_written(cell).strip()
        shown = composer.column(i).shown[row]
        if i == composer.mobile:
            number = composer.number(row)
            read = None if number.problem or number.e164 == typed else f"{typed}, read as {number.e164}"
            found.append(
                CellOut(shown=typed, trouble=number.problem.sentence if number.problem else None, explained=read)
            )
        elif isinstance(shown, Unreadable):
            found.append(CellOut(shown=typed, trouble=shown.why))
        elif i in missing:
            found.append(CellOut(shown="", trouble="blank, and the wording uses it"))
        else:
            text = "" if is_blank(cell) else str(shown)
            filled = columns.fallback(i) if not text else None
            explained = f'blank; a text has "{filled}" instead' if filled else None
            found.append(CellOut(shown=text, typed=typed if typed != text else None, explained=explained))
    for i in range(columns.first_computed, len(columns.names)):
        shown = composer.column(i).shown[row]
        if isinstance(shown, Unreadable):
            found.append(CellOut(shown="", trouble=shown.why))
        elif i in missing:
            found.append(CellOut(shown="", trouble="blank, and the wording uses it"))
        else:
            found.append(CellOut(shown=shown or "", explained=composer.explainer.explained(i, row)))
    return found


def planned_row(composer: Composer, row: int, standing: PlannedStanding) -> RowOut:
    reasons = standing.reasons or tuple(finding.reason for finding, _ in standing.findings)
    return RowOut(
        number=number_of_row(row),
        mark=standing.mark,
        reason="; ".join(reason.sentence for reason in reasons),
        at=None,
        releasable=standing.releasable,
        cells=cells_out(composer, row),
    )


def sent_row(composer: Composer, message: Message, *, locked: bool) -> RowOut:
    reached = message.mark in {Mark.SENT, Mark.FAILED, Mark.UNSURE, Mark.GOING}
    return RowOut(
        number=message.row,
        mark=message.mark,
        reason=message.reason,
        at=message.marked_at if reached else None,
        releasable=False,
        locked=locked,
        cells=cells_out(composer, row_of_number(message.row)),
    )


def _runs(parts: Sequence[Sequence[Run]], links: Mapping[str, str]) -> list[list[RunOut]]:
    """The runs of each part; `links` has the row's link for every link column."""
    return [
        [RunOut(text=run.text, column=run.column, gap=run.gap, opens=links.get(run.column or "")) for run in part]
        for part in parts
    ]


def _links(composer: Composer, row: int) -> dict[str, str]:
    """What the links of a row's text open: just what is shown of them, for combined rows that of the whole group."""
    found = {}
    for run in composer.runs(row):
        position = composer.columns.position(run.column) if run.column and not run.gap else None
        if position is not None and run.column and composer.roles[position] is Role.LINK and link_host(run.text):
            found[run.column] = run.text
    return found


def _slip(context: Context, state: OpenRound, row: int, slip: Slip) -> SlipOut:
    beyond = slip.beyond
    return SlipOut(
        row=number_of_row(row),
        together=[number_of_row(member) for member in state.composer.groups.together(row)],
        label=state.composer.label(row),
        number=slip.number,
        number_problem=slip.number_problem,
        parts=_runs(slip.parts, _links(state.composer, row)),
        whole=slip.whole,
        alphabet=slip.size.alphabet,
        characters=slip.size.characters,
        room=slip.size.room,
        cost=context.cost({_region_of(slip.number): len(slip.parts)}, state.recipe),
        wording=_wording_of(state, row),
        beyond=BeyondOut(**{name: getattr(beyond, name) for name in BeyondOut.model_fields}) if beyond else None,
    )


def _region_of(number: str) -> str:
    return regions_of([number])[0] if number else ""


def _wording_of(state: OpenRound, row: int) -> str | None:
    """What the wording of a row is called; None where there is but one, or where it cannot be said."""
    wording = state.composer.wording_of(row) if state.composer.conditions else None
    return None if wording is None else wording.name or REST


def planned_slip(context: Context, state: OpenRound, row: int) -> SlipOut:
    """The slip of a row (from 0), from its own cells only: no other row need be computed for it."""
    return _slip(context, state, row, slip_of(state.composer, row))


def planned_standing(number: RowNumber, standing: PlannedStanding) -> Standing:
    """Where a row stands; one that goes in another row's text stands where that one does."""
    return Standing(
        row=number,
        mark=standing.mark,
        releasable=standing.releasable,
        released=standing.released,
        # What the slip says of its alphabet need not be said twice.
        findings=[_row_finding(f, holds=level.holds) for f, level in standing.findings if f.check != "alphabet"],
        history=[],
    )


def _row_finding(found: Finding, *, holds: bool) -> RowFinding:
    check = check_of(found.check)
    return RowFinding(reason=found.reason.sentence, holds=holds, check=check.key, do=check.do, mends=list(check.mends))


def sent_slip(context: Context, state: OpenRound, message: Message) -> SlipOut:
    """The slip of a frozen text. Its words are the frozen ones; the columns behind them only where they still agree."""
    row = row_of_number(message.row)
    found = _slip(context, state, row, slip_of(state.composer, row))
    if message.text and "".join(run.text for part in found.parts for run in part) != message.text:
        found.parts = _runs(runs_by_part([Run(message.text)], tear(message.text)), {})
        size = measure(message.text)
        found.alphabet, found.characters, found.room = size.alphabet, size.characters, size.room
    found.number = message.address
    return found


def sent_standing(message: Message, history: Sequence[LedgerEntry]) -> Standing:
    kept = message.reason and message.mark in {Mark.HELD, Mark.LEFT_OUT}
    entries = [
        HistoryOut(at=entry.at, mark=entry.mark, reason=entry.reason, reference=entry.reference) for entry in history
    ]
    if message.released and not entries:
        # It is written into the record with the first hand-over.
        entries = [HistoryOut(at=message.marked_at, mark=message.mark, reason=message.released, reference=None)]
    return Standing(
        row=message.row,
        mark=message.mark,
        releasable=False,
        findings=[RowFinding(reason=message.reason, holds=message.mark == Mark.HELD, check="", do="", mends=[])]
        if kept
        else [],
        history=entries,
    )
