"""The sender: does one thing after the other, at most one hand-over at a time and at the pace.

What concerns the carrier and not the row marks no row: the row stays To go, and the line waits.
"""

import random
from collections import defaultdict
from collections.abc import Callable, Sequence
from contextlib import suppress

from sqlalchemy.orm import Session

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
from gentle_ledger.core.pace.why import lasting, moment_said
from gentle_ledger.core.rounds.marks import MISSED, MISSED_OPEN, Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.sending.line_in_use import LineInUse
from gentle_ledger.sending.lines import Accepted, Line, Outcome, Refused, facts_of
from gentle_ledger.sending.outage import Alike, Away
from gentle_ledger.sending.questions import Questions
from gentle_ledger.sending.texts import Texts
from gentle_ledger.sending.to_do import ToDo, Turn, to_do
from gentle_ledger.sending.trials import PATIENCE, Trials
from gentle_ledger.sending.verdicts import (
    ALIKE,
    AWAY_TOO_LONG,
    OTHER_LINE,
)
from gentle_ledger.store.attempts import put_beyond_proof
from gentle_ledger.store.beside import ALSO_SENDS, claim_line
from gentle_ledger.store.clock import Clock, both
from gentle_ledger.store.database import Database
from gentle_ledger.store.lines import line_of_identity, line_record
from gentle_ledger.store.messages import any_to_go, going_by, with_mark
from gentle_ledger.store.models import Message, Round, ThisLedger, Trial
from gentle_ledger.store.notices import add_notice
from gentle_ledger.store.processes import Seen, this_machine, this_process
from gentle_ledger.store.processes import seen as seen_of
from gentle_ledger.store.put_back import adopt, doubts_of, put_in_doubt, this_ledger
from gentle_ledger.store.rounds import SendingRound, recipe_of
from gentle_ledger.store.senders import HeldLedger, LineTurn, give_turn_back, take_turn, turn_of
from gentle_ledger.store.signal import ChangeSignal
from gentle_ledger.store.stages import stage_now, step_stage
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.steps import leave_out, leave_some_out, marked_text, step_text
from gentle_ledger.store.trials import waiting
from gentle_ledger.store.turns import next_change
from gentle_ledger.store.witness import HandedOver, OlderThanTheWorld, Witness


class Sender:
    """One sender for one database. `act` hands at most one text over; `loop.Loop` does one act after the other.

    Args:
        draw: gives a number from -1 to 1 for each gap.
        office: the zone (IANA) whose civil days are counted.
        witness: names each hand-over before it is made; None for a ledger of which no copy can be put back.

    Attributes:
        database: the ledger; each write names the turn of this sender.
        process: names it among all that could send.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        signal: ChangeSignal | None = None,
        draw: Callable[[], float] = lambda: random.uniform(-1.0, 1.0),
        office: str = "UTC",
        witness: Witness | None = None,
        settings: str = "",
    ) -> None:
        self._ledger = database
        self.database = HeldLedger(database)
        self.line = line
        self.process = this_process()
        self._settings = settings
        self._witness = witness
        self._secret = ""
        self.clock = clock
        self.signal = signal or ChangeSignal()
        self._office = office
        self._used = LineInUse(self.database, line, clock, draw, office)
        self._ready_since: dict[int, float] = {}
        self._alike: defaultdict[int, Alike] = defaultdict(Alike)
        self._questions = Questions(line, clock, draw)
        told = self.signal.tell
        self._texts = Texts(
            self.database,
            line,
            clock,
            self._used,
            self._questions,
            lambda: self._secret,
            office,
            told,
            self._note_hand_over,
            self._times_named,
            self._count_alike,
        )
        self._trials = Trials(self.database, line, clock, lambda: self._secret, told, self._note_hand_over)

    # --- the turn --------------------------------------------------------------------------------------------------

    def line_id(self) -> int:
        """The record of its line, made where there is none."""
        facts = facts_of(self.line)
        with self._ledger.reading() as session:
            known = line_of_identity(session, facts.identity)
        if known is not None:
            return known
        with self._ledger.writing() as session:
            return line_record(session, facts).id

    def turn_now(self) -> LineTurn:
        """Who has the turn of its line."""
        line_id = self.line_id()
        with self._ledger.reading_bare() as ledger:
            return turn_of(ledger, line_id)

    def begin(self, before: LineTurn | None = None, *, may_still_run: bool = False) -> None:
        """Takes the turn of its line, from whoever had it `before`; from anybody, where that is left out.

        What was before: nobody can say how long ago, so gaps, waits and settling begin anew. Where the one before
        `may_still_run`, the text that it had in hand may still be handed over, and "no record" proves nothing of it.
        A ledger that is older than the world is found out here, before anything is sent.
        Raises TurnLost when somebody else was quicker.
        """
        self.database.mine = None
        before = before or self.turn_now()
        with self._ledger.writing_bare() as ledger:
            mine = take_turn(ledger, before, self.process, self._settings)
            if may_still_run:
                put_beyond_proof(ledger, mine.line_id)
        self.database.mine = mine
        try:
            with self.database.writing() as session:
                self._secret = this_ledger(session).secret
            self._compare_with_the_world()
            self._questions.forget_all()
            self._used.begin()
        except BaseException:
            # Whoever cannot begin has no turn: nothing may be sent before all of this was done.
            with suppress(Exception):
                self.give_back()
            raise

    def give_back(self) -> None:
        """Lets another process have the turn."""
        mine, self.database.mine = self.database.mine, None
        if mine is not None:
            with self._ledger.writing_bare() as ledger:
                give_turn_back(ledger, mine)
        if self._witness is not None:
            self._witness.close()

    def _note_hand_over(self, handed: HandedOver) -> None:
        if self._witness is not None:
            self._witness.note(handed)

    def _times_named(self, reference: str) -> int:
        return 0 if self._witness is None else self._witness.times(reference)

    def _compare_with_the_world(self) -> None:
        """Finds out what the ledger does not know, if a copy of it was put back, or if it is on another machine."""
        if self._witness is None:
            return
        machine = this_machine()
        doubts = doubts_of(self.database, self._witness, machine)
        if doubts:
            last = max((handed.at for handed in doubts.unknown), default=0.0)
            put_in_doubt(self.database, doubts, self.clock.now(), moment_said(last, last, self._office))
        with self.database.reading() as session:
            identity = session.get_one(ThisLedger, 1).identity
        path = self.database.path
        others = claim_line(self._witness.state, self.line.name, identity, path, self.process)
        with self.database.writing() as session:
            adopt(session, machine)
            for other in others:
                add_notice(session, ALSO_SENDS(path=other, line=self.line.name), self.clock.now())
        self._witness.open(identity, machine)
        self.signal.tell()

    # --- the work --------------------------------------------------------------------------------------------------

    @property
    def away(self) -> Away | None:
        """The carrier's absence, while it lasts."""
        return self._used.absence.now

    def act(self) -> Send | Wait | None:
        """Does the next thing there is to do, at most one hand-over.

        Returns Send when something was done, Wait when it is not time yet, None when there is nothing to do.
        """
        if self.database.mine is None:
            self.begin()
        if self._witness is not None and self._witness.grew():
            # Somebody else sends from a copy of this ledger, or took the witness away.
            self._compare_with_the_world()
        now = both(self.clock)
        seen = to_do(self.database, self._questions.settled, now.civil, self._office, self._used.id)
        self._used.count_use(now.civil)
        if self._tidied_up(seen, now):
            return SEND
        asking = self._questions.next_of([*seen.unsure, *seen.waiting])
        ready = [turn for turn in seen.sending if turn.ready(now.civil)]
        if self.waits_for_carrier() and (ready or seen.trials or asking):
            return Wait(self._used.absence.until, Why.CARRIER)
        if asking and asking[0] <= now.forward:
            self._texts.ask_about(asking[1])
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
            try:
                self._texts.hand_over(first.round.id, text, line, first.pace)
            except OlderThanTheWorld:
                self._compare_with_the_world()
                self._texts.doubt(text.id)
        if isinstance(decision, Wait) and decision.until is not None and len(seen.sending) > 1:
            # Another round may begin, close or miss its moment meanwhile: then the line is less strict, or it is the
            # other's turn.
            with self.database.reading_bare() as ledger:
                found = [next_change(ledger, turn.round.id, turn.pace, now.civil) for turn in seen.sending]
            changes = min(*found, *(turn.misses() for turn in seen.sending))
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

    def _hand_over_trial(self, trial: Trial, line: LineState, pace: Pace) -> None:
        """A trial uses the line as any text does: its gap, its count of the day, and its carrier's absence."""
        began = self.clock.now()
        reference = self._trials.begin(trial, lambda: decide(line, RoundState(pace), ANY_ROW, both(self.clock)) is SEND)
        if reference is None:
            return
        try:
            outcome = self._trials.hand_over(trial, reference)
        finally:
            self._used.note(line, pace, began)
        with self.database.writing_bare() as ledger:
            self._used.heed(ledger, outcome)
        self.signal.tell()

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
            self._texts.settle_interrupted(text)
        for line_id in seen.left_behind:
            self._see_to_line(line_id)
        trials = self._tidied_trials(seen.trials)
        for round_id in seen.done:
            self._finish(round_id)
        for round_id in seen.wishes:
            self._heed_wish(round_id)
        for round_id in seen.stopping:
            self._leave_rest_out(round_id)
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
        return bool(seen.going or trials or missed or seen.done or seen.wishes or seen.stopping or impatient)

    def _tidied_trials(self, trials: Sequence[Trial]) -> bool:
        """Settles trials that were interrupted, and gives up those that waited too long; True when there were any."""
        # A carrier that asked to be left alone is not asked either: a trial waits for that.
        interrupted = [trial for trial in trials if trial.mark == Mark.GOING and not self.waits_for_carrier()]
        for trial in interrupted:
            self._trials.settle_interrupted(trial)
        late = [trial for trial in trials if self._waited_too_long(trial)]
        for trial in late:
            self._trials.give_up(trial, AWAY_TOO_LONG(says=self._why_away()).sentence)
        return bool(interrupted or late)

    def _leave_rest_out(self, round_id: int) -> None:
        """A piece of what whoever stopped the round did not come to leave out."""
        with self.database.writing_bare() as ledger:
            if stage_now(ledger, round_id) == Stage.STOPPED:
                leave_some_out(ledger, round_id, self.clock.now())
        self.signal.tell()

    def _waited_too_long(self, trial: Trial) -> bool:
        """A trial that has waited for a carrier that is away for longer than anybody looks at their phone for it."""
        waited = (self.clock.now() - trial.asked_at).total_seconds()
        return trial.mark == Mark.TO_GO and waited > PATIENCE and self.waits_for_carrier()

    def _why_away(self) -> str:
        return self._used.absence.now.reason if self._used.absence.now else ""

    def _see_to_line(self, line_id: int) -> None:
        """A text was being handed over by another line, whose sender is gone: nobody here can be asked about it."""
        with self.database.writing_bare() as ledger:
            other = turn_of(ledger, line_id)
            if seen_of(other.process) is not Seen.GONE:
                return
            # Whoever had that turn is let write nothing more.
            take_turn(ledger, other, "", "")
            for message_id in going_by(ledger, line_id):
                if (text := marked_text(ledger, message_id)) is not None:
                    step_text(ledger, text, Mark.UNSURE, self.clock.now(), reason=OTHER_LINE())
        self.signal.tell()

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
                leave_out(statements_of(session), found, self.clock.now(), reason, MISSED_OPEN())
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

    def _heed_wish(self, round_id: int) -> None:
        """Somebody wants the carrier to be asked about a round's Unsure rows now."""
        with self.database.writing() as session:
            session.get_one(Round, round_id).ask_wanted = False
            unsure = with_mark(session, Mark.UNSURE, round_id)
            self._used.absence.cut_short(statements_of(session))
        for message in unsure:
            self._questions.ask_now(message.id)
