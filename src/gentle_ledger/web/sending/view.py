"""Sending as the browser shows it: what is read before it, and where it stands."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from math import isnan
from typing import Literal, TypedDict

from sqlalchemy.orm import Session

from gentle_ledger.app.commands.later import later_seal, still_to_try, waiting_texts
from gentle_ledger.app.counting.forecasting import RunAhead
from gentle_ledger.app.counting.jobs import FreezeRows
from gentle_ledger.app.counting.reading_texts import LookBeforeSending
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.seal import past_rows, whole_seal
from gentle_ledger.core.cells.phones import countries_of, regions_of
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.pace.civil import local, zone_named
from gentle_ledger.core.pace.decide import LineState, Now, Pace, RoundState, Wait, Why, decide
from gentle_ledger.core.pace.why import lasting, moment_said, place_of_zone, said
from gentle_ledger.core.recipe.model import REST
from gentle_ledger.core.rounds.frozen import those_to_go
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.errors import no_room_at
from gentle_ledger.store.freezing import anything_of
from gentle_ledger.store.lines import kept_away, line_in_use, line_of_round
from gentle_ledger.store.looked_at import looked_at
from gentle_ledger.store.messages import (
    counts_of,
    failures_of,
    last_entry,
    marks_in_order,
    message_of,
    stopped_before_turn,
    texts_of,
    with_mark,
)
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.presence import runs
from gentle_ledger.store.put_back import doubted_rows
from gentle_ledger.store.rehearsals import rehearsal_of
from gentle_ledger.store.reopening import how_many_mended, looked_at_anew
from gentle_ledger.store.rounds import pace_of, recipe_of, round_of
from gentle_ledger.store.senders import sender_of, turn_of
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.turns import first_in_order, in_order, next_texts, state_of
from gentle_ledger.web.context import Context
from gentle_ledger.web.forecast.ahead import line_state, run_ahead_now, run_ahead_of, run_texts_ahead
from gentle_ledger.web.forecast.view import leaving_out
from gentle_ledger.web.rehearsal.view import rehearsed_then
from gentle_ledger.web.rounds.schemas import UnderWay
from gentle_ledger.web.rounds.view import counts_out, estimate
from gentle_ledger.web.rows.view import planned_slip, sent_slip
from gentle_ledger.web.schemas import NextOut
from gentle_ledger.web.sending.schemas import (
    AwayOut,
    Confirmation,
    FailureOut,
    LineOut,
    SenderPlace,
    Share,
    ShownSlip,
    TallyOut,
)
from gentle_ledger.web.strokes import strokes_of


def sentence_of(stage: Stage, texts: dict[Mark, int], stopped: int = 0) -> str:
    """What happened, in one sentence. Everything is counted in texts; several combined rows are one.

    `stopped` is how many of those left out were stopped before their turn: they belong to what was to be sent.
    """
    sent, failed, unsure = (texts.get(mark, 0) for mark in (Mark.SENT, Mark.FAILED, Mark.UNSURE))
    to_go = texts.get(Mark.TO_GO, 0) + texts.get(Mark.GOING, 0)
    whole = sent + failed + unsure + to_go + stopped
    if stage in {Stage.SENDING, Stage.PAUSED}:
        return f"{count(to_go, 'text')} still to go."
    if sent == whole and whole:
        said = f"All {count(sent, 'text')} sent." if sent > 1 else "The one text is sent."
    elif whole == stopped:
        said = f"Stopped before any of {count(whole, 'text')} was sent." if whole > 1 else "Stopped before it was sent."
    else:
        rest = [f"{n:,} {word}" for n, word in ((failed, "failed"), (unsure, "unsure"), (stopped, "stopped")) if n]
        said = f"{sent:,} of {count(whole, 'text')} sent, {listed(rest)}."
    held, left_out = texts.get(Mark.HELD, 0), texts.get(Mark.LEFT_OUT, 0) - stopped
    ready = texts.get(Mark.READY, 0)
    kept = [f"{n:,} {word}" for n, word in ((ready, "still ready"), (held, "held"), (left_out, "left out")) if n]
    return f"{said} {listed(kept)}, not sent." if kept else said


def absence_of(context: Context, session: Session, found: Round, now: float) -> AwayOut | None:
    """Why nothing leaves although a round sends: the carrier is away, or the sender cannot work."""
    line = line_of_round(session, found)
    trouble = context.trouble_of(sender_of(session, found))
    # A sender that finds no room on the disk cannot even write that down.
    reason = context.signal.trouble or trouble.reason or no_room_at(context.database.path)
    if reason:
        return AwayOut(reason=reason, since=trouble.since, looks_in_ms=None)
    known = kept_away(line) if line else None
    if known is None:
        return None
    looks_in = max(0.0, known.until.timestamp() - now)
    return AwayOut(reason=known.reason, since=known.since, looks_in_ms=round(looks_in * 1000))


@dataclass(frozen=True, slots=True)
class _Coming:
    """What of a round comes next.

    Attributes:
        text: its next text.
        seconds: in how many seconds that leaves; None where nobody can say.
        waits: what it waits for, and until when, in words; "" while texts leave.
        last: when the last one leaves, in POSIX seconds.
        scheduled: when the round begins, where that is later.
        slowed: that the line is slower than usual; "" where it is not.
    """

    text: Message | None = None
    seconds: float | None = None
    waits: str = ""
    last: float | None = None
    scheduled: str | None = None
    slowed: str = ""


def _coming(context: Context, session: Session, found: Round, now: Now) -> _Coming:
    """What of a round comes next. Only a sending one says when."""
    office = context.settings.zone
    pace = pace_of(found, office)
    texts = next_texts(statements_of(session), found.id, pace, now.civil)
    if not texts.any_left:
        return _Coming()
    first = session.get_one(Message, texts.first.id) if texts.first else None
    run = run_ahead_of(context, found, None) if found.stage == Stage.SENDING else None
    last = max(run.leaving, default=None) if run else None
    begins = pace.start if pace.start is not None and now.civil < pace.start else None
    if run is None:
        return _Coming(first or first_in_order(session, found.id))
    line = line_state(context, session, line_of_round(session, found), now)
    slowed = _slowed_said(line, pace)
    if first is not None and begins is None:
        decision = decide(line, RoundState(pace), state_of(first), now)
        if not isinstance(decision, Wait) or decision.until is None:
            return _Coming(first, 0.0, last=last and max(last, now.civil))
        seconds = max(0.0, decision.until - now.forward)
        if decision.why in {Why.GAP, Why.SLOWED, Why.CARRIER}:
            return _Coming(first, seconds, last=last, slowed=slowed)
        waits: tuple[float, Why] | None = (now.civil + seconds, decision.why)
    else:
        waits = (begins, Why.START) if begins is not None else texts.frees
    scheduled = None if begins is None else moment_said(begins, now.civil, office)
    if waits is None:
        return _Coming(None, last=last, scheduled=scheduled)
    # What ends one wait may begin another, as midnight does where the hours are closed: the forecast has the end.
    at, row = _first_planned(run, waits[0]) or (waits[0], None)
    text = message_of(session, found.id, row) if row else None
    said_of = _waiting_said(pace, (at, waits[1]), now, text)
    return _Coming(text, max(0.0, at - now.civil), said_of, last, scheduled, slowed)


def _slowed_said(line: LineState, pace: Pace) -> str:
    if line.slowed <= 1.0:
        return ""
    gap = lasting(pace.every * line.slowed)
    return f"The carrier asked for fewer texts: one every {gap} for now, and sooner again as it takes them"


def _first_planned(run: RunAhead, since: float) -> tuple[float, RowNumber] | None:
    """When the first text leaves that does so from a moment on, and its row."""
    planned = [(at, row) for at, row in zip(run.at, run.rows, strict=True) if not isnan(at) and at >= since - 1.0]
    at, row = min(planned, default=(since, 0))
    return (at, RowNumber(row)) if row else None


def _waiting_said(pace: Pace, until: tuple[float, Why], now: Now, text: Message | None) -> str:
    """Why nothing leaves at present, and when it goes on: "It is 20:10: goes on tomorrow 9:00, row 127"."""
    at, why = until
    row = f", row {text.row}" if text else ""
    here = local(now.civil, zone_named(pace.office))
    on = moment_said(at, now.civil, pace.office)
    place = place_of_zone(pace.office)
    why_not = f"not sooner because of {said(why, pace)}"
    return f"It is {here.hour}:{here.minute:02} in {place}: goes on {on}{row}, {why_not}."


_OVER: tuple[Literal["failed", "stopped"], ...] = ("failed", "stopped")


def line_out(context: Context, session: Session, found: Round) -> LineOut | None:
    """The line that a round was confirmed for, where another one is in use; None where it is the same."""
    mine, now = line_of_round(session, found), line_in_use(session)
    if mine is None or now is None or mine.id == now.id or runs(turn_of(statements_of(session), mine.id)):
        return None
    left = with_mark(session, Mark.TO_GO, found.id)
    cost = context.cost(parts_of(left), recipe_of(found))
    return LineOut(confirmed=mine.identity, now=now.identity, texts=len(left), cost=cost)


def tally(context: Context, session: Session, found: Round) -> TallyOut:
    """A whole picture of where a started round stands."""
    counts = counts_of(session, found.id)
    texts = texts_of(session, found.id)
    stage = Stage(found.stage)
    strokes, each = strokes_of(marks_in_order(session, found.id))
    stopped = len(stopped_before_turn(session, found.id))
    over = stage in {Stage.STOPPED, Stage.FINISHED}
    now = context.moment()
    away = absence_of(context, session, found, now.civil) if stage in {Stage.SENDING, Stage.PAUSED} else None
    coming = _coming(context, session, found, now) if stage in {Stage.SENDING, Stage.PAUSED} else _Coming()
    # Nobody can say how long a carrier stays away.
    last = None if away else coming.last
    failed, kept = ([*still_to_try(session, found, context.now(), which)] if over else [] for which in _OVER)
    return TallyOut(
        stage=stage,
        version=found.version,
        entry=last_entry(session) or 0,
        note=found.note,
        sentence=sentence_of(stage, texts, stopped),
        counts=counts_out(counts),
        texts=counts_out(texts),
        strokes=strokes,
        texts_a_stroke=each,
        next=NextOut(row=coming.text.row, label=coming.text.label) if coming.text else None,
        next_in_ms=None if coming.seconds is None else round(coming.seconds * 1000),
        waits=coming.waits,
        away=away,
        sender=SenderPlace.THERE if runs(sender_of(session, found)) else SenderPlace.NOWHERE,
        last_leaves_at=None if last is None else datetime.fromtimestamp(last, UTC),
        last_leaves="" if last is None else moment_said(last, now.civil, context.settings.zone),
        failures=[
            FailureOut(reason=reason, texts=texts, may_retry=may)
            for reason, texts, may in failures_of(session, found.id)
        ],
        scheduled=coming.scheduled,
        slowed=coming.slowed,
        may_take_back=stage in {Stage.SENDING, Stage.PAUSED} and not anything_of(session, found.id),
        may_try_again=len(failed),
        may_take_up=len(kept),
        seal_of_failed=later_seal(session, found, failed) if failed else "",
        seal_of_stopped=later_seal(session, found, kept) if kept else "",
        look_first=found.look_first,
        line=line_out(context, session, found),
        ready=texts.get(Mark.READY, 0),
        mended=how_many_mended(session, found.id),
        unsure=texts.get(Mark.UNSURE, 0),
    )


_SMALL = 60
"""Strokes of a small tally."""


def under_way(context: Context, session: Session, found: Round) -> tuple[UnderWay | None, str, str]:
    """Where a round that is under way stands, also in words, and a small tally of it; nothing of any other."""
    if found.stage not in {Stage.SENDING, Stage.PAUSED}:
        return None, "", ""
    now = context.moment()
    strokes, _ = strokes_of(marks_in_order(session, found.id), _SMALL)
    if found.stage == Stage.PAUSED:
        if found.look_first:
            return UnderWay.PAUSED_ITSELF, "at rest until somebody has looked at it", strokes
        if found.note:
            return UnderWay.PAUSED_ITSELF, f"paused by the program: {found.note}", strokes
        return UnderWay.PAUSED, "paused by hand", strokes
    coming, away = _coming(context, session, found, now), absence_of(context, session, found, now.civil)
    if coming.scheduled:
        return UnderWay.SCHEDULED, f"scheduled for {coming.scheduled}", strokes
    if away:
        return UnderWay.STUCK, f"waiting: {away.reason}", strokes
    if not runs(sender_of(session, found)):
        return UnderWay.STUCK, "waiting: no sender runs", strokes
    if coming.waits and coming.seconds is not None:
        on = moment_said(now.civil + coming.seconds, now.civil, context.settings.zone)
        return UnderWay.WAITING, f"waiting until {on}", strokes
    last = "" if coming.last is None else moment_said(coming.last, now.civil, context.settings.zone)
    return UnderWay.SENDING, f"sending; the last one leaves {last}" if last else "sending", strokes


class _From(TypedDict):
    numbers_from: str
    passed_over: list[str]


def _numbers_from(state: OpenRound) -> _From:
    names, mobile = state.composer.columns.names, state.composer.mobile
    others = [names[i] for i in state.readings.number_columns(state.recipe).others]
    return {"numbers_from": names[mobile] if others and mobile is not None else "", "passed_over": others}


def confirmation(context: Context, state: OpenRound, rows: list[RowNumber] | None) -> Confirmation:
    """What the clerk reads before sending some rows, or all: how many, to whom, how long, and slips worth reading."""
    chosen = None if rows is None else [row_of_number(row) for row in rows]
    with context.database.reading() as session:
        seen = looked_at(session, state.round_id)
        kept = rehearsal_of(session, state.round_id)
    before = context.counting.answer(state, LookBeforeSending(seen, chosen, context.settings.zone))
    sums = estimate(context, state.recipe, before.texts, before.parts)
    now = context.moment()
    with context.database.reading() as session:
        found = round_of(session, state.round_id)
        line = line_in_use(session)
        past = past_texts(context, session, found, state, chosen)
    run = run_ahead_now(context, found, state, now, chosen)
    return Confirmation(
        seal=whole_seal(before.seal, before.turns, state.recipe, line, context.settings.zone, past),
        past=past,
        look_first="",
        locked_at=None,
        line=context.line_name(),
        texts=before.texts,
        parts=sums.parts,
        numbers=before.numbers,
        **_numbers_from(state),
        countries=_shares(before.countries),
        wordings=[Share(name=name or REST, texts=texts) for name, texts in before.wordings],
        odd=before.odd,
        unseen_odd=before.unseen_odd,
        unseen=before.unseen,
        changed=before.changed,
        held=before.held,
        left_out=before.left_out,
        waiting=before.waiting,
        given_way=0,
        superseded=0,
        rehearsed=kept and rehearsed_then(kept, before.whole_seal, state.recipe),
        ahead=leaving_out(context, run, now, state.recipe.pace.as_pace(context.settings.zone).start),
        cost=sums.cost,
        slips=[ShownSlip(why=why, slip=planned_slip(context, state, row)) for why, row in before.worth_reading],
    )


def past_texts(context: Context, session: Session, found: Round, state: OpenRound, chosen: list[int] | None) -> int:
    """How many of the texts are known to have been handed over from a later state of the ledger."""
    if not doubted_rows(statements_of(session), found.uid):
        return 0
    frozen = context.counting.answer(state, FreezeRows(context.settings.zone))
    going = those_to_go(frozen.rows, None if chosen is None else set(chosen))
    return past_rows(session, found, (number_of_row(row.row) for row in going))


def _shares(counted: Iterable[tuple[str, int]]) -> list[Share]:
    return [Share(name=name, texts=texts) for name, texts in counted]


def parts_of(messages: Sequence[Message]) -> dict[str, int]:
    """In how many parts frozen texts are carried to numbers of each country (ISO 3166-1)."""
    found: Counter[str] = Counter()
    for message, region in zip(messages, regions_of(message.address for message in messages), strict=True):
        found[region] += message.parts
    return dict(found)


def run_later(context: Context, session: Session, found: Round, going: Sequence[Message], now: Now) -> RunAhead:
    """Texts of a started round run ahead as if they were to go as well, among those that are already."""
    all_going = [*with_mark(session, Mark.TO_GO, found.id), *going]
    return run_texts_ahead(context, session, found, in_order(all_going), now, {message.row for message in going})


def later_confirmation(
    context: Context,
    session: Session,
    found: Round,
    state: OpenRound,
    rows: list[RowNumber] | None,
    *,
    all_the_same: bool,
) -> Confirmation:
    """What the clerk reads before sending what was not chosen at first: texts that were locked when sending began.

    `all_the_same` has those among them about which another round texted since.
    """
    now = context.now()
    may_go = still_to_try(session, found, now, "ready", rows, all_the_same=True)
    not_doubtful = still_to_try(session, found, now, "ready", rows)
    going = may_go if all_the_same else not_doubtful
    waiting = waiting_texts(session, found, "ready")
    mine = waiting if rows is None else waiting_texts(session, found, "ready", rows)
    sums = estimate(context, state.recipe, len(going), parts_of(going))
    moment = context.moment()
    run = run_later(context, session, found, going, moment)
    picks = {} if not going else {going[0].row: "The first", max(going, key=lambda m: len(m.text)).row: "The longest"}
    shown = [(picks[message.row], message) for message in going if message.row in picks]
    return Confirmation(
        seal=later_seal(session, found, going),
        past=0,
        look_first=found.look_first,
        locked_at=None if any(looked_at_anew(message) for message in going) else found.started_at,
        line=context.line_name(),
        texts=len(going),
        parts=sums.parts,
        numbers=len({message.address for message in going}),
        **_numbers_from(state),
        countries=_shares(Counter(countries_of(message.address for message in going)).most_common()),
        wordings=[],
        odd=0,
        unseen_odd=0,
        unseen=0,
        changed=0,
        held=0,
        left_out=0,
        waiting=len(waiting) - len(mine),
        given_way=len(mine) - len(may_go),
        superseded=len(may_go) - len(not_doubtful),
        rehearsed=None,
        ahead=leaving_out(context, run, moment, pace_of(found, context.settings.zone).start),
        cost=sums.cost,
        slips=[ShownSlip(why=why, slip=sent_slip(context, state, message)) for why, message in shown],
    )


def pulse_of(here: Context, round_id: int) -> object:
    """Something cheap that is another whenever the tally is: long rounds are not counted anew for nothing."""
    now = here.now()
    with here.database.reading() as session:
        found = round_of(session, round_id)
        line, turn = line_of_round(session, found), sender_of(session, found)
        away = kept_away(line) if line else None
        return (
            found.version,
            last_entry(session),
            turn,
            runs(turn),
            here.trouble_of(turn),
            here.signal.trouble,
            away and (away, away.until > now),
        )
