"""Handing texts over: each once, with every mark written down.

What may never happen is a text handed over twice. Therefore: the reference is committed before the carrier is called;
the outcome is committed right after; what is found Going was interrupted, and is asked about by its reference; a row
that is tried again is asked about under all its earlier references first; and "no record" is an answer only once the
line says that it can be one. Until then the row is Unsure and is asked about again, by itself.
"""

from collections.abc import Callable, Mapping
from datetime import datetime
from typing import NamedTuple

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.pace.decide import SEND, LineState, Pace, RoundState, decide
from gentle_ledger.core.rounds.marks import FIRST_TRY_OPEN, STOPPED, Mark
from gentle_ledger.core.rounds.references import reference_of_text
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.line_in_use import LineInUse
from gentle_ledger.sending.lines import Accepted, Line, NoRecord, Outcome, Refused, Silent, Unavailable
from gentle_ledger.sending.questions import Questions
from gentle_ledger.sending.verdicts import (
    CANNOT_BE_ASKED,
    CANNOT_SAY,
    FORGOTTEN,
    GONE_BEFORE,
    HELD_UP,
    NOT_TAKEN,
    OTHER_LINE,
    WENT_ELSEWHERE,
    attempt_state,
    verdict_of,
)
from gentle_ledger.store.attempts import AttemptState, Known, begin_attempt, references_of, settle_attempt, times_begun
from gentle_ledger.store.clock import Clock, both
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.no_more_texts import gives_way
from gentle_ledger.store.put_back import PUT_BACK
from gentle_ledger.store.rounds import SendingRound, pace_of
from gentle_ledger.store.stages import stage_now
from gentle_ledger.store.statements import Statements
from gentle_ledger.store.steps import MarkedText, leave_out, marked_text, no_doubt, say_why, step_text
from gentle_ledger.store.turns import TextToGo
from gentle_ledger.store.witness import HandedOver, NoWitness, OlderThanTheWorld, line_key

_HELD_UP = 0.25
"""Seconds between the commit and the call after which it is looked again whether the text may still go."""
_CLOCKS_DIFFER = 3600.0
"""Seconds by which a hand-over may lie in the future: a clock that was set back by more says nothing of its age."""


class Asked(NamedTuple):
    """What a carrier said.

    Attributes:
        outcome: its word; None where nobody was asked.
        reference: of which hand-over.
        forgotten: whether "no record" proves nothing, and never will.
    """

    outcome: Outcome | None
    reference: str | None
    forgotten: bool = False


_NOBODY_ASKED = Asked(None, None)


class Texts:
    """What the sender does with the texts of rounds; see `Trials` for those to oneself.

    Args:
        database, line, clock: those of the sender.
        used: the line as the pace sees it.
        questions: which texts the carrier is asked about, and when.
        secret: what references are made with.
        office: the zone (IANA) whose civil days are counted.
        tell: says that something changed.
        witness: names each hand-over before it is made.
        named: how often a reference was named so.
        handed_over: told of each round what became of a hand-over of its texts, once that is written down.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        used: LineInUse,
        questions: Questions,
        secret: Callable[[], str],
        office: str,
        tell: Callable[[], None],
        witness: Callable[[HandedOver], None],
        named: Callable[[str], int],
        handed_over: Callable[[int, Outcome | None], None],
    ) -> None:
        self._database = database
        self._line = line
        self._clock = clock
        self._used = used
        self._questions = questions
        self._secret = secret
        self._office = office
        self._tell = tell
        self._witness = witness
        self._named = named
        self._handed_over = handed_over

    def hand_over(self, round_id: int, planned: TextToGo, line: LineState, pace: Pace) -> None:
        """Hands a text of a round over, if it is still to go, and writes down what became of it."""
        known: dict[str, Known] = {}
        if planned.reference or planned.asks_first:
            with self._database.reading_bare() as ledger:
                known = references_of(ledger, planned.id)
            earlier = [reference for reference, each in known.items() if self._can_tell(each.identity)]
            if planned.uncertain and len(earlier) < len(known):
                self._leave_open(planned.id, self._unasked())
                return
            if self._settled_by_earlier(planned, earlier, known):
                return
        if planned.asks_first and not self._may_go_first(planned, known):
            return
        with self._database.writing_bare() as ledger:
            begun = self._begin(ledger, round_id, planned, known, line)
            if begun is None:
                return
            text, at, handed = begun
            reference = handed.reference
        committed = self._clock.monotonic()
        self._tell()
        try:
            self._witness(handed)
        except NoWitness:
            self._take_back(text.id, reference)
            raise
        if self._clock.monotonic() - committed > _HELD_UP and not self._may_still_go(round_id, planned, line):
            self._take_back(text.id, reference)
            return
        try:
            outcome: Outcome = self._line.hand_over(reference, text.address, text.text)
        finally:
            # The gap counts from the end of the call: a slow answer must not let the next text come sooner after it.
            self._used.note(line, pace, at)
            self._questions.handed_over(text.id)
        if isinstance(outcome, Unavailable):
            self._settle_unavailable(text.id, reference, outcome)
        elif isinstance(outcome, Silent):
            self._settle(text.id, Asked(self._ask(reference), reference))
        else:
            self._settle(text.id, Asked(outcome, reference))

    def _next_reference(self, text: MarkedText, round_uid: str, known: Mapping[str, Known]) -> str:
        """The reference of a text's next hand-over: that of its last one again, where that is safe, or the next.

        A line that tells repeats apart takes the same one only once. Whoever said by hand that a text surely did not go
        wants it to go under another one.
        """
        # None is kept of a text that was mended since: under its last one another text was handed over.
        if known and text.reference and self._line.policy.tells_repeats_apart:
            last, each = list(known.items())[-1]
            if self._can_tell(each.identity) and each.state is not AttemptState.SAID_NOT:
                return last
        return reference_of_text(self._secret(), round_uid, text.row, text.address, text.text, len(known))

    def _begin(
        self, ledger: Statements, round_id: int, planned: TextToGo, known: Mapping[str, Known], line: LineState
    ) -> tuple[MarkedText, datetime, HandedOver] | None:
        """Writes down that a text is about to be handed over; None where it may not be by now.

        Pause and Stop may have come since it was looked for, and whoever waits for the lock of the ledger may wait past
        the end of its hours: what lets it go is looked at once more, within the transaction.
        """
        text = marked_text(ledger, planned.id)
        round_uid = self._lets_go(ledger, round_id, planned, line)
        if text is None or text.mark != Mark.TO_GO or round_uid is None:
            return None
        at = self._clock.now()
        # It may have been on its way when its number was noted, and come back to its turn.
        if gives_way(ledger, text, at):
            return None
        reference = self._next_reference(text, round_uid, known)
        # A file that was written over in its place, say, forgets what went without anybody noticing.
        if self._named(reference) > times_begun(ledger, reference):
            raise OlderThanTheWorld("The ledger does not have a hand-over that its witness names.")
        step_text(ledger, text, Mark.GOING, at, reference=reference, line=self._line.identity)
        begin_attempt(ledger, text.id, self._used.id, reference, at)
        return text, at, HandedOver(at.timestamp(), line_key(self._line.identity), round_uid, text.row, reference)

    def _lets_go(self, ledger: Statements, round_id: int, planned: TextToGo, line: LineState) -> str | None:
        """The random id of a round that still sends by this line, and whose pace lets the text go at this moment.

        None of any other.
        """
        found = ledger.first("SELECT stage, recipe, line_id, uid FROM rounds WHERE id = ?", round_id)
        if found is None or found[0] != Stage.SENDING or found[2] not in {None, self._used.id}:
            return None
        pace = pace_of(SendingRound(round_id, found[1]), self._office)
        may = decide(line, RoundState(pace), planned.state, both(self._clock)) is SEND
        return str(found[3]) if may else None

    def _may_still_go(self, round_id: int, planned: TextToGo, line: LineState) -> bool:
        """The same right before the call, for a process that was held up after its commit. Raises TurnLost."""
        with self._database.writing_bare() as ledger:
            return self._lets_go(ledger, round_id, planned, line) is not None

    def _take_back(self, message_id: int, reference: str) -> None:
        """A text that was about to be handed over, and was not, keeps its turn."""
        with self._database.writing_bare() as ledger:
            self._keeps_turn(ledger, message_id, HELD_UP(), uncertain=False)
            settle_attempt(ledger, message_id, reference, AttemptState.NOT_TAKEN, self._clock.now(), HELD_UP().sentence)
        self._tell()

    def _keeps_turn(self, ledger: Statements, message_id: int, reason: Reason, *, uncertain: bool) -> None:
        """A text that was Going, and is not known to have gone, is to go again.

        In a round that was stopped meanwhile it is left out as the others were.
        """
        at = self._clock.now()
        step_text(
            ledger,
            self._text(ledger, message_id),
            Mark.TO_GO,
            at,
            reason=reason,
            line=self._line.identity,
            uncertain=uncertain,
            no_try=not uncertain,
        )
        text = self._text(ledger, message_id)
        if stage_now(ledger, text.round_id) not in {Stage.SENDING, Stage.PAUSED}:
            leave_out(ledger, text, at, STOPPED(), FIRST_TRY_OPEN())

    def _may_go_first(self, planned: TextToGo, known: Mapping[str, Known]) -> bool:
        """Whether a text may go that may have gone from a copy of this ledger: its carrier is asked.

        The copy would have used the same reference, which also keeps a carrier that tells repeats apart from taking it
        twice.
        """
        if not self._line.policy.can_be_asked:
            self._leave_open(planned.id, CANNOT_BE_ASKED())
            return False
        with self._database.reading_bare() as ledger:
            text = self._text(ledger, planned.id)
            round_uid = ledger.first("SELECT uid FROM rounds WHERE id = ?", text.round_id)[0]
        reference = self._next_reference(text, round_uid, known)
        # What was begun here was asked about already.
        outcome = NoRecord() if reference in known else self._ask(reference)
        if isinstance(outcome, (NoRecord, Refused)):
            return True
        with self._database.writing_bare() as ledger:
            if isinstance(outcome, Accepted):
                text = self._text(ledger, planned.id)
                if text.mark == Mark.TO_GO:
                    step_text(ledger, text, Mark.SENT, self._clock.now(), reason=WENT_ELSEWHERE(), reference=reference)
                    begin_attempt(ledger, text.id, self._used.id, reference, self._clock.now())
                    self._keep_answer(ledger, text.id, reference, outcome)
            self._used.heed(ledger, outcome)
        self._tell()
        return False

    def doubt(self, message_id: int) -> None:
        """A witness names a hand-over of a text that the ledger does not have: it is not handed over."""
        self._leave_open(message_id, PUT_BACK())

    def settle_interrupted(self, message_id: int) -> None:
        """What is Going while nothing is under way was interrupted: the carrier is asked, nothing is handed over."""
        # A carrier that asked to be left alone is not asked either: the row is Unsure until it may be.
        left_alone = self._used.absence.waiting
        asked = _NOBODY_ASKED if left_alone else self._asked(message_id)
        self._settle(message_id, asked, unasked=CANNOT_SAY() if left_alone else self._unasked())

    def ask_about(self, message_id: int) -> None:
        """Asks the carrier what became of a text that may have gone."""
        proof = self._questions.settled(message_id)
        self._settle(message_id, self._asked(message_id), proof=proof, unasked=self._unasked())
        self._questions.asked(message_id)

    def _can_tell(self, line: str) -> bool:
        """True for hand-overs that this line's carrier can be asked about. Earlier versions kept the name alone."""
        return self._line.policy.can_be_asked and line in {self._line.identity, self._line.name}

    def _unasked(self) -> Reason:
        """Why nobody can be asked about a hand-over."""
        return (OTHER_LINE if self._line.policy.can_be_asked else CANNOT_BE_ASKED)()

    def _leave_open(self, message_id: int, why: Reason) -> None:
        """A first try may have gone, and nobody can be asked about it."""
        with self._database.writing_bare() as ledger:
            text = marked_text(ledger, message_id)
            if text is not None and text.mark == Mark.TO_GO:
                step_text(ledger, text, Mark.UNSURE, self._clock.now(), reason=why)
        self._tell()

    def _settled_by_earlier(self, planned: TextToGo, references: list[str], known: Mapping[str, Known]) -> bool:
        """Asks about every earlier hand-over of a row before a new one.

        True when there is no second try now: one of them went after all, the carrier gives no answer, or one that
        proves nothing. Without an answer the row keeps its turn, and the carrier's absence is waited out.
        """
        for reference in references:
            outcome = self._ask(reference)
            said_not = known[reference].state is AttemptState.SAID_NOT
            if isinstance(outcome, Refused) or (said_not and not isinstance(outcome, Accepted)):
                continue
            if isinstance(outcome, NoRecord):
                if self._forgotten(known[reference]):
                    self._leave_open(planned.id, FORGOTTEN())
                    return True
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
            self._settle(message_id, Asked(told, reference))
            return
        with self._database.writing_bare() as ledger:
            self._keeps_turn(ledger, message_id, NOT_TAKEN(says=outcome.reason), uncertain=outcome.perhaps_taken)
            self._keep_answer(ledger, message_id, reference, outcome)
            self._used.heed(ledger, outcome)
        self._tell()

    def _settle(
        self,
        message_id: int,
        asked: Asked,
        *,
        proof: bool = False,
        unasked: Reason | None = None,
    ) -> None:
        """Writes down what became of a hand-over, or that nobody can say yet; why, when nobody was asked.

        `proof` tells that "no record" can be believed: the settling time was over when the carrier was asked.
        """
        outcome, reference, forgotten = asked
        to, reason, may_retry = verdict_of(outcome, proof, unasked, forgotten=forgotten)
        with self._database.writing_bare() as ledger:
            text = self._text(ledger, message_id)
            if outcome is not None:
                known = reference or text.reference
                self._keep_answer(ledger, message_id, known, outcome, proof=proof and not forgotten)
            self._used.heed(ledger, outcome)
            if text.mark == Mark.TO_GO:
                self._settle_waiting(ledger, text, asked, proof=proof)
                return
            if text.mark not in {Mark.GOING, Mark.UNSURE}:
                # Somebody settled it by hand while the carrier was asked.
                self._questions.forget(message_id)
                return
            if text.mark == to:
                if reason is not None and (forgotten or outcome is None):
                    say_why(ledger, text, reason)
                return
            handed_over_now = text.mark == Mark.GOING
            step_text(ledger, text, to, self._clock.now(), reason=reason, may_retry=may_retry, line=self._line.identity)
        if handed_over_now:
            self._handed_over(text.round_id, outcome)
        if to is not Mark.UNSURE:
            self._questions.forget(message_id)
        self._tell()

    def _settle_waiting(self, ledger: Statements, text: MarkedText, asked: Asked, *, proof: bool) -> None:
        """A text that is to go again, in a round that waits, and whose first try may have gone."""
        outcome, reference, forgotten = asked
        if isinstance(outcome, Accepted):
            step_text(ledger, text, Mark.SENT, self._clock.now(), reason=GONE_BEFORE(), reference=reference)
        elif isinstance(outcome, NoRecord) and forgotten:
            step_text(ledger, text, Mark.UNSURE, self._clock.now(), reason=FORGOTTEN())
        elif isinstance(outcome, Refused) or (isinstance(outcome, NoRecord) and proof):
            # It did not go: nothing of it is in doubt any more.
            no_doubt(ledger, text)
        self._tell()

    def _text(self, ledger: Statements, message_id: int) -> MarkedText:
        """A text that was handed over: what is on record is never removed."""
        found = marked_text(ledger, message_id)
        if found is None:
            raise NotThere("A text that was handed over is not in the ledger any more.")
        return found

    def _keep_answer(
        self, ledger: Statements, message_id: int, reference: str | None, outcome: Outcome, *, proof: bool = False
    ) -> None:
        """Writes down what the carrier said of one attempt, its own id for the text included."""
        state = attempt_state(outcome, proof=proof)
        answer = outcome.reason if isinstance(outcome, (Refused, Unavailable, Silent)) else ""
        carrier_id = outcome.carrier_id if isinstance(outcome, Accepted) else ""
        settle_attempt(ledger, message_id, reference, state, self._clock.now(), answer, carrier_id)

    def _ask(self, reference: str) -> Outcome:
        """What the carrier says of a hand-over; it is silent where it cannot be asked."""
        return self._line.ask(reference) if self._line.policy.can_be_asked else Silent("this line cannot be asked")

    def _asked(self, message_id: int) -> Asked:
        """What the carrier says of a row under each of its references; nothing where some went by another line."""
        with self._database.reading_bare() as ledger:
            known = references_of(ledger, message_id)
        if not all(self._can_tell(each.identity) for each in known.values()):
            return _NOBODY_ASKED
        outcome: Outcome = NoRecord()
        said_of: str | None = None
        forgotten = False
        for reference, each in reversed(known.items()):
            outcome, said_of = self._ask(reference), reference
            # An earlier try under another reference may be the one that went.
            if not isinstance(outcome, NoRecord):
                break
            forgotten = forgotten or self._forgotten(each)
        return Asked(outcome, said_of, forgotten)

    def _forgotten(self, known: Known) -> bool:
        """Whether "no record" proves nothing of a hand-over, and never will."""
        if known.state.settled:
            return False
        age = (self._clock.now() - known.at).total_seconds()
        return known.beyond_proof or age < -_CLOCKS_DIFFER or age > self._line.policy.remembers
