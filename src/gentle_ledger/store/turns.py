"""Whose turn it is: the texts of sending rounds that may leave next, by their order, moments and hours."""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import NamedTuple

from sqlalchemy import literal_column, select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.decide import Pace, RowState, Why
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.models import Message
from gentle_ledger.store.statements import Statements, moment_as_text

# Literals, so that the indexes of just these texts are used.
_TO_GO = (Message.mark == literal_column(f"'{Mark.TO_GO}'"), Message.with_row.is_(None))
_OF_ROUND = f"round_id = ? AND mark = '{Mark.TO_GO}' AND with_row IS NULL"
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


class TextToGo(NamedTuple):
    """A text that is to go, as far as its turn is concerned; see `Message`."""

    id: int
    place: int
    zones: str
    moment: str | None
    reference: str | None
    uncertain: int
    asks_first: int

    @property
    def state(self) -> RowState:
        """The same as the pace looks at it."""
        moment = None if self.moment is None else datetime.fromisoformat(self.moment).timestamp()
        return RowState(zones_of_text(self.zones), moment)


@dataclass(frozen=True, slots=True)
class NextTexts:
    """What of a round may leave next.

    Attributes:
        first: the text that may leave now, as far as it is for the text; None where none may.
        frees: when one may, in POSIX seconds, and what it waits for; None where none ever may.
        any_left: whether any text is to go.
    """

    first: TextToGo | None
    frees: tuple[float, Why] | None = None
    any_left: bool = True


def next_texts(ledger: Statements, round_id: int, pace: Pace, civil: float, but: Collection[int] = ()) -> NextTexts:
    """The first text of a round, in its order, whose moment has come and whose hours are open.

    Args:
        ledger: the store.
        round_id: the round.
        pace: its pace.
        civil: the present moment, in POSIX seconds.
        but: the ids of texts that are passed over.
    """
    now = moment_as_text(datetime.fromtimestamp(civil, UTC))
    opens, first = _NEVER, None
    any_left = False
    for zones in _zones_to_go(ledger, round_id):
        any_left = True
        window = pace.hours.window(pace.clocks(zones_of_text(zones)), civil) if pace.hours else None
        if pace.hours and (window is None or civil < window.opens):
            if window is not None and _first_of(ledger, round_id, zones, now, but) is not None:
                opens = min(opens, window.opens)
            continue
        found = _first_of(ledger, round_id, zones, now, but)
        if found is not None and (first is None or found.place < first.place):
            first = found
    if first is not None or not any_left:
        return NextTexts(first, any_left=any_left)
    moment = _next_moment(ledger, round_id, now)
    if min(opens, moment) == _NEVER:
        return NextTexts(None)
    return NextTexts(None, (opens, Why.HOURS) if opens <= moment else (moment, Why.MOMENT))


def _zones_to_go(ledger: Statements, round_id: int) -> list[str]:
    """The zones of the texts that are to go: each found by a jump in the index, however many texts there are."""
    found: list[str] = []
    zones = ledger.first(f"SELECT min(zones) FROM messages WHERE {_OF_ROUND}", round_id)[0]
    while zones is not None:
        found.append(zones)
        zones = ledger.first(f"SELECT min(zones) FROM messages WHERE {_OF_ROUND} AND zones > ?", round_id, zones)[0]
    return found


def _first_of(ledger: Statements, round_id: int, zones: str, now: str, but: Collection[int]) -> TextToGo | None:
    passed_over = f"AND id NOT IN ({', '.join('?' * len(but))})" if but else ""

    def first(came: str, *moment: str) -> list[TextToGo]:
        found = ledger.first(
            f"SELECT id, place, zones, moment, reference, uncertain, "
            f"(SELECT asks_first FROM rounds WHERE rounds.id = round_id) "
            f"FROM messages WHERE {_OF_ROUND} AND zones = ? AND {came} {passed_over} ORDER BY place LIMIT 1",
            *(round_id, zones, *moment, *but),
        )
        return [TextToGo(*found)] if found else []

    # One after the other, so that of texts that wait for their moments only those are gone through that came.
    return min(first("moment IS NULL") + first("moment <= ?", now), key=lambda text: text.place, default=None)


def _next_moment(ledger: Statements, round_id: int, now: str) -> float:
    wanted = f"SELECT min(moment) FROM messages WHERE {_OF_ROUND} AND moment > ?"
    found = ledger.first(wanted, round_id, now)[0]
    return _NEVER if found is None else datetime.fromisoformat(found).timestamp()


def first_in_order(session: Session, round_id: int) -> Message | None:
    """The first text of a round that is to go, whatever it waits for."""
    wanted = select(Message).where(Message.round_id == round_id, *_TO_GO)
    return session.scalars(wanted.order_by(Message.place).limit(1)).first()


def next_change(ledger: Statements, round_id: int, pace: Pace, civil: float) -> float:
    """When another text of a round may leave than now, or none, at the earliest, in POSIX seconds."""
    if pace.start is not None and civil < pace.start:
        return pace.start
    found = [_next_moment(ledger, round_id, moment_as_text(datetime.fromtimestamp(civil, UTC)))]
    for zones in _zones_to_go(ledger, round_id) if pace.hours else ():
        window = pace.hours.window(pace.clocks(zones_of_text(zones)), civil) if pace.hours else None
        if window is not None:
            found.append(window.opens if civil < window.opens else window.closes)
    return min(found)


def missed(ledger: Statements, round_id: int, pace: Pace, civil: float) -> list[int]:
    """The numbers of the messages that are to go and whose own moment is too long over."""
    if pace.late is None:
        return []
    latest = moment_as_text(datetime.fromtimestamp(civil - pace.late, UTC))
    wanted = f"SELECT id FROM messages WHERE {_OF_ROUND} AND moment < ? ORDER BY place"
    return [found for (found,) in ledger.rows(wanted, round_id, latest)]


def states_to_go(session: Session, round_id: int) -> list[tuple[int, RowState]]:
    """Every text that is to go, in its order: its row (from 1), and as the pace looks at it."""
    return in_order(session.scalars(select(Message).where(Message.round_id == round_id, *_TO_GO)))


def in_order(messages: Iterable[Message]) -> list[tuple[int, RowState]]:
    """Texts in the order in which they leave: the row (from 1) of each, and as the pace looks at it."""
    return [(message.row, state_of(message)) for message in sorted(messages, key=lambda message: message.place)]
