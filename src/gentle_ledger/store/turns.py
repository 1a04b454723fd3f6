"""Whose turn it is: the texts of sending rounds that may leave next, by their order, moments and hours."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import ColumnElement, Select, func, literal_column, or_, select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.decide import Pace, RowState, Why
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.models import Message

# A literal, so that the index of just these texts is used.
_TO_GO = (Message.mark == literal_column(f"'{Mark.TO_GO}'"), Message.with_row.is_(None))
_NEVER = float("inf")


def zones_as_text(zones: Sequence[str]) -> str:
    """Zones (IANA) as they are kept with a text."""
    return " ".join(zones)


def zones_of_text(kept: str) -> tuple[str, ...]:
    """The same read back."""
    return tuple(kept.split())


def state_of(message: Message) -> RowState:
    """A text as the pace looks at it."""
    moment = message.moment
    return RowState(zones_of_text(message.zones), None if moment is None else moment.timestamp())


@dataclass(frozen=True, slots=True)
class NextTexts:
    """What of a round may leave next.

    Attributes:
        first: the text that may leave now, as far as it is for the text; None where none may.
        frees: when one may, in POSIX seconds, and what it waits for; None where none ever may.
        any_left: whether any text is to go.
    """

    first: Message | None
    frees: tuple[float, Why] | None = None
    any_left: bool = True


def next_texts(session: Session, round_id: int, pace: Pace, civil: float, but: Collection[int] = ()) -> NextTexts:
    """The first text of a round, in its order, whose moment has come and whose hours are open.

    Args:
        session: the store.
        round_id: the round.
        pace: its pace.
        civil: the present moment, in POSIX seconds.
        but: the ids of texts that are passed over.
    """
    now = datetime.fromtimestamp(civil, UTC)
    opens, first = _NEVER, None
    any_left = False
    for zones in _zones_to_go(session, round_id):
        any_left = True
        window = pace.hours.window(pace.clocks(zones_of_text(zones)), civil) if pace.hours else None
        if pace.hours and (window is None or civil < window.opens):
            if window is not None and _first_of(session, round_id, zones, now, but) is not None:
                opens = min(opens, window.opens)
            continue
        found = _first_of(session, round_id, zones, now, but)
        if found is not None and (first is None or found.place < first.place):
            first = found
    if first is not None or not any_left:
        return NextTexts(first, any_left=any_left)
    moment = _next_moment(session, round_id, now)
    if min(opens, moment) == _NEVER:
        return NextTexts(None)
    return NextTexts(None, (opens, Why.HOURS) if opens <= moment else (moment, Why.MOMENT))


def _zones_to_go(session: Session, round_id: int) -> list[str]:
    """The zones of the texts that are to go: each found by a jump in the index, however many texts there are."""
    found: list[str] = []
    wanted = select(func.min(Message.zones)).where(Message.round_id == round_id, *_TO_GO)
    zones = session.scalar(wanted)
    while zones is not None:
        found.append(zones)
        zones = session.scalar(wanted.where(Message.zones > zones))
    return found


def _first_of(session: Session, round_id: int, zones: str, now: datetime, but: Collection[int]) -> Message | None:
    came: ColumnElement[bool] = or_(Message.moment.is_(None), Message.moment <= now)
    wanted = select(Message).where(Message.round_id == round_id, Message.zones == zones, *_TO_GO, came)
    if but:
        wanted = wanted.where(Message.id.not_in(but))
    return session.scalars(wanted.order_by(Message.place).limit(1)).first()


def _next_moment(session: Session, round_id: int, now: datetime) -> float:
    wanted = select(func.min(Message.moment)).where(Message.round_id == round_id, *_TO_GO, Message.moment > now)
    found = session.scalar(wanted)
    return _NEVER if found is None else found.timestamp()


def first_in_order(session: Session, round_id: int) -> Message | None:
    """The first text of a round that is to go, whatever it waits for."""
    wanted = select(Message).where(Message.round_id == round_id, *_TO_GO)
    return session.scalars(wanted.order_by(Message.place).limit(1)).first()


def next_change(session: Session, round_id: int, pace: Pace, civil: float) -> float:
    """When another text of a round may leave than now, or none, at the earliest, in POSIX seconds."""
    if pace.start is not None and civil < pace.start:
        return pace.start
    found = [_next_moment(session, round_id, datetime.fromtimestamp(civil, UTC))]
    for zones in _zones_to_go(session, round_id) if pace.hours else ():
        window = pace.hours.window(pace.clocks(zones_of_text(zones)), civil) if pace.hours else None
        if window is not None:
            found.append(window.opens if civil < window.opens else window.closes)
    return min(found)


def missed(session: Session, round_id: int, pace: Pace, civil: float) -> list[Message]:
    """The texts that are to go and whose own moment is too long over."""
    if pace.late is None:
        return []
    latest = datetime.fromtimestamp(civil - pace.late, UTC)
    return list(session.scalars(_with_moments(round_id).where(Message.moment < latest).order_by(Message.place)))


def _with_moments(round_id: int) -> Select[Message]:
    return select(Message).where(Message.round_id == round_id, *_TO_GO, Message.moment.is_not(None))


def states_to_go(session: Session, round_id: int) -> list[tuple[int, RowState]]:
    """Every text that is to go, in its order: its row (from 1), and as the pace looks at it."""
    return in_order(session.scalars(select(Message).where(Message.round_id == round_id, *_TO_GO)))


def in_order(messages: Iterable[Message]) -> list[tuple[int, RowState]]:
    """Texts in the order in which they leave: the row (from 1) of each, and as the pace looks at it."""
    return [(message.row, state_of(message)) for message in sorted(messages, key=lambda message: message.place)]
