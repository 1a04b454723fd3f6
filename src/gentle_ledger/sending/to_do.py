"""What there is to do for a sender, read at once."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.messages import next_to_go, uncertain_to_go, with_mark
from gentle_ledger.store.models import Message, Round, Trial
from gentle_ledger.store.trials import open_trials


@dataclass(frozen=True, slots=True)
class Turn:
    """A sending round, its next text that may be handed over, and those whose first try is not settled."""

    round: Round
    planned: Message | None
    uncertain: list[int]


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


def to_do(session: Session, settled: Callable[[int], bool]) -> ToDo:
    """Reads it. Of the texts that are to go again those that are not `settled` keep their turn for later.

    `settled` tells, by the number of a message, whether "no record" would be proof by now.
    """
    sending = []
    for found in session.scalars(select(Round).where(Round.stage == Stage.SENDING).order_by(Round.id)):
        uncertain = uncertain_to_go(session, found.id)
        waiting = [message_id for message_id in uncertain if not settled(message_id)]
        sending.append(Turn(found, next_to_go(session, found.id, waiting), uncertain))
    return ToDo(
        going=with_mark(session, Mark.GOING),
        unsure=with_mark(session, Mark.UNSURE),
        wishes=list(session.scalars(select(Round.id).where(Round.ask_wanted))),
        done=[turn.round.id for turn in sending if turn.planned is None and not turn.uncertain],
        sending=[turn for turn in sending if turn.planned is not None or turn.uncertain],
        trials=open_trials(session),
    )
