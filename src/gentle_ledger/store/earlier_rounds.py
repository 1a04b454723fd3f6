"""Which earlier rounds a round may have come from."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.store.freezing import STARTED
from gentle_ledger.store.history import in_pieces
from gentle_ledger.store.models import Message, Round
from gentle_ledger.store.rounds import recipe_of

MOST = 20
"""How many are offered, the latest first."""


@dataclass(frozen=True, slots=True)
class EarlierRound:
    """A round that was started before: how many of the numbers asked about it texted."""

    id: int
    title: str
    at: datetime
    shared: int


def earlier_rounds(session: Session, round_id: int, numbers: Collection[str]) -> list[EarlierRound]:
    """The started rounds with texts to any of these numbers (E.164), the latest first."""
    shared: Counter[int] = Counter()
    for some in in_pieces(sorted(numbers)):
        wanted = select(Message.round_id, func.count(Message.address.distinct())).where(
            Message.address.in_(some), Message.round_id != round_id, STARTED
        )
        for other, times in session.execute(wanted.group_by(Message.round_id)):
            shared[other] += times
    found = [
        EarlierRound(each.id, recipe_of(each).title, each.started_at, shared[each.id])
        for each in session.scalars(select(Round).where(Round.id.in_(list(shared)), Round.removed_at.is_(None)))
        if each.started_at is not None
    ]
    return sorted(found, key=lambda each: each.at, reverse=True)[:MOST]


def likely_one(rounds: Collection[EarlierRound]) -> EarlierRound | None:
    """The one that a round most likely came from: the latest of those with at least half as many numbers as any."""
    most = max((each.shared for each in rounds), default=0)
    return next((each for each in rounds if 2 * each.shared >= most), None)
