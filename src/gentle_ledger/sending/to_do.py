"""What there is to do for a sender, read at once."""

from collections.abc import Callable
from dataclasses import dataclass

from gentle_ledger.core.pace.decide import Pace, Why, misses
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.database import Database
from gentle_ledger.store.messages import uncertain_texts
from gentle_ledger.store.models import Trial
from gentle_ledger.store.rounds import SendingRound, pace_of
from gentle_ledger.store.trials import any_open_trial, open_trials
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

    round: SendingRound
    pace: Pace
    texts: NextTexts
    unsettled: list[int]
    missed: list[int]

    def ready(self, civil: float) -> bool:
        """Whether it has a text that may leave at that moment (POSIX seconds), as far as the line lets it."""
        return self.texts.first is not None and (self.pace.start is None or civil >= self.pace.start)

    def misses(self) -> float:
        """From when on its next text has missed its own moment, in POSIX seconds."""
        return misses(self.pace, self.texts.first.state) if self.texts.first else float("inf")

    def frees(self, civil: float) -> tuple[float, Why] | None:
        """When it has one, and what that waits for; None where none ever may."""
        if self.pace.start is not None and civil < self.pace.start:
            return self.pace.start, Why.START
        return self.texts.frees


@dataclass(frozen=True, slots=True)
class ToDo:
    """What there is to do; texts by the numbers of their messages.

    `done` are rounds with nothing left to go, `wishes` rounds to ask the carrier about, `trials` those not settled.
    `waiting` are those to go again in a round that does not send, and whose first try may have gone; `left_behind` are
    lines by which a text was being handed over when another line was in use; `stopping` are rounds that were stopped
    and have texts that are to be left out yet.
    """

    going: list[int]
    unsure: list[int]
    wishes: list[int]
    done: list[int]
    sending: list[Turn]
    trials: list[Trial]
    waiting: list[int]
    left_behind: list[int]
    stopping: list[int]


def to_do(database: Database, settled: Callable[[int], bool], civil: float, office: str, line_id: int) -> ToDo:
    """Reads it, as it is at a moment (POSIX seconds) where the office is in that zone (IANA).

    A round goes by the line that it was confirmed for: those of another line than `line_id` are left to its own sender.

    Of the texts that are to go again those that are not `settled` keep their turn for later; `settled` tells, by the
    number of a message, whether "no record" would be proof by now. The rounds stand in the order of their turns.
    """
    with database.reading_bare() as ledger:
        every_uncertain = uncertain_texts(ledger)
        uncertain = [(of, text, mark) for of, text, mark, by in every_uncertain if by in {None, line_id}]
        left = {by for _, _, mark, by in every_uncertain if by not in {None, line_id} and mark == Mark.GOING}
        sending, wishes = [], []
        for round_id, stage, recipe, ask_wanted in ledger.rows(
            "SELECT id, stage, recipe, ask_wanted FROM rounds WHERE (stage = ? OR ask_wanted) "
            "AND (line_id IS NULL OR line_id = ?) ORDER BY turn, id",
            *(Stage.SENDING, line_id),
        ):
            if ask_wanted:
                wishes.append(round_id)
            if stage == Stage.SENDING:
                found = SendingRound(round_id, recipe)
                pace = pace_of(found, office)
                again = [text for of, text, mark in uncertain if of == round_id and mark == Mark.TO_GO]
                unsettled = [text for text in again if not settled(text)]
                texts = next_texts(ledger, round_id, pace, civil, unsettled)
                sending.append(Turn(found, pace, texts, unsettled, missed(ledger, round_id, pace, civil)))
        tried = any_open_trial(ledger)
        stopping = ledger.rows(
            "SELECT id FROM rounds WHERE stage = ? AND (line_id IS NULL OR line_id = ?) AND EXISTS (SELECT 1 FROM "
            f"messages WHERE round_id = rounds.id AND mark = '{Mark.TO_GO}' AND with_row IS NULL)",
            *(Stage.STOPPED, line_id),
        )
    going = {turn.round.id for turn in sending}
    trials: list[Trial] = []
    if tried:
        with database.reading() as session:
            trials = open_trials(session)
    return ToDo(
        going=[text for _, text, mark in uncertain if mark == Mark.GOING],
        unsure=[text for _, text, mark in uncertain if mark == Mark.UNSURE],
        wishes=wishes,
        done=[turn.round.id for turn in sending if not turn.texts.any_left],
        sending=[turn for turn in sending if turn.texts.any_left],
        trials=trials,
        waiting=[text for of, text, mark in uncertain if mark == Mark.TO_GO and of not in going],
        stopping=[round_id for (round_id,) in stopping],
        left_behind=sorted(by for by in left if by is not None),
    )
