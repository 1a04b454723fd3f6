"""Handing texts over: each once, with every mark written down.

What may never happen is a text handed over twice. Therefore: the reference is committed before the carrier is called;
the outcome is committed right after; what is found Going was interrupted, and is asked about by its reference; a row
that is tried again is asked about under all its earlier references first; and "no record" is an answer only once the
line says that it can be one. Until then the row is Unsure and is asked about again, by itself.
"""

from collections.abc import Callable

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.pace.decide import LineState, Pace
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.line_in_use import LineInUse
from gentle_ledger.sending.lines import Accepted, Line, NoRecord, Outcome, Refused, Silent, Unavailable
from gentle_ledger.sending.questions import Questions
from gentle_ledger.sending.verdicts import (
    CANNOT_BE_ASKED,
    CANNOT_SAY,
    GONE_BEFORE,
    NOT_TAKEN,
    OTHER_LINE,
    attempt_state,
    verdict_of,
)
from gentle_ledger.store.attempts import begin_attempt, references_of, settle_attempt
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.messages import MarkedText, marked_text, step_text
from gentle_ledger.store.no_more_texts import gives_way
from gentle_ledger.store.stages import stage_now
from gentle_ledger.store.statements import Statements
from gentle_ledger.store.turns import TextToGo


class Texts:
    """What the sender does with the texts of rounds; see `Trials` for those to oneself.

    Args:
        database, line, clock: those of the sender.
        used: the line as the pace sees it.
        questions: which texts the carrier is asked about, and when.
        new_reference: gives a reference that was never used.
        tell: says that something changed.
        handed_over: told of each round what became of a hand-over of its texts, once that is written down.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        used: LineInUse,
        questions: Questions,
        new_reference: Callable[[], str],
        tell: Callable[[], None],
        handed_over: Callable[[int, Outcome | None], None],
    ) -> None:
        self._database = database
        self._line = line
        self._clock = clock
        self._used = used
        self._questions = questions
        self._new_reference = new_reference
        self._tell = tell
        self._handed_over = handed_over

    def hand_over(self, round_id: int, planned: TextToGo, line: LineState, pace: Pace) -> None:
        """Hands a text of a round over, if it is still to go, and writes down what became of it."""
        earlier: list[str] = []
        if planned.reference:
            with self._database.reading() as session:
                known = references_of(session, planned.id)
            earlier = [reference for reference, line in known.items() if self._can_tell(line)]
            if planned.uncertain and len(earlier) < len(known):
                self._leave_open(planned.id)
                return
            if self._settled_by_earlier(planned, earlier):
                return
        same = planned.reference if planned.reference in earlier and self._line.policy.tells_repeats_apart else None
        reference = same or self._new_reference()
        with self._database.writing_bare() as ledger:
            # Pause and Stop may have come since: the round must still be sending, the row still To go.
            text = marked_text(ledger, planned.id)
            if stage_now(ledger, round_id) != Stage.SENDING or text is None or text.mark != Mark.TO_GO:
                return
            at = self._clock.now()
            # It may have been on its way when its number was noted, and come back to its turn.
            if gives_way(ledger, text, at):
                return
            step_text(ledger, text, Mark.GOING, at, reference=reference, line=self._line.identity)
            begin_attempt(ledger, text.id, self._used.id, reference, at)
        self._tell()
        try:
            outcome: Outcome = self._line.hand_over(reference, text.address, text.text)
        finally:
            # The gap counts from the end of the call: a slow answer must not let the next text come sooner after it.
            self._used.note(line, pace, at)
            self._questions.handed_over(text.id)
        if isinstance(outcome, Unavailable):
            self._settle_unavailable(text.id, reference, outcome)
        elif isinstance(outcome, Silent):
            self._settle(text.id, self._ask(reference), reference)
        else:
            self._settle(text.id, outcome, reference)

    def settle_interrupted(self, message_id: int) -> None:
        """What is Going while nothing is under way was interrupted: the carrier is asked, nothing is handed over."""
        # A carrier that asked to be left alone is not asked either: the row is Unsure until it may be.
        left_alone = self._used.absence.waiting
        asked, reference = (None, None) if left_alone else self._asked(message_id)
        self._settle(message_id, asked, reference, unasked=CANNOT_SAY() if left_alone else self._unasked())

    def ask_about(self, message_id: int) -> None:
        """Asks the carrier what became of a text that may have gone."""
        proof = self._questions.settled(message_id)
        asked, reference = self._asked(message_id)
        self._settle(message_id, asked, reference, proof=proof)
        self._questions.asked(message_id)

    def _can_tell(self, line: str) -> bool:
        """True for hand-overs that this line's carrier can be asked about. Earlier versions kept the name alone."""
        return self._line.policy.can_be_asked and line in {self._line.identity, self._line.name}

    def _unasked(self) -> Reason:
        """Why nobody can be asked about a hand-over."""
        return (OTHER_LINE if self._line.policy.can_be_asked else CANNOT_BE_ASKED)()

    def _leave_open(self, message_id: int) -> None:
        """A first try may have gone, and this line's carrier cannot be asked about it."""
        with self._database.writing_bare() as ledger:
            text = marked_text(ledger, message_id)
            if text is not None and text.mark == Mark.TO_GO:
                step_text(ledger, text, Mark.UNSURE, self._clock.now(), reason=self._unasked())
        self._tell()

    def _settled_by_earlier(self, planned: TextToGo, references: list[str]) -> bool:
        """Asks about every earlier hand-over of a row before a new one.

        True when there is no second try now: one of them went after all, or the carrier gives no answer. The row then
        keeps its turn, and the carrier's absence is waited out.
        """
        for reference in references:
            outcome = self._ask(reference)
            if isinstance(outcome, (Refused, NoRecord)):
                continue
            with self._database.writing_bare() as ledger:
                if isinstance(outcome, Accepted):
                    text = marked_text(ledger, planned.id)
                    if text is not None and text.mark == Mark.TO_GO:
                        step_text(ledger, text, Mark.SENT, self._clock.now(), reason=GONE_BEFORE(), reference=reference)
                    self._keep_answer(ledger, planned.id, reference, outcome)
                    self._used.absence.end(ledger)
                    self._questions.forget(planned.id)
                else:
                    self._used.absence.begin(ledger, outcome)
            self._tell()
            return True
        return False

    def _settle_unavailable(self, message_id: int, reference: str, outcome: Unavailable) -> None:
        """The carrier has trouble of its own: the row keeps its turn, unless the carrier took it all the same."""
        if outcome.perhaps_taken and isinstance(told := self._ask(reference), Accepted):
            self._settle(message_id, told, reference)
            return
        with self._database.writing_bare() as ledger:
            step_text(
                ledger,
                self._text(ledger, message_id),
                Mark.TO_GO,
                self._clock.now(),
                reason=NOT_TAKEN(says=outcome.reason),
                line=self._line.identity,
                uncertain=outcome.perhaps_taken,
                no_try=not outcome.perhaps_taken,
            )
            self._keep_answer(ledger, message_id, reference, outcome)
            self._used.heed(ledger, outcome)
        self._tell()

    def _settle(
        self,
        message_id: int,
        outcome: Outcome | None,
        reference: str | None,
        *,
        proof: bool = False,
        unasked: Reason | None = None,
    ) -> None:
        """Writes down what became of a hand-over, or that nobody can say yet; None, and why, when nobody was asked.

        `proof` tells that "no record" can be believed: the settling time was over when the carrier was asked.
        """
        to, reason, may_retry = verdict_of(outcome, proof, unasked)
        with self._database.writing_bare() as ledger:
            text = self._text(ledger, message_id)
            if outcome is not None:
                self._keep_answer(ledger, message_id, reference or text.reference, outcome)
            self._used.heed(ledger, outcome)
            if text.mark == to:
                return
            handed_over_now = text.mark == Mark.GOING
            step_text(ledger, text, to, self._clock.now(), reason=reason, may_retry=may_retry, line=self._line.identity)
        if handed_over_now:
            self._handed_over(text.round_id, outcome)
        if to is not Mark.UNSURE:
            self._questions.forget(message_id)
        self._tell()

    def _text(self, ledger: Statements, message_id: int) -> MarkedText:
        """A text that was handed over: what is on record is never removed."""
        found = marked_text(ledger, message_id)
        if found is None:
            raise NotThere("A text that was handed over is not in the ledger any more.")
        return found

    def _keep_answer(self, ledger: Statements, message_id: int, reference: str | None, outcome: Outcome) -> None:
        """Writes down what the carrier said of one attempt, its own id for the text included."""
        state = attempt_state(outcome)
        answer = outcome.reason if isinstance(outcome, (Refused, Unavailable, Silent)) else ""
        carrier_id = outcome.carrier_id if isinstance(outcome, Accepted) else ""
        settle_attempt(ledger, message_id, reference, state, self._clock.now(), answer, carrier_id)

    def _ask(self, reference: str) -> Outcome:
        """What the carrier says of a hand-over; it is silent where it cannot be asked."""
        return self._line.ask(reference) if self._line.policy.can_be_asked else Silent("this line cannot be asked")

    def _asked(self, message_id: int) -> tuple[Outcome | None, str | None]:
        """What the carrier says of a row under each of its references, and under which; None by another line."""
        with self._database.reading() as session:
            known = references_of(session, message_id)
        if not all(self._can_tell(line) for line in known.values()):
            return None, None
        outcome: Outcome = NoRecord()
        said_of: str | None = None
        for reference in reversed(known):
            outcome, said_of = self._ask(reference), reference
            # An earlier try under another reference may be the one that went.
            if not isinstance(outcome, NoRecord):
                break
        return outcome, said_of
