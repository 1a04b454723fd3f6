"""What there is to do for a sender, read at once."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.decide import Pace, Why
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.messages import uncertain_to_go, with_mark
from gentle_ledger.store.models import Message, Round, Trial
from gentle_ledger.store.rounds import pace_of
from gentle_ledger.store.trials import open_trials
from gentle_ledger.store.turns import NextTexts, missed, next_texts


@dataclass(frozen=True, slots=True)
class Turn:
    """A sending round.

    Attributes:
        round, pace: itself, and its pace.
        texts: its next text that may leave, or when there is one.
        unsettled: the texts that are to go again, and whose first try is not settled yet.
        missed: those whose own moment is too long over.
    """

    round: Round
    pace: Pace
    texts: NextTexts
    unsettled: list[int]
    missed: list[Message]

    def ready(self, civil: float) -> bool:
        """Whether it has a text that may leave at that moment (POSIX seconds), as far as the line lets it."""
        return self.texts.first is not None and (self.pace.start is None or civil >= self.pace.start)

    def frees(self, civil: float) -> tuple[float, Why] | None:
        """When it has one, and what that waits for; None where none ever may."""
        if self.pace.start is not None and civil < self.pace.start:
            return self.pace.start, Why.START
        return self.texts.frees


@dataclass(frozen=True, slots=True)
class ToDo:
    """What there is to do.

    `done` are rounds with nothing left to go, `wishes` rounds to ask the carrier about, `trials` those not settled.
    """

    going: list[Message]
    unsure: list[Message]
    wishes: list[int]
    done: list[int]
    sending: list[Turn]
    trials: list[Trial]


def to_do(session: Session, settled: Callable[[int], bool], civil: float, office: str) -> ToDo:
    """Reads it, as it is at a moment (POSIX seconds) where the office is in that zone (IANA).

    Of the texts that are to go again those that are not `settled` keep their turn for later; `settled` tells, by the
    number of a message, whether "no record" would be proof by now. The rounds stand in the order of their turns.
    """
    sending = []
    wanted = select(Round).where(Round.stage == Stage.SENDING).order_by(Round.turn, Round.id)
    for found in session.scalars(wanted):
        pace = pace_of(found, office)
        unsettled = [message_id for message_id in uncertain_to_go(session, found.id) if not settled(message_id)]
        texts = next_texts(session, found.id, pace, civil, unsettled)
        sending.append(Turn(found, pace, texts, unsettled, missed(session, found.id, pace, civil)))
    return ToDo(
        going=with_mark(session, Mark.GOING),
        unsure=with_mark(session, Mark.UNSURE),
        wishes=list(session.scalars(select(Round.id).where(Round.ask_wanted))),
        done=[turn.round.id for turn in sending if not turn.texts.any_left],
        sending=[turn for turn in sending if turn.texts.any_left],
        trials=open_trials(session),
    )
