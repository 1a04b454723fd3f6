"""The columns of a round: their roles and formats, and those it computes."""

from fastapi import APIRouter

from gentle_ledger.app.commands.columns import (
    AnswerDoubled,
    AnswerSent,
    ForgetColumn,
    MatchColumn,
    PutComputed,
    RemoveComputed,
    SetColumn,
)
from gentle_ledger.app.counting.jobs import TryCondition, TryOnAllRows
from gentle_ledger.app.trying import try_formula
from gentle_ledger.core.cells.rows import number_of_row, row_of_number
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.display import CellExplainer
from gentle_ledger.core.formulas.in_words import condition_in_words
from gentle_ledger.core.formulas.starting_points import STARTING_POINTS
from gentle_ledger.web.columns.schemas import (
    ConditionIn,
    ConditionTried,
    FieldsIn,
    StartingPointOut,
    Tried,
    TriedOnAll,
    TryIn,
    WrongRow,
)
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.places import fields_out, formula_problem
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk
from gentle_ledger.web.schemas import FieldOut, NextOut

router = APIRouter(prefix="/api/rounds/{round_id}/columns", tags=["columns"])


@router.patch("")
def set_column(here: Here, round_id: RoundId, body: SetColumn) -> Desk:
    """Sets a column's role, its format or its fallback; what is not named stays."""
    return changed_desk(here, round_id, body)


@router.put("/computed")
def put_computed(here: Here, round_id: RoundId, body: PutComputed) -> Desk:
    """Puts a computed column in: a new one, or in the place of an earlier one. A formula has to be usable for that."""
    return changed_desk(here, round_id, body)


@router.delete("/computed")
def remove_computed(here: Here, round_id: RoundId, name: str) -> Desk:
    """Takes a computed column out. What uses it then says that the column is missing."""
    return changed_desk(here, round_id, RemoveComputed(name=name))


@router.post("/sent")
def say_of_sent(here: Here, round_id: RoundId, body: AnswerSent) -> Desk:
    """Says whether a column tells which rows were sent: they are left out then, or taken back."""
    return changed_desk(here, round_id, body)


@router.post("/match")
def match_column(here: Here, round_id: RoundId, body: MatchColumn) -> Desk:
    """Says which column of this sheet is the one that the set-up calls by another name."""
    return changed_desk(here, round_id, body)


@router.post("/forget")
def forget_column(here: Here, round_id: RoundId, body: ForgetColumn) -> Desk:
    """Takes out what combines or leaves rows out by a column that this sheet does not have, and its settings."""
    return changed_desk(here, round_id, body)


@router.post("/doubled")
def say_of_doubled(here: Here, round_id: RoundId, body: AnswerDoubled) -> Desk:
    """Says which of two columns of one name counts: the computed one, which gets a name of its own, or the sheet's."""
    return changed_desk(here, round_id, body)


@router.post("/try")
def try_column(here: Here, round_id: RoundId, body: TryIn) -> Tried:
    """What a formula comes to in one row, while it is typed. Nothing is kept, and no other row is worked out."""
    _, opened = here.opened(round_id, preparing=True)
    evaluation, position = try_formula(opened, body)
    problem = formula_problem(body.formula or body.template, evaluation.problems.get(position))
    if problem:
        return Tried(problem=problem, shown=None, explained=None, trouble=None)
    row = min(row_of_number(body.row), len(opened.readings.sheet.rows) - 1)
    shown = evaluation.column(position).shown[row]
    if isinstance(shown, Unreadable):
        return Tried(problem=None, shown=None, explained=None, trouble=shown.why)
    explained = CellExplainer(evaluation).explained(position, row)
    return Tried(problem=None, shown=shown, explained=explained, trouble=None)


@router.post("/fields")
def fields(here: Here, round_id: RoundId, body: FieldsIn) -> list[FieldOut]:
    """Where the fields of a text stand while it is written, and which columns they are."""
    _, opened = here.opened(round_id)
    return fields_out(body.text, body.where, opened.composer.columns)


@router.post("/try-all")
def try_on_all(here: Here, round_id: RoundId, body: TryIn) -> TriedOnAll:
    """In how many rows a formula has no value, and the first of them. All is kept for when it is put in."""
    _, opened = here.opened(round_id, preparing=True)
    tried = here.counting.answer(opened, TryOnAllRows(body.alone()))
    first = None if tried.first is None else WrongRow(row=number_of_row(tried.first), label=tried.label, why=tried.why)
    return TriedOnAll(wrong=tried.wrong, first=first, blank=tried.blank)


@router.post("/try-condition")
def try_condition(here: Here, round_id: RoundId, body: ConditionIn) -> ConditionTried:
    """In how many rows a condition is true while it is written, and the reason that it gives, in words."""
    _, opened = here.opened(round_id, preparing=True)
    problem = formula_problem(body.when, opened.composer.evaluation.condition("", body.when).problem)
    reason = condition_in_words(body.when)
    if problem:
        return ConditionTried(problem=problem, rows=0, first=None, unsure=0, why="", reason=reason)
    tried = here.counting.answer(opened, TryCondition(body.when))
    first = None if tried.first is None else NextOut(row=number_of_row(tried.first), label=tried.label)
    return ConditionTried(
        problem=None,
        rows=tried.rows,
        first=first,
        unsure=tried.unsure,
        why=tried.why,
        reason=reason,
    )


@router.get("/starting-points")
def starting_points(here: Here, round_id: RoundId) -> list[StartingPointOut]:
    """Ready-made formulas, filled with the columns of this round that fit."""
    _, opened = here.opened(round_id)
    columns = opened.composer.columns
    return [
        StartingPointOut(
            key=point.key,
            label=point.label,
            about=point.about,
            column=point.column,
            formula=point.filled(columns.names, columns.roles),
            format=point.format,
        )
        for point in STARTING_POINTS
    ]
