"""The columns of a round: their roles and formats, and those it computes."""

from collections.abc import Callable, Collection
from itertools import count

from fastapi import APIRouter, Depends

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.by_row import giving_way
from gentle_ledger.core.columns.display import CellExplainer
from gentle_ledger.core.columns.evaluation import Evaluation, evaluate
from gentle_ledger.core.columns.sent_before import answered
from gentle_ledger.core.formulas.functions import FUNCTIONS
from gentle_ledger.core.formulas.starting_points import STARTING_POINTS
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.wording.renaming import renamed, without
from gentle_ledger.core.wording.uses import doubled, unmatched
from gentle_ledger.store.rounds import preparing_round, set_recipe
from gentle_ledger.web import preparing_schemas as prep
from gentle_ledger.web import schemas as out
from gentle_ledger.web.changes import NotUsable, column_settings
from gentle_ledger.web.context import Context, Here, RoundId, short_work
from gentle_ledger.web.desks import DeskState, from_the_newest
from gentle_ledger.web.routers.rounds import get_desk
from gentle_ledger.web.views import formula_problem

router = APIRouter(prefix="/api", tags=["columns"])


@router.get("/functions")
def functions() -> list[prep.FunctionOut]:
    """Every function of the formula language, from the one registry."""
    return [
        prep.FunctionOut(
            name=f.name,
            group=f.group,
            shape=f.shape,
            doc=f.doc,
            examples=[prep.ExampleOut(formula=formula, value=value) for formula, value in f.examples],
        )
        for f in FUNCTIONS
    ]


@router.patch("/rounds/{round_id}/columns")
def set_column(here: Here, round_id: RoundId, body: prep.ColumnIn) -> out.Desk:
    """Sets a column's role, its format or its fallback; what is not named stays."""

    def change(state: DeskState) -> Recipe:
        name = _name_of(state, body.name)
        changes = {key: getattr(body, key) for key in body.model_fields_set - {"name"}}
        recipe = state.recipe.with_column(name, column_settings(state.recipe.setting(name), changes))
        return _only_mobile(recipe, name) if changes.get("role") is Role.MOBILE else recipe

    return _changed(here, round_id, change)


def _changed(here: Context, round_id: int, change: Callable[[DeskState], Recipe]) -> out.Desk:
    """The desk of a round after its set-up was changed, in a transaction of its own."""
    with here.database.writing() as session:
        found = preparing_round(session, round_id)
        set_recipe(found, change(here.desks.state(session, found)))
    return from_the_newest(get_desk)(here, round_id)


def _name_of(state: DeskState, named: str) -> str:
    """A column's own name; raises NotUsable when there is none of that name."""
    position = state.composer.columns.position(named)
    if position is None:
        raise NotUsable(f'There is no column "{named}".', column=named)
    return state.composer.columns.names[position]


def _only_mobile(recipe: Recipe, name: str) -> Recipe:
    """The texts of a round go to one column's numbers: the role moves."""
    for other, settings in list(recipe.columns.items()):
        if settings.role is Role.MOBILE and column_key(other) != column_key(name):
            recipe = recipe.with_column(other, settings.model_copy(update={"role": None}))
    return recipe


@router.put("/rounds/{round_id}/columns/computed")
def put_computed(here: Here, round_id: RoundId, body: prep.ComputedIn) -> out.Desk:
    """Puts a computed column in: a new one, or in the place of an earlier one. A formula has to be usable for that."""

    def change(state: DeskState) -> Recipe:
        recipe, name = _with_computed(state, body)
        found = evaluate(state.readings, recipe, state.kept.left_out)
        position = found.columns.position(name)
        problem = None if position is None else found.evaluation.problems.get(position)
        if problem:
            raise NotUsable(problem.what, problem.remedy, column=name)
        return recipe

    return _changed(here, round_id, change)


def _with_computed(state: DeskState, body: prep.ComputedIn) -> tuple[Recipe, str]:
    """The recipe with the computed column in it, and the column's name; a new name is carried into all that uses it."""
    name = " ".join(body.name.split())
    recipe, was = state.recipe, body.was
    if not name:
        raise NotUsable("The column has no name.", "Give it one, to use it in the wording.")
    if "{" in name or "}" in name:
        raise NotUsable("Curly brackets mark a field in the wording.", "Choose a name without them.", column=name)
    taken = {column_key(other) for other in state.composer.columns.names}
    if was is None or column_key(was) != column_key(name):
        if column_key(name) in taken:
            raise NotUsable(f'There is a column "{name}" already.', "Choose another name.", column=name)
        if was is not None:
            recipe = renamed(recipe, was, name)
    changes = {key: getattr(body, key) for key in ("formula", "template", "format", "fallback")}
    return recipe.with_column(name, column_settings(ColumnSettings(), changes)), name


@router.delete("/rounds/{round_id}/columns/computed")
def remove_computed(here: Here, round_id: RoundId, name: str) -> out.Desk:
    """Takes a computed column out. What uses it then says that the column is missing."""

    def change(state: DeskState) -> Recipe:
        if not state.recipe.setting(name).computed:
            raise NotUsable(f'There is no computed column "{name}".', column=name)
        return state.recipe.with_column(name, ColumnSettings())

    return _changed(here, round_id, change)


@router.post("/rounds/{round_id}/columns/sent")
def say_of_sent(here: Here, round_id: RoundId, body: prep.SentIn) -> out.Desk:
    """Says whether a column tells which rows were sent: they are left out then, or taken back."""

    def change(state: DeskState) -> Recipe:
        columns = {column_key(marks.column): marks.column for marks in state.readings.sent_marks()}
        column = columns.get(column_key(body.name))
        if column is None:
            raise NotUsable(f'The column "{body.name}" says of no row that it was sent.', column=body.name)
        return answered(state.recipe, column, body.leave_out)

    return _changed(here, round_id, change)


@router.post("/rounds/{round_id}/columns/match")
def match_column(here: Here, round_id: RoundId, body: prep.MatchIn) -> out.Desk:
    """Says which column of this sheet is the one that the set-up calls by another name."""
    return _changed(here, round_id, lambda state: renamed(state.recipe, body.name, _name_of(state, body.column)))


@router.post("/rounds/{round_id}/columns/forget")
def forget_column(here: Here, round_id: RoundId, body: prep.ForgetIn) -> out.Desk:
    """Takes out what combines or leaves rows out by a column that this sheet does not have, and its settings."""

    def change(state: DeskState) -> Recipe:
        if column_key(body.name) not in map(column_key, unmatched(state.recipe, state.composer.columns)):
            raise NotUsable(f'The set-up lacks no column "{body.name}".', column=body.name)
        return without(state.recipe, body.name)

    return _changed(here, round_id, change)


@router.post("/rounds/{round_id}/columns/doubled")
def say_of_doubled(here: Here, round_id: RoundId, body: prep.DoubledIn) -> out.Desk:
    """Says which of two columns of one name counts: the computed one, which gets a name of its own, or the sheet's."""

    def change(state: DeskState) -> Recipe:
        columns = state.composer.columns
        name = next(
            (name for name in doubled(state.recipe, columns) if column_key(name) == column_key(body.name)), None
        )
        if name is None:
            raise NotUsable(f'There are no two columns "{body.name}".', column=body.name)
        if not body.computed:
            return state.recipe.with_column(name, ColumnSettings())
        taken = {column_key(other) for other in columns.names}
        return renamed(state.recipe, name, _free_name(f"{name} (computed)", taken))

    return _changed(here, round_id, change)


def _free_name(name: str, taken: Collection[str]) -> str:
    others = (f"{name} {n}" for n in count(2))
    return name if column_key(name) not in taken else next(other for other in others if column_key(other) not in taken)


def _tried(state: DeskState, body: prep.TryIn) -> tuple[Evaluation, int]:
    """The columns with the one that is being written among them, under a name that nothing else has."""
    recipe = state.recipe
    if body.was is not None:
        recipe = recipe.with_column(body.was, ColumnSettings())
    name = body.was or "\u2060"
    changes = {key: getattr(body, key) for key in ("formula", "template", "format", "fallback")}
    if not body.formula and not body.template:
        changes["formula"] = " "
    recipe = recipe.with_column(name, column_settings(ColumnSettings(), changes))
    found = evaluate(state.readings, recipe, state.kept.left_out)
    position = found.columns.position(name)
    if position is None:  # pragma: no cover - the column was put in just above
        raise NotUsable("The column is not there.")
    return found.evaluation, position


@router.post("/rounds/{round_id}/columns/try", dependencies=[Depends(short_work)])
def try_column(here: Here, round_id: RoundId, body: prep.TryIn) -> prep.Tried:
    """What a formula comes to in one row, while it is typed. Nothing is kept, and no other row is worked out."""
    _, state = here.opened(round_id, preparing=True)
    evaluation, position = _tried(state, body)
    problem = formula_problem(body.formula or body.template, evaluation.problems.get(position))
    if problem:
        return prep.Tried(problem=problem, shown=None, explained=None, trouble=None)
    row = min(body.row, len(state.readings.sheet.rows)) - 1
    shown = evaluation.column(position).shown[row]
    if isinstance(shown, Unreadable):
        return prep.Tried(problem=None, shown=None, explained=None, trouble=shown.why)
    return prep.Tried(
        problem=None, shown=shown, explained=CellExplainer(evaluation).explained(position, row), trouble=None
    )


@router.post("/rounds/{round_id}/columns/try-all")
def try_on_all(here: Here, round_id: RoundId, body: prep.TryIn) -> prep.TriedOnAll:
    """In how many rows a formula has no value, and the first of them. All is kept for when it is put in."""
    _, state = here.opened(round_id, preparing=True)
    evaluation, position = _tried(state, body)
    column = evaluation.column(position)
    wrong: list[int] = []
    blank = 0
    for row in giving_way(range(len(column.shown)), state.give_way):
        shown = column.shown[row]
        if isinstance(shown, Unreadable):
            wrong.append(row)
        elif shown is None:
            blank += 1
    first = None
    if wrong and isinstance(fault := column.shown[wrong[0]], Unreadable):
        first = prep.WrongRow(row=wrong[0] + 1, label=state.composer.label(wrong[0]), why=fault.why)
    return prep.TriedOnAll(wrong=len(wrong), first=first, blank=blank)


@router.get("/rounds/{round_id}/columns/starting-points")
def starting_points(here: Here, round_id: RoundId) -> list[prep.StartingPointOut]:
    """Ready-made formulas, filled with the columns of this round that fit."""
    _, state = here.opened(round_id)
    columns = state.composer.columns
    return [
        prep.StartingPointOut(
            key=point.key,
            label=point.label,
            about=point.about,
            column=point.column,
            formula=point.filled(columns.names, columns.roles),
            format=point.format,
        )
        for point in STARTING_POINTS
    ]
