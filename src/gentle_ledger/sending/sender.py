"""The sender: hands texts over one at a time, at the pace, and writes each mark down.

What may never happen is a text handed over twice. Therefore: the reference is committed before the carrier is called;
the outcome is committed right after; what is found Going was interrupted, and is asked about by its reference; a row
that is tried again is asked about under all its earlier references first; and "no record" is an answer only once the
line says that it can be one. Until then the row is Unsure and is asked about again, by itself.

What concerns the carrier and not the row marks no row: the row stays To go, and the line waits.
"""

import random
import secrets
from collections import defaultdict
from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.pace.decide import (
    ANY_ROW,
    SEND,
    LineState,
    Missed,
    Now,
    Pace,
    RoundState,
    Send,
    Wait,
    Why,
    decide,
)
from gentle_ledger.core.pace.why import lasting
from gentle_ledger.core.rounds.marks import MISSED, MISSED_OPEN, Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.line_in_use import LineInUse
from gentle_ledger.sending.lines import Accepted, Line, NoRecord, Outcome, Refused, Silent, Unavailable
from gentle_ledger.sending.outage import Alike, Away
from gentle_ledger.sending.questions import Questions
from gentle_ledger.sending.to_do import ToDo, Turn, to_do
from gentle_ledger.sending.trials import Trials
from gentle_ledger.sending.verdicts import (
    ALIKE,
    AWAY_TOO_LONG,
    CANNOT_BE_ASKED,
    CANNOT_SAY,
    GONE_BEFORE,
    NOT_TAKEN,
    OTHER_LINE,
    attempt_state,
    verdict_of,
)
from gentle_ledger.store.attempts import begin_attempt, references_of, settle_attempt
from gentle_ledger.store.clock import Clock, both
from gentle_ledger.store.database import Database
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.messages import MarkedText, any_to_go, leave_out, marked_text, step_text, with_mark
from gentle_ledger.store.models import Message, Round, Trial
from gentle_ledger.store.no_more_texts import gives_way
from gentle_ledger.store.rounds import SendingRound, recipe_of
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.store.stages import stage_now, step_stage
from gentle_ledger.store.statements import Statements, statements_of
from gentle_ledger.store.trials import waiting
from gentle_ledger.store.turns import TextToGo, next_change


class Sender:
    """One sender for one database. `act` hands at most one text over; `loop.Loop` does one act after the other.

    Args:
        draw: gives a number from -1 to 1 for each gap.
        new_reference: gives a reference that was never used.
        office: the zone (IANA) whose civil days are counted.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        signal: ChangeSignal | None = None,
        draw: Callable[[], float] = lambda: random.uniform(-1.0, 1.0),
        new_reference: Callable[[], str] = lambda: secrets.token_hex(8),
        office: str = "UTC",
    ) -> None:
        self.database = database
        self.line = line
        self.clock = clock
        self.signal = signal or ChangeSignal()
        self._new_reference = new_reference
        self._office = office
        self._used = LineInUse(database, line, clock, draw, office)
        self._ready_since: dict[int, float] = {}
        self._alike: defaultdict[int, Alike] = defaultdict(Alike)
        self._questions = Questions(line, clock, draw)
        self._trials = Trials(database, line, clock, new_reference, self.signal.tell)
        self.begin()

    def begin(self) -> None:
        """What was before this sender: nobody can say how long ago, so gaps, waits and settling begin anew."""
        self._questions.forget_all()
        self._used.begin()

    # --- the work --------------------------------------------------------------------------------------------------

    @property
    def away(self) -> Away | None:
        """The carrier's absence, while it lasts."""
        return self._used.absence.now

    def act(self) -> Send | Wait | None:
        """Does the next thing there is to do, at most one hand-over.

        Returns Send when something was done, Wait when it is not time yet, None when there is nothing to do.
        """
        now = both(self.clock)
        seen = to_do(self.database, self._questions.settled, now.civil, self._office)
        self._used.count_use(now.civil)
        if self._tidied_up(seen, now):
            return SEND
        asking = self._questions.next_of(seen.unsure)
        ready = [turn for turn in seen.sending if turn.ready(now.civil)]
        if self.waits_for_carrier() and (ready or seen.trials or asking):
            return Wait(self._used.absence.until, Why.CARRIER)
        if asking and asking[0] <= now.forward:
            self._ask_about(asking[1])
            return SEND
        if trial := waiting(seen.trials):
            return self._trial_turn(trial, ready, now)
        return self._turn(seen, ready, now) if ready else self._rest(seen, asking, now)

    def _turn(self, seen: ToDo, ready: Sequence[Turn], now: Now) -> Send | Wait | None:
        """The turn of the round that has waited longest since its last text: hands it over, or says what it waits for.

        The others that have a text ready, too, make the line's pace as strict as theirs.
        """
        first, *others = ready
        text = first.texts.first
        if text is None:
            return None
        line = self._used.now([turn.pace for turn in others])
        decision = decide(line, RoundState(first.pace), text.state, now)
        if decision is SEND:
            self._hand_over(first, text, line)
        if isinstance(decision, Wait) and decision.until is not None and len(seen.sending) > 1:
            # Another round may begin or close meanwhile: then the line is less strict, or it is the other's turn.
            with self.database.reading_bare() as ledger:
                changes = min(next_change(ledger, turn.round.id, turn.pace, now.civil) for turn in seen.sending)
            return Wait(min(decision.until, now.forward + changes - now.civil), decision.why)
        # One that has just missed its moment is left out at the next look.
        return SEND if isinstance(decision, Missed) else decision

    def _trial_turn(self, trial: Trial, ready: Sequence[Turn], now: Now) -> Send | Wait:
        """A trial goes at the line's pace, and counts as any text does; hours and moments are the round's alone."""
        pace = self._trials.pace_of(trial, self._office)
        line = self._used.now([turn.pace for turn in ready])
        decision = decide(line, RoundState(pace), ANY_ROW, now)
        if decision is SEND:
            self._hand_over_trial(trial, line, pace)
        return decision if isinstance(decision, Wait) else SEND

    def _rest(self, seen: ToDo, asking: tuple[float, int] | None, now: Now) -> Wait | None:
        """When there is something to do again."""
        waits = [(self._questions[i].settled, Why.SETTLING) for turn in seen.sending for i in turn.unsettled]
        waits += [(asking[0], Why.SETTLING)] if asking else []
        for turn in seen.sending:
            if frees := turn.frees(now.civil):
                waits.append((now.forward + frees[0] - now.civil, frees[1]))
        return Wait(*min(waits)) if waits else None

    def _tidied_up(self, seen: ToDo, now: Now) -> bool:
        """Does what goes before any hand-over; True when something was done, so that it is looked anew."""
        for text in seen.going:
            self._settle_interrupted(text)
        # A carrier that asked to be left alone is not asked either: a trial waits for that.
        interrupted = [trial for trial in seen.trials if trial.mark == Mark.GOING and not self.waits_for_carrier()]
        for trial in interrupted:
            self._trials.settle_interrupted(trial)
        for round_id in seen.done:
            self._finish(round_id)
        for round_id in seen.wishes:
            self._heed_wish(round_id)
        missed = [(turn.pace, text) for turn in seen.sending for text in turn.missed]
        for pace, text in missed:
            self._miss(text, pace)
        self._note_who_sends(seen, now)
        waiting_here = [turn for turn in seen.sending if turn.round.id in self._ready_since]
        impatient = {turn.round.id: why for turn in waiting_here if (why := self._impatience(turn.round, now.forward))}
        for round_id, why in impatient.items():
            with self.database.writing() as session:
                self._pause(session, round_id, why)
            self.signal.tell()
        return bool(seen.going or interrupted or missed or seen.done or seen.wishes or impatient)

    def waits_for_carrier(self) -> bool:
        """True while the carrier is away, or its wish to be left alone is not over."""
        return self._used.absence.waiting

    # --- rounds ----------------------------------------------------------------------------------------------------

    def _note_who_sends(self, seen: ToDo, now: Now) -> None:
        """Since when each round has a text that may leave. One that begins to has the carrier looked at."""
        for gone in self._alike.keys() - {turn.round.id for turn in seen.sending}:
            del self._alike[gone]
        # A text whose first try is not settled is waited for as well.
        ready = {turn.round.id for turn in seen.sending if turn.ready(now.civil) or turn.unsettled}
        for gone in self._ready_since.keys() - ready:
            del self._ready_since[gone]
        for new in ready - self._ready_since.keys():
            self._ready_since[new] = now.forward
            if self._used.absence.now is not None:
                with self.database.writing_bare() as ledger:
                    self._used.absence.cut_short(ledger)

    def _miss(self, message_id: int, pace: Pace) -> None:
        """Its own moment is too long over: it is left out."""
        reason = MISSED(late=lasting(pace.late or 0.0))
        with self.database.writing() as session:
            found = session.get_one(Message, message_id)
            sending = session.get_one(Round, found.round_id).stage == Stage.SENDING
            if sending and found.mark == Mark.TO_GO:
                leave_out(session, found, self.clock.now(), reason, MISSED_OPEN())
        self.signal.tell()

    def _impatience(self, found: SendingRound, now: float) -> str:
        """Why a round waits no longer for a carrier that is away; "" while it waits."""
        away = self._used.absence.now
        if away is None:
            return ""
        patience = recipe_of(found).pace.patience * 60.0
        if now - max(away.first_at, self._ready_since[found.id]) < patience:
            return ""
        return AWAY_TOO_LONG(says=away.reason).sentence

    def _finish(self, round_id: int) -> None:
        with self.database.writing() as session:
            found = session.get(Round, round_id)
            if found is None or found.stage != Stage.SENDING or any_to_go(session, round_id):
                return
            step_stage(found, Stage.FINISHED, found.note)
            found.finished_at = self.clock.now()
        self.signal.tell()

    def _pause(self, session: Session, round_id: int, why: str) -> None:
        """The program's own pause: going on would only spoil the next rows. It never reopens what was ended."""
        found = session.get(Round, round_id)
        if found is not None and found.stage == Stage.SENDING:
            step_stage(found, Stage.PAUSED, why)

    # --- handing over ----------------------------------------------------------------------------------------------

    def _hand_over(self, turn: Turn, planned: TextToGo, line: LineState) -> None:
        round_id = turn.round.id
        earlier: list[str] = []
        if planned.reference:
            with self.database.reading() as session:
                known = references_of(session, planned.id)
            earlier = [reference for reference, line in known.items() if self._can_tell(line)]
            if planned.uncertain and len(earlier) < len(known):
                self._leave_open(planned.id)
                return
            if self._settled_by_earlier(planned, earlier):
                return
        same = planned.reference if planned.reference in earlier and self.line.policy.tells_repeats_apart else None
        reference = same or self._new_reference()
        with self.database.writing_bare() as ledger:
            # Pause and Stop may have come since: the round must still be sending, the row still To go.
            text = marked_text(ledger, planned.id)
            if stage_now(ledger, round_id) != Stage.SENDING or text is None or text.mark != Mark.TO_GO:
                return
            at = self.clock.now()
            # It may have been on its way when its number was noted, and come back to its turn.
            if gives_way(ledger, text, at):
                return
            step_text(ledger, text, Mark.GOING, at, reference=reference, line=self.line.identity)
            begin_attempt(ledger, text.id, self._used.id, reference, at)
        self.signal.tell()
        try:
            outcome: Outcome = self.line.hand_over(reference, text.address, text.text)
        finally:
            # The gap counts from the end of the call: a slow answer must not let the next text come sooner after it.
            self._used.note(line, turn.pace, at)
            self._questions.handed_over(text.id)
        if isinstance(outcome, Unavailable):
            self._settle_unavailable(text.id, reference, outcome)
        elif isinstance(outcome, Silent):
            self._settle(text.id, self._ask(reference), reference)
        else:
            self._settle(text.id, outcome, reference)

    def _hand_over_trial(self, trial: Trial, line: LineState, pace: Pace) -> None:
        """A trial uses the line as any text does: its gap, its count of the day, and its carrier's absence."""
        began = self.clock.now()
        reference = self._trials.begin(trial)
        if reference is None:
            return
        try:
            outcome = self._trials.hand_over(trial, reference)
        finally:
            self._used.note(line, pace, began)
        with self.database.writing_bare() as ledger:
            self._used.heed(ledger, outcome)
        self.signal.tell()

    def _can_tell(self, line: str) -> bool:
        """True for hand-overs that this line's carrier can be asked about. Earlier versions kept the name alone."""
        return self.line.policy.can_be_asked and line in {self.line.identity, self.line.name}

    def _unasked(self) -> Reason:
        """Why nobody can be asked about a hand-over."""
        return (OTHER_LINE if self.line.policy.can_be_asked else CANNOT_BE_ASKED)()

    def _leave_open(self, message_id: int) -> None:
        """A first try may have gone, and this line's carrier cannot be asked about it."""
        with self.database.writing_bare() as ledger:
            text = marked_text(ledger, message_id)
            if text is not None and text.mark == Mark.TO_GO:
                step_text(ledger, text, Mark.UNSURE, self.clock.now(), reason=self._unasked())
        self.signal.tell()

    def _settled_by_earlier(self, planned: TextToGo, references: list[str]) -> bool:
        """Asks about every earlier hand-over of a row before a new one.

        True when there is no second try now: one of them went after all, or the carrier gives no answer. The row then
        keeps its turn, and the carrier's absence is waited out.
        """
        for reference in references:
            outcome = self._ask(reference)
            if isinstance(outcome, (Refused, NoRecord)):
                continue
            with self.database.writing_bare() as ledger:
                if isinstance(outcome, Accepted):
                    text = marked_text(ledger, planned.id)
                    if text is not None and text.mark == Mark.TO_GO:
                        step_text(ledger, text, Mark.SENT, self.clock.now(), reason=GONE_BEFORE(), reference=reference)
                    self._keep_answer(ledger, planned.id, reference, outcome)
                    self._used.absence.end(ledger)
                    self._questions.forget(planned.id)
                else:
                    self._used.absence.begin(ledger, outcome)
            self.signal.tell()
            return True
        return False

    # --- what became of it -----------------------------------------------------------------------------------------

    def _settle_interrupted(self, message_id: int) -> None:
        """What is Going while nothing is under way was interrupted: the carrier is asked, nothing is handed over."""
        # A carrier that asked to be left alone is not asked either: the row is Unsure until it may be.
        left_alone = self.waits_for_carrier()
        asked, reference = (None, None) if left_alone else self._asked(message_id)
        self._settle(message_id, asked, reference, unasked=CANNOT_SAY() if left_alone else self._unasked())

    def _settle_unavailable(self, message_id: int, reference: str, outcome: Unavailable) -> None:
        """The carrier has trouble of its own: the row keeps its turn, unless the carrier took it all the same."""
        if outcome.perhaps_taken and isinstance(told := self._ask(reference), Accepted):
            self._settle(message_id, told, reference)
            return
        with self.database.writing_bare() as ledger:
            step_text(
                ledger,
                self._text(ledger, message_id),
                Mark.TO_GO,
                self.clock.now(),
                reason=NOT_TAKEN(says=outcome.reason),
                line=self.line.identity,
                uncertain=outcome.perhaps_taken,
                no_try=not outcome.perhaps_taken,
            )
            self._keep_answer(ledger, message_id, reference, outcome)
            self._used.heed(ledger, outcome)
        self.signal.tell()

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
        with self.database.writing_bare() as ledger:
            text = self._text(ledger, message_id)
            if outcome is not None:
                self._keep_answer(ledger, message_id, reference or text.reference, outcome)
            self._used.heed(ledger, outcome)
            if text.mark == to:
                return
            handed_over_now = text.mark == Mark.GOING
            step_text(ledger, text, to, self.clock.now(), reason=reason, may_retry=may_retry, line=self.line.identity)
        if handed_over_now:
            self._count_alike(text.round_id, outcome)
        if to is not Mark.UNSURE:
            self._questions.forget(message_id)
        self.signal.tell()

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
        settle_attempt(ledger, message_id, reference, state, self.clock.now(), answer, carrier_id)

    def _ask(self, reference: str) -> Outcome:
        """What the carrier says of a hand-over; it is silent where it cannot be asked."""
        return self.line.ask(reference) if self.line.policy.can_be_asked else Silent("this line cannot be asked")

    def _count_alike(self, round_id: int, outcome: Outcome | None) -> None:
        """Rows that fail alike one after the other, for a reason that may not be their own, pause the round."""
        alike = self._alike[round_id]
        if isinstance(outcome, Accepted):
            alike.went()
            return
        says, own = (outcome.reason, outcome.own) if isinstance(outcome, Refused) else ("no answer", False)
        code = outcome.code or says if isinstance(outcome, Refused) else ""
        if alike.failed(code, own=own):
            with self.database.writing() as session:
                self._pause(session, round_id, ALIKE(says=says).sentence)

    # --- the rows nobody can say anything of ------------------------------------------------------------------------

    def _asked(self, message_id: int) -> tuple[Outcome | None, str | None]:
        """What the carrier says of a row under each of its references, and under which; None by another line."""
        with self.database.reading() as session:
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

    def _ask_about(self, message_id: int) -> None:
        proof = self._questions.settled(message_id)
        asked, reference = self._asked(message_id)
        self._settle(message_id, asked, reference, proof=proof)
        self._questions.asked(message_id)

    def _heed_wish(self, round_id: int) -> None:
        """Somebody wants the carrier to be asked about a round's Unsure rows now."""
        with self.database.writing() as session:
            session.get_one(Round, round_id).ask_wanted = False
            unsure = with_mark(session, Mark.UNSURE, round_id)
            self._used.absence.cut_short(statements_of(session))
        for message in unsure:
            self._questions.ask_now(message.id)
