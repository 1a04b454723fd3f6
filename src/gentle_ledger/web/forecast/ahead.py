"""Rounds run ahead: those that are being prepared as if Send were pressed now, the others as they stand."""

from collections.abc import Collection, Sequence

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from gentle_ledger.app.counting.forecasting import LookAhead, RunAhead, packed
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.pace.civil import zone_named
from gentle_ledger.core.pace.decide import LineState, Now, RowState, day_of
from gentle_ledger.core.pace.forecast import Forecast, RoundAhead, forecast
from gentle_ledger.core.rounds.ahead import Ahead
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.core.rounds.turns import RowTurn
from gentle_ledger.store.lines import kept_away, line_of_round
from gentle_ledger.store.models import LineRecord, Round
from gentle_ledger.store.rounds import pace_of, recipe_of
from gentle_ledger.store.turns import states_to_go
from gentle_ledger.store.use import days_before, use_of
from gentle_ledger.web.context import Context


def line_state(here: Context, session: Session, record: LineRecord | None, now: Now) -> LineState:
    """A line as the pace looks at it, told by civil time: the clock of whoever sends is its own."""
    if record is None:
        return LineState()
    last, away, office = record.last_hand_over_at, kept_away(record), here.settings.zone
    name, today = record.name, day_of(now.civil, zone_named(office))
    days = here.forecasts.days_of_use(name, today, lambda: days_before(session, name, now.civil, office))
    return LineState(
        last_at=min(last.timestamp(), now.civil) if last else None,
        draw=record.draw,
        in_a_row=record.in_a_row,
        use=use_of(session, name, now.civil, office, days),
        slowed=record.slowed,
        not_before=away.until.timestamp() if away else None,
    )


def rounds_beside(session: Session, office: str, but: int, line: LineRecord | None) -> list[RoundAhead]:
    """The rounds that are sending by a line, besides one, with the texts that they still have."""
    by_it = or_(Round.line_id.is_(None), Round.line_id == (line.id if line else None))
    wanted = select(Round).where(Round.stage == Stage.SENDING, Round.id != but, by_it)
    found = session.scalars(wanted.order_by(Round.id))
    return [_as_it_stands(session, each, office) for each in found]


def _as_it_stands(session: Session, found: Round, office: str) -> RoundAhead:
    states = [state for _, state in states_to_go(session, found.id)]
    return RoundAhead(pace_of(found, office), states, found.turn)


def run_ahead_of(here: Context, found: Round, opened: OpenRound | None) -> RunAhead:
    """All that is ready, or still to go, of a round; remembered for as long as nothing that it depends on is another.

    A text that went meanwhile changes nothing: the sender goes by the same rule.
    """
    now = here.moment()
    with here.database.reading() as session:
        line = line_of_round(session, found)
        sending = session.execute(select(Round.id, Round.version).where(Round.stage == Stage.SENDING)).all()
    key = (found.version, found.stage, line and (line.id, line.not_before, line.slowed), tuple(map(tuple, sending)))
    return here.forecasts.kept(found.id, key, now.civil, lambda: run_ahead_now(here, found, opened, now))


def run_ahead_now(
    here: Context, found: Round, opened: OpenRound | None, now: Now, chosen: Collection[int] | None = None
) -> RunAhead:
    """A round run ahead from now. `opened` is one that is being prepared, and `chosen` are rows (from 0) of it."""
    office = here.settings.zone
    with here.database.reading() as session:
        if opened is None or found.stage != Stage.PREPARING:
            return run_texts_ahead(here, session, found, states_to_go(session, found.id), now)
        record = line_of_round(session, found)
        line = line_state(here, session, record, now)
        beside = rounds_beside(session, office, found.id, record)
    return here.counting.answer(opened, LookAhead(office, line, beside, now, chosen))


def run_texts_ahead(
    here: Context,
    session: Session,
    found: Round,
    going: Sequence[tuple[int, RowState]],
    now: Now,
    of: Collection[int] | None = None,
) -> RunAhead:
    """Texts of a started round run ahead, by their rows (from 1), in the order in which they leave.

    `of` are the rows of which it is told, where others leave among them.
    """
    office = here.settings.zone
    record = line_of_round(session, found)
    pace, line = pace_of(found, office), line_state(here, session, record, now)
    mine = RoundAhead(pace, [state for _, state in going], found.turn, found.stage == Stage.PAUSED and of is None)
    run = forecast(line, [*rounds_beside(session, office, found.id, record), mine], now)[-1]
    told = [
        (row, state, planned)
        for (row, state), planned in zip(going, run.planned, strict=True)
        if of is None or row in of
    ]
    turns = [RowTurn(row, state) for row, state, _ in told]
    ahead = Ahead(recipe_of(found).pace, pace, turns, Forecast([planned for *_, planned in told], run.waited), now)
    return packed([turn.row for turn in turns], ahead.forecast.planned, ahead.held_up_by, ahead.doubts)
