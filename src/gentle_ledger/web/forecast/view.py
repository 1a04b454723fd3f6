"""Forecasts as the browser shows them."""

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.app.counting.forecasting import RunAhead
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.pace.decide import Now, Pace
from gentle_ledger.core.pace.strip import DayOfTexts, by_day, strip_of, texts_a_stroke
from gentle_ledger.core.pace.why import day_said, lasting, moment_said, moment_short, place_of_zone, said
from gentle_ledger.core.rounds.marks import Mark, PlanMark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.lines import line_of_round
from gentle_ledger.store.models import Message, Round
from gentle_ledger.web.context import Context
from gentle_ledger.web.forecast.ahead import line_state, run_ahead_of
from gentle_ledger.web.forecast.schemas import DayAhead, ForecastOut, LeavingOut, RowAhead
from gentle_ledger.web.rows.schemas import RowOut

_MOST_DAYS = 120
_GONE = (Mark.GOING, Mark.SENT, Mark.FAILED, Mark.UNSURE)
_AT_ONCE = 1.0
_FIRST_DAY = "first day of this number"


def forecast_out(here: Context, found: Round, opened: OpenRound) -> ForecastOut:
    """When the texts of a round leave, day by day, those that went already among them."""
    run, office, moment = run_ahead_of(here, found, opened), here.settings.zone, here.moment()
    with here.database.reading() as session:
        gone = by_day(_gone(session, found), office)
        use = line_state(here, session, line_of_round(session, found), moment).use
    # A forecast is kept for a while: what was to leave meanwhile is among those that went.
    leaving = [at for at in run.leaving if at > moment.civil or found.stage == Stage.PREPARING]
    going = by_day(leaving, office)
    each = texts_a_stroke([len(at) for _, at in (*going, *gone)])
    planned, went = strip_of(going, office, each), strip_of(gone, office, each)
    days = sorted(planned.keys() | went.keys())
    pace = opened.recipe.pace.as_pace(office)
    new = use.days_before == 0 and use.of_day == 0
    hours = _hours([*planned.values(), *went.values()], pace)
    return ForecastOut(
        **leaving_out(here, run, moment, pace.start).model_dump(),
        texts_a_stroke=each,
        from_hour=hours[0],
        to_hour=hours[1],
        days=[
            DayAhead(
                day=day,
                said=day_said(day),
                note=_FIRST_DAY if place == 0 and day in planned and new and len(pace.per_day) > 1 else "",
                planned=planned[day].texts if day in planned else 0,
                gone=went[day].texts if day in went else 0,
                strokes_planned=list(planned[day].minutes) if day in planned else [],
                strokes_gone=list(went[day].minutes) if day in went else [],
            )
            for place, day in enumerate(days[:_MOST_DAYS])
        ],
        more_days=max(0, len(days) - _MOST_DAYS),
    )


def leaving_out(here: Context, run: RunAhead, now: Now, start: float | None) -> LeavingOut:
    """When the first and the last of the texts leave."""
    leaving, office = run.leaving, here.settings.zone
    last = max(leaving, default=None)
    begins = None if not leaving else moment_said(min(leaving), now.civil, office)
    return LeavingOut(
        texts=len(run.rows),
        begins="" if leaving and min(leaving) - now.civil < _AT_ONCE else begins,
        last=None if last is None else moment_said(last, now.civil, office),
        lasting=lasting(max(0.0, last - now.civil)) if last is not None else "",
        scheduled=start is not None and start > now.civil,
        office=place_of_zone(office),
        held_up_by=run.held_up_by,
        doubts=list(run.doubts),
    )


def _hours(days: Sequence[DayOfTexts], pace: Pace) -> tuple[int, int]:
    """The hours of a day that are shown: those of the pace, and any other in which a text leaves."""
    minutes = [minute for day in days for minute in (day.minutes[:1] + day.minutes[-1:])]
    if pace.hours:
        minutes += [pace.hours.opens, pace.hours.closes]
    if not minutes:
        return 8, 18
    first, last = int(min(minutes) // 60), int(-(-max(minutes) // 60))
    return max(0, first - 1), min(24, max(last + 1, first + 3))


def _gone(session: Session, found: Round) -> list[float]:
    wanted = select(Message.marked_at).where(
        Message.round_id == found.id, Message.mark.in_(_GONE), Message.with_row.is_(None)
    )
    return [] if found.stage == Stage.PREPARING else [at.timestamp() for at in session.scalars(wanted)]


def planned_said(run: RunAhead, row: RowNumber, pace: Pace, now: float) -> tuple[str, str] | None:
    """When the text of a row leaves, and why not sooner; None where it has none that is to go."""
    planned = run.planned(row)
    if planned is None:
        return None
    if planned.missed:
        return "", f"its own moment is over by more than {lasting(pace.late or 0.0)}: it will be left out"
    why = said(planned.why, pace) if planned.why else ""
    return ("" if planned.at is None else moment_said(planned.at, now, pace.office)), why


def with_planned(here: Context, found: Round, opened: OpenRound, rows: Sequence[RowOut]) -> list[RowOut]:
    """Rows with the moments at which their texts leave; those that go along leave with the row that bears theirs."""
    run, now = run_ahead_of(here, found, opened), here.moment().civil
    groups, office = opened.composer.groups, here.settings.zone
    shown = []
    for row in rows:
        planned = run.planned(number_of_row(groups.lead(row_of_number(row.number))))
        at = planned.at if planned and row.mark in {Mark.TO_GO, PlanMark.READY} else None
        when = "" if at is None else moment_short(at, now, office)
        shown.append(row.model_copy(update={"planned": when}))
    return shown


def row_ahead(here: Context, found: Round, opened: OpenRound, row: RowNumber) -> RowAhead | None:
    """When the text of a row leaves; None where it has none that is to go."""
    pace = opened.recipe.pace.as_pace(here.settings.zone)
    bearing = number_of_row(opened.composer.groups.lead(row_of_number(row)))
    told = planned_said(run_ahead_of(here, found, opened), bearing, pace, here.moment().civil)
    if told is None:
        return None
    return RowAhead(row=row, label=opened.composer.label(row_of_number(row)), when=told[0], why=told[1])
