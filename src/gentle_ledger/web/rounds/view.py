"""A round as the browser shows it."""

from collections.abc import Mapping, Sequence
from datetime import timedelta

from gentle_ledger.app.counting.counted import Counted
from gentle_ledger.app.edit import Command
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.parts import parts_of
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.cell import as_written, is_blank
from gentle_ledger.core.cells.fields import Where
from gentle_ledger.core.cells.phones import country_name
from gentle_ledger.core.cells.places import currency_name, numbers_of
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.checks import check_of
from gentle_ledger.core.columns.ready_texts import ready_texts
from gentle_ledger.core.recipe.model import Recipe, place_of
from gentle_ledger.core.rounds.marks import Mark, PlanMark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.wording.bound import BoundWording
from gentle_ledger.core.wording.uses import doubled, unmatched
from gentle_ledger.store.journal import Entry, what_can_be_undone
from gentle_ledger.store.messages import counts_of
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import recipe_of, unusable_of
from gentle_ledger.web.anew import finish_looking
from gentle_ledger.web.columns.schemas import CountryAsked, NumberColumnOut, SentColumn
from gentle_ledger.web.columns.view import columns_out, unmatched_out
from gentle_ledger.web.context import Context
from gentle_ledger.web.places import fields_out, formula_problem, wording_problems
from gentle_ledger.web.rounds.schemas import (
    ChangedPart,
    ChangeOut,
    CombineOut,
    Desk,
    Estimate,
    FindingOut,
    RoundInList,
    RuleOut,
    TogetherAsked,
    UnderWay,
    WordingOfRound,
)
from gentle_ledger.web.schemas import Counts, NextOut

_ORDER = (Mark.SENT, Mark.FAILED, Mark.UNSURE, Mark.GOING, Mark.TO_GO, Mark.READY, Mark.HELD, Mark.LEFT_OUT)


def counts_out(counts: dict[Mark, int]) -> list[Counts]:
    return [Counts(mark=mark, rows=counts[mark]) for mark in _ORDER if counts.get(mark)]


def _plan_counts(counted: Counted) -> list[Counts]:
    return [Counts(mark=mark, rows=counted.count(mark)) for mark in PlanMark]


def _combine(state: OpenRound) -> CombineOut | None:
    settings, composer = state.recipe.combine, state.composer
    if settings is None:
        return None
    return CombineOut(
        by=settings.by,
        columns=settings.columns,
        problem=composer.combine_problem.sentence if composer.combine_problem else None,
        texts=len(composer.groups.members),
        rows=sum(len(rows) for rows in composer.groups.members),
    )


def _rules(state: OpenRound) -> list[RuleOut]:
    return [
        RuleOut(when=rule.when, reason=rule.reason, problem=formula_problem(rule.when, bound.problem))
        for rule, bound in zip(state.recipe.leave_out, state.composer.evaluation.rules, strict=True)
    ]


def wording_at(state: OpenRound, name: str | None) -> BoundWording:
    """A wording of the round by its name; None is the one for all the rest."""
    return state.composer.plain if name is None else state.composer.wordings[place_of(state.recipe, name)]


def _wordings(state: OpenRound, counted: Counted | None) -> list[WordingOfRound]:
    recipe, composer = state.recipe, state.composer
    texts = [*((each.when, each.text) for each in recipe.wordings), ("", recipe.wording)]
    problems = [*(condition.problem for condition in composer.conditions), None]
    return [
        WordingOfRound(
            name=bound.name,
            when=when,
            when_problem=formula_problem(when, problem),
            text=text,
            problems=wording_problems(text, bound.problems),
            fields=fields_out(text, Where.WORDING, composer.columns),
            rows=None if counted is None else len(counted.rows_reading(place)),
        )
        for place, (bound, (when, text), problem) in enumerate(zip(composer.wordings, texts, problems, strict=True))
    ]


def _ready_texts(state: OpenRound) -> str | None:
    written = state.recipe.wording.strip() or state.recipe.wordings
    return None if written else ready_texts(state.readings, state.composer.columns.roles)


def _findings(counted: Counted) -> list[FindingOut]:
    found = []
    for each in counted.found:
        check = check_of(each.check)
        found.append(
            FindingOut(
                check=check.key,
                label=check.tag(len(each.rows), holds=each.holds),
                holds=each.holds,
                rows=len(each.rows),
                first=number_of_row(each.rows[0]),
                column=each.column,
                sentence=each.sentence,
                doc=check.doc,
                do=check.do,
                mends=list(check.mends),
            )
        )
    return found


def estimate(context: Context, recipe: Recipe, texts: int, parts: Mapping[str, int]) -> Estimate:
    """What so many texts in so many parts to each country come to, by the line's price."""
    return Estimate(texts=texts, parts=sum(parts.values()), cost=context.cost(parts, recipe))


Undoable = tuple[str | None, str | None]


def desk(
    context: Context, found: Round, state: OpenRound, counts: dict[Mark, int], undoable: Undoable = (None, None)
) -> Desk:
    """The desk of a round.

    Args:
        context: the program.
        found: the round.
        state: its sheet and what is computed of it.
        counts: those of its messages; empty before sending starts.
        undoable: what Undo and Redo would do.
    """
    recipe = state.recipe
    counted = context.counting.counted(state) if found.stage == Stage.PREPARING else None
    return Desk(
        id=found.id,
        uid=found.uid,
        version=state.version,
        title=recipe.title,
        stage=Stage(found.stage),
        file_name=found.file_name,
        worksheet=found.worksheet,
        reading=found.reading,
        undo=undoable[0],
        redo=undoable[1],
        rows=found.row_count,
        as_of=recipe.as_of,
        region=recipe.region,
        numbers_of=numbers_of(recipe.region),
        currency=recipe.currency,
        currency_name=currency_name(recipe.currency),
        locale=recipe.locale,
        wording=recipe.wording,
        ready_texts=_ready_texts(state),
        wordings=_wordings(state, counted),
        pace=recipe.pace,
        line=context.line_name(),
        columns=columns_out(state),
        unmatched=[unmatched_out(state.recipe, name) for name in unmatched(recipe, state.composer.columns)],
        hidden=len(state.readings.sheet.hidden),
        leave_out_hidden=state.recipe.leave_out_hidden,
        doubled=list(doubled(recipe, state.composer.columns)),
        sent_columns=[
            SentColumn(
                column=marks.column,
                ours=marks.ours,
                rows=len(marks.rows),
                example=clipped(marks.example),
                left_out=recipe.sent_answer(marks.column),
            )
            for marks in state.readings.sent_marks()
        ],
        which_number=_which_number(state),
        countries=list(recipe.countries),
        together=_together(state),
        together_in_all=len(state.composer.groups.apart),
        belong_together=len(recipe.belong_together) if recipe.combine else 0,
        which_country=_which_country(counted) if counted else [],
        unusable=list(unusable_of(found)),
        plain_signs=recipe.plain_signs,
        repeat_days=recipe.repeat_days,
        lately_days=recipe.lately_days,
        checks=recipe.checks,
        sender=recipe.sender,
        lookups=recipe.lookups,
        leave_out=_rules(state),
        combine=_combine(state),
        counts=_plan_counts(counted) if counted else counts_out(counts),
        findings=_findings(counted) if counted else [],
        estimate=estimate(context, recipe, counted.texts, counted.parts) if counted else None,
        started_at=found.started_at,
        finished_at=found.finished_at,
    )


def round_in_list(
    found: Round, counts: dict[Mark, int], doing: UnderWay | None = None, says: str = "", strokes: str = ""
) -> RoundInList:
    """A round as a line of the list; what it is doing, in words, too, and its strokes, are of one that is under way."""
    return RoundInList(
        id=found.id,
        title=recipe_of(found).title,
        stage=Stage(found.stage),
        file_name=found.file_name,
        rows=found.row_count,
        counts=counts_out(counts),
        under_way=doing,
        says=says,
        strokes=strokes,
        created_at=found.created_at,
        started_at=found.started_at,
        finished_at=found.finished_at,
    )


def get_desk(here: Context, round_id: int) -> Desk:
    """The desk of a round as it is now. Raises Superseded when it changes meanwhile."""
    found, opened = here.opened(round_id)
    with here.database.reading() as session:
        undoable = what_can_be_undone(session, found)
        counts = {} if found.stage == Stage.PREPARING else counts_of(session, round_id)
    return desk(here, found, opened, counts, undoable)


newest_desk = from_the_newest(get_desk)
"""The same, begun anew for as long as somebody changes the round meanwhile."""


def changed_desk(here: Context, round_id: int, command: Command) -> Desk:
    """The desk after a command was done."""
    edited = here.editor.edit(round_id, command, deed=here.deed)
    finish_looking(here, round_id)
    here.changed()
    return newest_desk(here, round_id).model_copy(update={"change": edited.change})


_MOST_PARTS = 200
"""Things of a change that are shown one by one."""


def change_out(entry: Entry, names: Sequence[str]) -> ChangeOut:
    """A line of the journal; `names` are the columns of the sheet as it is now."""
    parts = [
        ChangedPart(where=part.where, before=part.before, after=part.after)
        for effect in entry.effects
        for part in parts_of(effect, names)
    ]
    what = entry.what.sentence
    return ChangeOut(
        id=entry.id,
        at=entry.at,
        by=entry.by,
        what=f"{what[:1].upper()}{what[1:]}",
        parts=parts[:_MOST_PARTS],
        more=max(0, len(parts) - _MOST_PARTS),
        undone_at=entry.undone_at,
        undone_by=entry.undone_by,
        can_be=entry.can_be,
    )


_ONE_DEED = timedelta(minutes=3)
"""Changes of the same places that follow each other within this are steps of one deed."""


def as_deeds(changes: Sequence[ChangeOut]) -> list[ChangeOut]:
    """Changes, the newest first, with small steps of one deed as one: of the same places, one right after the other.

    It has the number of the first step, so that undoing down to it undoes all of them.
    """
    found: list[ChangeOut] = []
    for change in changes:
        later = found[-1] if found else None
        if later is None or not _goes_on(change, later):
            found.append(change)
            continue
        found[-1] = change.model_copy(update={"at": later.at, "parts": _over_both(change, later)})
    return found


def _over_both(change: ChangeOut, later: ChangeOut) -> list[ChangedPart]:
    """What became another over both changes; nothing where the later one brought all back to what it was."""
    both = zip(change.parts, later.parts, strict=True)
    return [
        ChangedPart(where=was.where, before=was.before, after=now.after) for was, now in both if was.before != now.after
    ]


def _goes_on(change: ChangeOut, later: ChangeOut) -> bool:
    same = (change.what, change.by, change.can_be) == (later.what, later.by, later.can_be)
    places = [part.where for part in change.parts]
    steps = bool(places) and not (change.more or later.more or change.undone_at or later.undone_at)
    alike = same and steps and places == [part.where for part in later.parts] and later.at - change.at <= _ONE_DEED
    # What came back to what it was is told step by step: a line without a word would say nothing.
    return alike and bool(_over_both(change, later))


def _which_number(state: OpenRound) -> list[NumberColumnOut]:
    found, sheet = state.readings.number_columns(state.recipe), state.readings.sheet
    if not found.doubtful or found.chosen is None:
        return []
    return [
        NumberColumnOut(
            column=sheet.columns[i],
            example=next((as_written(row[i]).strip() for row in sheet.rows if not is_blank(row[i])), ""),
        )
        for i in sorted((found.chosen, *found.rivals))
    ]


def _together(state: OpenRound) -> list[TogetherAsked]:
    composer = state.composer
    return [
        TogetherAsked(
            rows=[NextOut(row=number_of_row(row), label=composer.label(row)) for row in rows[:_FEW_ROWS]],
            in_all=len(rows),
        )
        for rows in composer.groups.apart[:_FEW_GROUPS]
    ]


_FEW_ROWS = 4
_FEW_GROUPS = 5
"""Rows that share a number, and groups of them, that are shown at a time: others come when these are answered."""


def _which_country(counted: Counted) -> list[CountryAsked]:
    return [
        CountryAsked(region=region, country=country_name(region), rows=rows, first=number_of_row(first))
        for region, rows, first in counted.countries
    ]
