"""Handing over a trial: a row's real text to a number of the clerk's own, by the same line and at the same pace."""

from collections.abc import Callable
from dataclasses import replace

from gentle_ledger.core.pace.decide import Pace
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.references import reference_of_trial
from gentle_ledger.sending.lines import Accepted, Line, Outcome, Refused, Silent, Unavailable
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.models import Round, Trial
from gentle_ledger.store.no_more_texts import ASKED_MEANWHILE, asked_by
from gentle_ledger.store.rounds import pace_of
from gentle_ledger.store.statements import moment_as_text
from gentle_ledger.store.trials import step_trial
from gentle_ledger.store.witness import TRIAL, HandedOver, NoWitness, line_key

PATIENCE = 3600.0
"""Seconds that a trial waits for its carrier: whoever asked for it looks at their phone no longer than that."""
SEE_FOR_YOURSELF = "nobody can say whether it went: look at your own phone"


class Trials:
    """What the sender does with trials. None is handed over a second time once it may have gone.

    Args:
        database, line, clock: those of the sender.
        secret: what references are made with.
        tell: says that something changed.
        witness: names each hand-over before it is made.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        secret: Callable[[], str],
        tell: Callable[[], None],
        witness: Callable[[HandedOver], None],
    ) -> None:
        self._database = database
        self._line = line
        self._clock = clock
        self._secret = secret
        self._tell = tell
        self._witness = witness

    def pace_of(self, trial: Trial, office: str) -> Pace:
        """That of its round, whose hours and beginning are for its recipients, and not for the clerk."""
        with self._database.reading() as session:
            found = session.get(Round, trial.round_id)
            pace = pace_of(found, office) if found else PaceSettings().as_pace(office)
        return replace(pace, start=None, hours=None, late=None)

    def settle_interrupted(self, trial: Trial) -> None:
        """What is Going while nothing is under way was interrupted: the carrier is asked once, and nothing is sent."""
        asked = self._ask(trial.reference or "") if trial.line == self._line.identity else None
        self._settle(trial.id, asked)

    def begin(self, trial: Trial, may_go: Callable[[], bool]) -> str | None:
        """Writes down that a trial is about to be handed over, under which reference; None where it is not to go.

        `may_go` says once more, within the transaction, whether the pace lets it. A number that asked for no more texts
        since is not texted.
        """
        with self._database.writing() as session:
            found, at = session.get_one(Trial, trial.id), self._clock.now()
            if found.mark != Mark.TO_GO or not may_go():
                return None
            if asked_by(session, [found.address]):
                step_trial(found, Mark.FAILED, at, ASKED_MEANWHILE().sentence)
                return None
            step_trial(found, Mark.GOING, at)
            asked_at = moment_as_text(found.asked_at)
            reference = reference_of_trial(self._secret(), found.id, asked_at, found.address, found.text)
            found.reference, found.line = reference, self._line.identity
        self._tell()
        try:
            self._witness(HandedOver(at.timestamp(), line_key(self._line.identity), TRIAL, trial.id, reference))
        except NoWitness as fault:
            # Nothing was called: it keeps its turn.
            with self._database.writing() as session:
                step_trial(session.get_one(Trial, trial.id), Mark.TO_GO, self._clock.now(), fault.sentence)
            raise
        return reference

    def give_up(self, trial: Trial, why: str) -> None:
        """A trial that waited too long is not handed over any more."""
        with self._database.writing() as session:
            found = session.get_one(Trial, trial.id)
            if found.mark == Mark.TO_GO:
                step_trial(found, Mark.FAILED, self._clock.now(), why)
        self._tell()

    def hand_over(self, trial: Trial, reference: str) -> Outcome:
        """Hands it over, and writes down what became of it."""
        outcome: Outcome = self._line.hand_over(reference, trial.address, trial.text)
        if isinstance(outcome, Silent) or (isinstance(outcome, Unavailable) and outcome.perhaps_taken):
            told = self._ask(reference)
            outcome = told if isinstance(told, (Accepted, Refused)) else Silent(outcome.reason)
        self._settle(trial.id, outcome)
        return outcome

    def _ask(self, reference: str) -> Outcome:
        return self._line.ask(reference) if self._line.policy.can_be_asked else Silent("this line cannot be asked")

    def _settle(self, trial_id: int, outcome: Outcome | None) -> None:
        with self._database.writing() as session:
            trial, at = session.get_one(Trial, trial_id), self._clock.now()
            if isinstance(outcome, Accepted):
                step_trial(trial, Mark.SENT, at)
            elif isinstance(outcome, Refused):
                step_trial(trial, Mark.FAILED, at, outcome.reason)
            elif isinstance(outcome, Unavailable):
                # It was not taken, and keeps its turn.
                step_trial(trial, Mark.TO_GO, at, outcome.reason)
            else:
                step_trial(trial, Mark.UNSURE, at, SEE_FOR_YOURSELF)
        self._tell()
