"""What went, or is to go, to some numbers in other rounds: read from the texts of all started rounds."""

import json
from collections.abc import Callable, Collection, Iterable, Iterator
from datetime import datetime, timedelta
from itertools import islice

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from gentle_ledger.core.checks.history import Before, History
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.store.models import LedgerEntry, Message, Round
from gentle_ledger.store.rounds import recipe_of

_AT_ONCE = 500
"""Numbers that are asked for in one query."""
_COUNTS = (Mark.TO_GO, Mark.GOING, Mark.SENT, Mark.UNSURE)
"""The marks of texts that went, may have gone, or will go."""

Read = tuple[int, int]
"""How far the record was read: the newest text of a started round, and the newest entry of the ledger."""


def read_so_far(session: Session) -> Read:
    """How far the record goes now."""
    texts, entries = session.scalar(select(func.max(Message.id))), session.scalar(select(func.max(LedgerEntry.id)))
    return texts or 0, entries or 0


def history_of_numbers(session: Session, round_id: int, numbers: Collection[str], days: int, now: datetime) -> History:
    """What other rounds sent to these numbers within so many days; with 0 days nothing is looked for."""
    read = read_so_far(session)
    texts: dict[tuple[str, str], Before] = {}
    codes: dict[tuple[str, str], Before] = {}
    titles: dict[int, str] = {}
    wanted = _wanted(round_id, now - timedelta(days=days))
    for some in _chunks(sorted(numbers) if days else ()):
        for number, text, listed, row, mark, at, other in session.execute(wanted.where(Message.address.in_(some))):
            if other not in titles:
                titles[other] = recipe_of(session.get_one(Round, other)).title
            before = Before(at.astimezone(), titles[other], row, mark != Mark.TO_GO)
            texts[number, text] = before
            for code in json.loads(listed) if listed != "[]" else ():
                codes[number, code] = before
    return History(texts, codes, read)


def _wanted(round_id: int, since: datetime) -> Select[str, str, str, int, str, datetime, int]:
    columns = (Message.address, Message.text, Message.codes, Message.row, Message.mark, Message.marked_at)
    found = select(*columns, Message.round_id).where(
        Message.round_id != round_id, Message.mark.in_(_COUNTS), Message.marked_at >= since
    )
    return found.order_by(Message.marked_at)


def _chunks(numbers: Iterable[str]) -> Iterator[list[str]]:
    source = iter(numbers)
    while some := list(islice(source, _AT_ONCE)):
        yield some


def goes_on_since(session: Session, round_id: int, read: Read, concerns: Callable[[str], bool]) -> bool:
    """True when since then another round got a text for, or a step with, a number that concerns this round."""
    texts, entries = read
    started = select(Message.address).where(Message.id > texts, Message.round_id != round_id)
    stepped = (
        select(Message.address)
        .join(LedgerEntry, LedgerEntry.message_id == Message.id)
        .where(LedgerEntry.id > entries, Message.round_id != round_id)
    )
    return any(concerns(address) for query in (started, stepped) for address in session.scalars(query))


def not_gone_elsewhere(session: Session, messages: list[Message], days: int, now: datetime) -> list[Message]:
    """Those of a round's texts that no other round has sent, or is to send, to the same number meanwhile."""
    if not messages:
        return []
    numbers = {message.address for message in messages}
    found = history_of_numbers(session, messages[0].round_id, numbers, days, now)
    return [message for message in messages if (message.address, message.text) not in found.texts]
