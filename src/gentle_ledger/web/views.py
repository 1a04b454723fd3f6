"""From rounds, computed rows and messages to what the browser shows."""

import hashlib
from collections.abc import Mapping, Sequence
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, as_written, is_blank
from gentle_ledger.core.cells.figures import order_of
from gentle_ledger.core.cells.order import Order, Reading, answer_for
from gentle_ledger.core.cells.phones import country_name
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.checks import CHECKS, Level, check_of
from gentle_ledger.core.columns.display import example, lines_up, reading_of
from gentle_ledger.core.columns.links import link_host
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.pace.decide import last_leaves, lasting
from gentle_ledger.core.recipe.combine import How
from gentle_ledger.core.recipe.format import Way
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import Mark, PlanMark, Stage
from gentle_ledger.core.rounds.slip import Slip, runs_by_part, slip_of
from gentle_ledger.core.sms.alphabet import utf16_units
from gentle_ledger.core.sms.parts import measure, tear
from gentle_ledger.core.wording.composer import Composer, Run
from gentle_ledger.core.wording.parse import WordingProblem
from gentle_ledger.core.wording.renaming import uses_of, without
from gentle_ledger.core.wording.uses import awaited, doubled, unmatched
from gentle_ledger.store.models import LedgerEntry, Message, Round
from gentle_ledger.store.rounds import unusable_of
from gentle_ledger.web import schemas as out
from gentle_ledger.web.context import Context
from gentle_ledger.web.desks import DeskState


def counts_out(counts: dict[Mark, int]) -> list[out.Counts]:
    return [out.Counts(mark=mark, rows=counts[mark]) for mark in _ORDER if counts.get(mark)]


_ORDER = (Mark.SENT, Mark.FAILED, Mark.UNSURE, Mark.GOING, Mark.TO_GO, Mark.HELD, Mark.LEFT_OUT)


def _plan_counts(computed: Computed) -> list[out.Counts]:
    return [out.Counts(mark=mark, rows=computed.marks.count(mark)) for mark in PlanMark]


def place_out(text: str, start: int, end: int, message: str, remedy: str) -> out.PlaceOut:
    """A place turned from code points into the UTF-16 units that the browser counts in."""
    return out.PlaceOut(start=utf16_units(text[:start]), end=utf16_units(text[:end]), message=message, remedy=remedy)


def wording_problems(wording: str, problems: Sequence[WordingProblem]) -> list[out.PlaceOut]:
    return [place_out(wording, p.start, p.end, p.message, p.remedy) for p in problems]


def formula_problem(text: str | None, fault: FormulaError | None) -> out.PlaceOut | None:
    if fault is None:
        return None
    return place_out(text or "", fault.start, fault.end, fault.what, fault.remedy)


def question_out(reading: Reading) -> out.QuestionOut | None:
    if not reading.question:
        return None
    return out.QuestionOut(
        ask=reading.question, answers=[out.AnswerOut(order=order, then=then) for order, then in reading.answers]
    )


def _unusual(order: Order | None, locale: str) -> Order | None:
    """An order of days, or a decimal mark that is not that of the locale: what goes without saying is not said."""
    return None if order is order_of(locale) else order


def _columns(state: DeskState) -> list[out.ColumnOut]:
    composer, columns = state.composer, state.composer.columns
    waiting = awaited(state.recipe, columns, state.readings)
    recognised = state.readings.recognised(state.recipe)
    found = []
    for i, name in enumerate(columns.names):
        settings = columns.settings[i]
        computed = i >= columns.first_computed
        reading, answer = reading_of(composer.evaluation, i), answer_for(columns.roles[i], settings.reading)
        found.append(
            out.ColumnOut(
                name=name,
                role=columns.roles[i],
                recognised=columns.roles[i] if computed else recognised[i],
                fallback=settings.fallback,
                format=settings.format,
                formula=settings.formula if computed else None,
                template=settings.template if computed else None,
                problem=formula_problem(settings.formula or settings.template, composer.evaluation.problems.get(i)),
                reading=settings.reading,
                read_as=answer or _unusual(reading.order, state.recipe.locale),
                evidence="" if answer or reading.question else reading.said,
                question=None if answer else question_out(reading),
                awaited=i in waiting,
                used=i in state.composer.used,
                doc=columns.roles[i].doc,
                example=example(composer.evaluation, i),
                characters=_SHORT if computed else _characters(state, i),
                to_the_right=lines_up(composer.evaluation, i),
                blanks=0 if computed else state.readings.blanks(i),
            )
        )
    return found


_SHORT = 9
"""Characters of a computed amount; links are given their room by their role."""
_SIGNS = 2
"""Characters that an amount gets in addition when it is written: its currency's sign, and a mark between groups."""


def _characters(state: DeskState, position: int) -> int:
    """A long name may be cut short in the sheet; a figure may not."""
    role = state.composer.columns.roles[position]
    share = 1.0 if role.counts else 0.9
    return state.readings.characters(position, share) + (_SIGNS if role is Role.MONEY else 0)


def _unmatched(recipe: Recipe, name: str) -> out.UnmatchedOut:
    return out.UnmatchedOut(name=name, uses=uses_of(recipe, name), goes=without(recipe, name) != recipe)


def _combine(state: DeskState) -> out.CombineOut | None:
    settings, composer = state.recipe.combine, state.composer
    if settings is None:
        return None
    return out.CombineOut(
        by=settings.by,
        columns=settings.columns,
        problem=composer.combine_problem.sentence if composer.combine_problem else None,
        texts=len(composer.groups.members),
        rows=sum(len(rows) for rows in composer.groups.members),
    )


def _rules(state: DeskState) -> list[out.RuleOut]:
    return [
        out.RuleOut(when=rule.when, reason=rule.reason, problem=formula_problem(rule.when, bound.problem))
        for rule, bound in zip(state.recipe.leave_out, state.composer.evaluation.rules, strict=True)
    ]


def _findings(computed: Computed) -> list[out.FindingOut]:
    found = []
    for check in CHECKS:
        if mine := computed.by_check.get(check.key):
            found.append(
                out.FindingOut(
                    check=check.key,
                    label=check.label,
                    holds=check.level.holds,
                    rows=len({finding.row for finding in mine}),
                    sentence=check.sentence(mine),
                    doc=check.doc,
                )
            )
    return found


def estimate(context: Context, state: DeskState, computed: Computed) -> out.Estimate:
    pace = state.recipe.pace.as_pace()
    texts = len(computed.ready)
    now = context.now()
    last = last_leaves(pace, texts, now)
    return out.Estimate(
        texts=texts,
        parts=computed.ready_parts,
        lasting=lasting((last - now).total_seconds()),
        last_leaves_at=last,
        cost=context.cost(computed.ready_parts, state.recipe),
    )


Steps = tuple[str | None, str | None]


def desk(
    context: Context, found: Round, state: DeskState, counts: dict[Mark, int], steps: Steps = (None, None)
) -> out.Desk:
    """The desk of a round.

    Args:
        context: the program.
        found: the round.
        state: its sheet and what is computed of it.
        counts: those of its messages; empty before sending starts.
        steps: what Undo and Redo would do.
    """
    recipe = state.recipe
    computed = state.computed() if found.stage == Stage.PREPARING else None
    return out.Desk(
        id=found.id,
        version=state.version,
        title=recipe.title,
        stage=Stage(found.stage),
        file_name=found.file_name,
        worksheet=found.worksheet,
        reading=found.reading,
        undo=steps[0],
        redo=steps[1],
        rows=found.row_count,
        as_of=recipe.as_of,
        region=recipe.region,
        region_name=country_name(recipe.region),
        currency=recipe.currency,
        locale=recipe.locale,
        wording=recipe.wording,
        wording_problems=wording_problems(recipe.wording, state.composer.problems),
        pace=recipe.pace,
        line=context.sender.line.name,
        columns=_columns(state),
        roles=[out.RoleOut(role=role, doc=role.doc) for role in Role],
        unmatched=[_unmatched(state.recipe, name) for name in unmatched(recipe, state.composer.columns)],
        hidden=len(state.readings.sheet.hidden),
        leave_out_hidden=state.recipe.leave_out_hidden,
        doubled=list(doubled(recipe, state.composer.columns)),
        sent_columns=[
            out.SentColumn(
                column=marks.column,
                ours=marks.ours,
                rows=len(marks.rows),
                example=clipped(marks.example),
                left_out=recipe.sent_answer(marks.column),
            )
            for marks in state.readings.sent_marks()
        ],
        unusable=list(unusable_of(found)),
        formats=[out.FormatOut(way=way, doc=way.doc) for way in Way],
        plain_signs=recipe.plain_signs,
        repeat_days=recipe.repeat_days,
        lookups=recipe.lookups,
        leave_out=_rules(state),
        combine=_combine(state),
        hows=[out.HowOut(how=how, doc=how.doc) for how in How],
        counts=_plan_counts(computed) if computed else counts_out(counts),
        findings=_findings(computed) if computed else [],
        estimate=estimate(context, state, computed) if computed else None,
        started_at=found.started_at,
        finished_at=found.finished_at,
    )


def with_originals(composer: Composer, row: out.RowOut, originals: Mapping[int, Sequence[Cell] | None]) -> out.RowOut:
    """A row whose mended cells show what stood there before."""
    place = row.number - 1
    if place in originals:
        before, now = originals[place], composer.readings.sheet.rows[place]
        for i, cell in enumerate(now):
            was = as_written(before[i]) if before else ""
            if was != as_written(cell):
                row.cells[i].original = was
    return row


def cells_out(composer: Composer, row: int) -> list[out.CellOut]:
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
                out.CellOut(shown=typed, trouble=number.problem.sentence if number.problem else None, explained=read)
            )
        elif isinstance(shown, Unreadable):
            found.append(out.CellOut(shown=typed, trouble=shown.why))
        elif i in missing:
            found.append(out.CellOut(shown="", trouble="blank, and the wording uses it"))
        else:
            text = "" if is_blank(cell) else str(shown)
            filled = columns.fallback(i) if not text else None
            explained = f'blank; a text has "{filled}" instead' if filled else None
            found.append(out.CellOut(shown=text, typed=typed if typed != text else None, explained=explained))
    for i in range(columns.first_computed, len(columns.names)):
        shown = composer.column(i).shown[row]
        if isinstance(shown, Unreadable):
            found.append(out.CellOut(shown="", trouble=shown.why))
        elif i in missing:
            found.append(out.CellOut(shown="", trouble="blank, and the wording uses it"))
        else:
            found.append(out.CellOut(shown=shown or "", explained=composer.explainer.explained(i, row)))
    return found


def _releasable(computed: Computed, row: int) -> bool:
    """Whether all that holds a row are checks that the clerk may overrule."""
    levels = [check_of(f.check).level for f in computed.by_row.get(row, ()) if check_of(f.check).level.holds]
    return computed.marks[row] is PlanMark.HELD and all(level is Level.MAY_BE_RELEASED for level in levels)


def planned_row(computed: Computed, row: int) -> out.RowOut:
    findings = computed.by_row.get(row, [])
    mark = computed.marks[row]
    return out.RowOut(
        number=row + 1,
        mark=mark,
        reason=computed.reason(row) or "; ".join(finding.reason.sentence for finding in findings),
        at=None,
        releasable=_releasable(computed, row),
        cells=cells_out(computed.composer, row),
    )


def sent_row(composer: Composer, message: Message) -> out.RowOut:
    reached = message.mark in {Mark.SENT, Mark.FAILED, Mark.UNSURE, Mark.GOING}
    return out.RowOut(
        number=message.row,
        mark=message.mark,
        reason=message.reason,
        at=message.marked_at if reached else None,
        releasable=False,
        cells=cells_out(composer, message.row - 1),
    )


def _runs(parts: Sequence[Sequence[Run]], links: Mapping[str, str]) -> list[list[out.RunOut]]:
    """The runs of each part; `links` has the row's link for every link column."""
    return [
        [out.RunOut(text=run.text, column=run.column, gap=run.gap, opens=links.get(run.column or "")) for run in part]
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


def _slip(context: Context, state: DeskState, row: int, slip: Slip) -> out.SlipOut:
    beyond = slip.beyond
    return out.SlipOut(
        row=row + 1,
        together=[member + 1 for member in state.composer.groups.together(row)],
        label=state.composer.label(row),
        number=slip.number,
        number_problem=slip.number_problem,
        parts=_runs(slip.parts, _links(state.composer, row)),
        whole=slip.whole,
        alphabet=slip.size.alphabet,
        characters=slip.size.characters,
        room=slip.size.room,
        cost=context.cost(len(slip.parts), state.recipe),
        beyond=out.BeyondOut(name=beyond.name, position=beyond.position, column=beyond.column) if beyond else None,
    )


def planned_slip(context: Context, state: DeskState, row: int) -> out.SlipOut:
    """The slip of a row (from 0), from its own cells only: no other row need be computed for it."""
    return _slip(context, state, row, slip_of(state.composer, row))


def planned_standing(computed: Computed, row: int) -> out.Standing:
    """Where a row stands; one that goes in another row's text stands where that one does."""
    lead = computed.lead(row)
    return out.Standing(
        row=row + 1,
        mark=computed.marks[row],
        releasable=_releasable(computed, lead),
        # What the slip says of its alphabet need not be said twice.
        findings=[
            out.RowFinding(reason=f.reason.sentence, holds=check_of(f.check).level.holds)
            for f in computed.by_row.get(lead, ())
            if f.check != "alphabet"
        ],
        history=[],
    )


def sent_slip(context: Context, state: DeskState, message: Message) -> out.SlipOut:
    """The slip of a frozen text. Its words are the frozen ones; the columns behind them only where they still agree."""
    row = message.row - 1
    found = _slip(context, state, row, slip_of(state.composer, row))
    if message.text and "".join(run.text for part in found.parts for run in part) != message.text:
        found.parts = _runs(runs_by_part([Run(message.text)], tear(message.text)), {})
        size = measure(message.text)
        found.alphabet, found.characters, found.room = size.alphabet, size.characters, size.room
    found.number = message.address
    return found


def sent_standing(message: Message, history: Sequence[LedgerEntry]) -> out.Standing:
    kept = message.reason and message.mark in {Mark.HELD, Mark.LEFT_OUT}
    return out.Standing(
        row=message.row,
        mark=message.mark,
        releasable=False,
        findings=[out.RowFinding(reason=message.reason, holds=message.mark == Mark.HELD)] if kept else [],
        history=[
            out.HistoryOut(at=entry.at, mark=entry.mark, reason=entry.reason, reference=entry.reference)
            for entry in history
        ],
    )


def seal_of(computed: Computed) -> str:
    """A fingerprint of exactly what would be sent: every ready row's number and text, in order."""
    digest = hashlib.sha256()
    for row in computed.ready:
        for piece in (str(row), computed.numbers[row].e164, computed.texts[row]):
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()


def confirmation(context: Context, state: DeskState) -> out.Confirmation:
    """What the clerk reads before sending: how many, to whom, how long, and three slips worth reading."""
    computed = state.computed()
    sums = estimate(context, state, computed)
    return out.Confirmation(
        seal=seal_of(computed),
        line=context.sender.line.name,
        texts=sums.texts,
        parts=sums.parts,
        numbers=len({computed.numbers[row].e164 for row in computed.ready}),
        held=computed.marks.count(PlanMark.HELD),
        left_out=computed.marks.count(PlanMark.LEFT_OUT),
        lasting=sums.lasting,
        last_leaves_at=sums.last_leaves_at,
        cost=sums.cost,
        slips=[out.ShownSlip(why=why, slip=planned_slip(context, state, row)) for why, row in _worth_reading(computed)],
    )


def _worth_reading(computed: Computed) -> list[tuple[str, int]]:
    """The first row, the longest text and the largest amount, each row once."""
    if not computed.ready:
        return []
    picks = [("The first", computed.ready[0])]
    picks.append(
        ("The longest", max(computed.ready, key=lambda row: (computed.measures[row].parts, len(computed.texts[row]))))
    )
    for column, amounts in computed.view.amounts():
        known = [(value, row) for row in computed.ready if (value := amounts[row]) is not None]
        if known:
            largest: tuple[Decimal, int] = max(known, key=lambda pair: pair[0])
            picks.append((f"The largest {column}", largest[1]))
            break
    merged: dict[int, str] = {}
    for why, row in picks:
        merged[row] = f"{merged[row]}, {why[0].lower()}{why[1:]}" if row in merged else why
    return [(why, row) for row, why in merged.items()]
