"""What went, or is to go, to some numbers in other rounds: read from the texts of all started rounds."""

import json
from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from itertools import islice

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.witnesses import as_compared, is_reference
from gentle_ledger.core.checks.history import Before, History
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.freezing import STARTED, last_start
from gentle_ledger.store.models import Attempt, LedgerEntry, Message, Round
from gentle_ledger.store.no_more_texts import asked_by, changes_so_far
from gentle_ledger.store.rounds import recipe_of

_AT_ONCE = 500
"""Numbers that are asked for in one query."""
_COUNTS = (Mark.TO_GO, Mark.GOING, Mark.SENT, Mark.UNSURE)
"""The marks of texts that went, may have gone, or will go."""

_YEAR = timedelta(days=366)
"""How far back reminders about one reference are counted, and the names that a number was texted under."""

Read = tuple[int, int, int]
"""How far the record was read: how many starts of rounds there were, the newest entry of the ledger, and how often the
list of those who asked for no more texts was changed."""


def read_so_far(session: Session) -> Read:
    """How far the record goes now."""
    entries = session.scalar(select(func.max(LedgerEntry.id)))
    return last_start(session), entries or 0, changes_so_far(session)


@dataclass(frozen=True, slots=True)
class Span:
    """How many days back is looked; 0 looks for nothing.

    Attributes:
        repeats: for the same text, and one about the same reference.
        lately: for any text to the number.
    """

    repeats: int
    lately: int


def history_of_numbers(session: Session, round_id: int, numbers: Collection[str], span: Span, now: datetime) -> History:
    """What other rounds sent to these numbers, and who of them asked for no more texts."""
    read = read_so_far(session)
    texts: dict[tuple[str, str], Before] = {}
    codes: dict[tuple[str, str], Before] = {}
    lately: dict[str, Before] = {}
    before_of = _befores(session)
    repeats, latest = now - timedelta(days=span.repeats), now - timedelta(days=span.lately)
    wanted = _wanted(round_id, min(repeats, latest))
    for some in in_pieces(sorted(numbers) if span.repeats or span.lately else ()):
        for number, text, listed, row, mark, at, other in session.execute(wanted.where(Message.address.in_(some))):
            before = before_of(row, mark, at, other)
            if span.lately and at >= latest:
                lately[number] = before
            if span.repeats and at >= repeats:
                texts[number, text] = before
                for code in json.loads(listed) if listed != "[]" else ():
                    codes[number, code] = before
    reminded, names = _within_a_year(session, round_id, numbers, now - _YEAR)
    return History(texts, codes, lately, reminded, asked_by(session, numbers), read, names)


def _befores(session: Session) -> Callable[[int, str, datetime, int], Before]:
    """How a text of another round is said: from its row, mark, moment and round. A round's title is read once."""
    titles: dict[int, str] = {}

    def before(row: int, mark: str, at: datetime, other: int) -> Before:
        if other not in titles:
            titles[other] = recipe_of(session.get_one(Round, other)).title
        return Before(at.astimezone(), titles[other], row, mark != Mark.TO_GO)

    return before


def on_record(
    session: Session, round_id: int, numbers: Collection[str], witnesses: Collection[str]
) -> dict[tuple[str, str], Before]:
    """What the cells of a sheet witness: texts that went to these numbers in other rounds, and references of ours.

    Returns:
        What went, may have gone or will go, by number and text, and by "" and reference; whenever that was.
    """
    references = sorted(filter(is_reference, witnesses))
    texts = set(witnesses).difference(references)
    columns = (Message.row, Message.mark, Message.marked_at, Round.id)
    gone = (Message.round_id != round_id, Message.mark.in_(_COUNTS), STARTED)
    by_reference = (
        select(Attempt.reference, *columns)
        .join(Message, Message.id == Attempt.message_id)
        .join(Round, Round.id == Message.round_id)
        .where(*gone)
    )
    by_number = select(Message.address, Message.text, *columns).join(Round, Round.id == Message.round_id).where(*gone)
    found: dict[tuple[str, str], Before] = {}
    before = _befores(session)
    for some in in_pieces(references):
        for reference, row, mark, at, other in session.execute(by_reference.where(Attempt.reference.in_(some))):
            found["", reference] = before(row, mark, at, other)
    for some in in_pieces(sorted(numbers) if texts else ()):
        for number, text, row, mark, at, other in session.execute(by_number.where(Message.address.in_(some))):
            if (words := as_compared(text)) in texts:
                found[number, words] = before(row, mark, at, other)
    return found


def _within_a_year(
    session: Session, round_id: int, numbers: Collection[str], since: datetime
) -> tuple[dict[tuple[str, str], int], dict[str, set[str]]]:
    """How many texts about each reference went, or may have gone, to each number, and as whom it was texted."""
    wanted = (
        select(Message.address, Message.codes, Message.label, func.count())
        .where(
            Message.round_id != round_id,
            Message.mark.in_((Mark.SENT, Mark.UNSURE)),
            Message.marked_at >= since,
            Message.with_row.is_(None),
            STARTED,
        )
        .group_by(Message.address, Message.codes, Message.label)
    )
    reminded: Counter[tuple[str, str]] = Counter()
    names: dict[str, set[str]] = {}
    for some in in_pieces(sorted(numbers)):
        for number, listed, label, times in session.execute(wanted.where(Message.address.in_(some))):
            for code in json.loads(listed) if listed != "[]" else ():
                reminded[number, code] += times
            if label:
                names.setdefault(number, set()).add(label)
    return dict(reminded), names


def _wanted(round_id: int, since: datetime) -> Select[str, str, str, int, str, datetime, int]:
    columns = (Message.address, Message.text, Message.codes, Message.row, Message.mark, Message.marked_at)
    found = select(*columns, Message.round_id).where(
        Message.round_id != round_id, Message.mark.in_(_COUNTS), Message.marked_at >= since, STARTED
    )
    return found.order_by(Message.marked_at)


def in_pieces(numbers: Iterable[str]) -> Iterator[list[str]]:
    """Numbers in pieces that are asked for in one query each."""
    source = iter(numbers)
    while some := list(islice(source, _AT_ONCE)):
        yield some


def goes_on_since(session: Session, round_id: int, read: Read, concerns: Callable[[str], bool]) -> bool:
    """True when since then another round got a text for, or a step with, a number that concerns this round.

    A change of the list of those who asked for no more texts counts whomever it is about.
    """
    starts, entries, changes = read
    if changes != changes_so_far(session):
        return True
    since = select(Round.id).where(Round.started_as > starts, Round.id != round_id)
    started = select(Message.address).where(Message.round_id.in_(since))
    stepped = (
        select(Message.address)
        .join(LedgerEntry, LedgerEntry.message_id == Message.id)
        .where(LedgerEntry.id > entries, Message.round_id != round_id)
    )
    return any(concerns(address) for query in (started, stepped) for address in session.scalars(query))


def not_superseded(session: Session, messages: list[Message], since: datetime) -> list[Message]:
    """Those of a round's texts whose matter no other round has texted about, or is to, since a moment.

    A text of another round to the same number is about the same matter where both bear the same reference, or one of
    them bears none: whoever mended a round and sent it anew does not want the old one to go as well.
    """
    if not messages:
        return []
    theirs: dict[str, list[set[str]]] = {}
    wanted = select(Message.address, Message.codes).where(
        Message.round_id != messages[0].round_id, Message.mark.in_(_COUNTS), Message.marked_at >= since, STARTED
    )
    for some in in_pieces(sorted({message.address for message in messages})):
        for number, listed in session.execute(wanted.where(Message.address.in_(some))):
            theirs.setdefault(number, []).append(set(json.loads(listed)))
    return [message for message in messages if not _superseded(message, theirs.get(message.address, ()))]


def _superseded(message: Message, theirs: Iterable[set[str]]) -> bool:
    mine = set(json.loads(message.codes))
    return any(not mine or not codes or mine & codes for codes in theirs)


def still_wanted(session: Session, messages: list[Message], days: int, now: datetime) -> list[Message]:
    """Those of a round's texts that no other round has sent, or is to send, to the same number meanwhile.

    Nor is one among them whose number asked for no more texts.
    """
    if not messages:
        return []
    numbers = {message.address for message in messages}
    found = history_of_numbers(session, messages[0].round_id, numbers, Span(days, 0), now)
    return [
        message
        for message in messages
        if (message.address, message.text) not in found.texts and message.address not in found.asked
    ]
