"""The numbers of a round in one view, and what is done to a whole group of them."""

from typing import Annotated

from fastapi import APIRouter, Query

from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.phones import Number, country_name, known_regions
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.columns.by_row import giving_way
from gentle_ledger.core.columns.tidy import Action, Group, details_of, groups_of, mended
from gentle_ledger.store.corrections import Mend, leave_out, mend
from gentle_ledger.store.errors import NotThere
from gentle_ledger.web import preparing_schemas as prep
from gentle_ledger.web import schemas as out
from gentle_ledger.web.changes import NotUsable
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.desks import DeskState, from_the_newest
from gentle_ledger.web.routers.rounds import get_desk
from gentle_ledger.web.routers.sheets import follow, mending

router = APIRouter(prefix="/api/rounds/{round_id}/numbers", tags=["numbers"])


def _groups(state: DeskState) -> list[Group]:
    composer = state.composer
    position = composer.mobile
    if position is None or position >= composer.columns.first_computed:
        return []
    cells = state.readings.sheet.values(position)
    numbers: list[Number] = []
    for row in giving_way(range(len(cells)), state.give_way):
        numbers.append(composer.phones.number(position, row))
    rows = [row for row in range(len(cells)) if row not in state.kept.left_out]
    return groups_of(cells, numbers, rows, state.recipe.region)


@router.get("")
def numbers(
    here: Here,
    round_id: RoundId,
    group: str | None = None,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> prep.NumbersOut:
    """The groups, and a window of the rows of one of them."""
    _, state = here.opened(round_id, preparing=True)
    found = _groups(state)
    rows = next((g.rows for g in found if g.key == group), tuple(range(len(state.readings.sheet.rows))))
    position = state.composer.mobile
    return prep.NumbersOut(
        column=None if position is None else state.composer.columns.names[position],
        region=state.recipe.region,
        groups=[
            prep.NumberGroup(
                key=g.key,
                sentence=g.sentence,
                rows=len(g.rows),
                wrong=g.wrong,
                actions=[prep.GroupAction(action=a, label=a.label) for a in g.actions],
            )
            for g in found
        ],
        total=len(rows) if position is not None else 0,
        rows=[] if position is None else [_number_out(state, position, row) for row in rows[offset : offset + limit]],
    )


def _number_out(state: DeskState, position: int, row: int) -> prep.NumberOut:
    number = state.composer.phones.number(position, row)
    details = details_of(number.e164)
    computed = position >= state.composer.columns.first_computed
    return prep.NumberOut(
        row=row + 1,
        label=state.composer.label(row),
        typed="" if computed else as_written(state.readings.sheet.rows[row][position]).strip(),
        e164=number.e164,
        country=country_name(details.country) if details.country else "",
        kind=details.kind,
        zone=details.zones[0] if len(details.zones) == 1 else "",
        problem=number.problem.sentence if number.problem else "",
    )


@router.post("")
def tidy(here: Here, round_id: RoundId, body: prep.TidyIn) -> out.Desk:
    """Mends all numbers of a group as one step, which can be undone, or leaves their rows out."""
    if body.action is Action.READ_AS and body.country not in known_regions():
        raise NotUsable(f'"{body.country}" is not an ISO 3166-1 country code such as CA.')
    with mending(here, round_id) as (session, found, state):
        group = next((g for g in _groups(state) if g.key == body.group), None)
        position = state.composer.mobile
        if group is None or position is None or body.action not in group.actions:
            raise NotThere("There is no such group of numbers any more.", "Look at the numbers once more.")
        if body.action is Action.LEAVE_OUT:
            leave_out(session, found, [row + 1 for row in group.rows], True)
        else:
            cells = mended(state.readings.sheet.values(position), group.rows, body.action, body.country)
            if not cells:
                raise NotUsable(f"This changes nothing in {count(len(group.rows), 'number')}.")
            done = mend(session, found, [Mend(row, position, typed) for row, typed in cells.items()])
            follow(here, session, found, state, done)
    return from_the_newest(get_desk)(here, round_id)
