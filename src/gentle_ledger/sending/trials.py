"""Handing over a trial: a row's real text to a number of the clerk's own, by the same line and at the same pace."""

from collections.abc import Callable
from dataclasses import replace

from gentle_ledger.core.pace.decide import Pace
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.sending.lines import Accepted, Line, Outcome, Refused, Silent, Unavailable
from gentle_ledger.store.clock import Clock
from gentle_ledger.store.database import Database
from gentle_ledger.store.models import Round, Trial
from gentle_ledger.store.rounds import pace_of
from gentle_ledger.store.trials import step_trial

SEE_FOR_YOURSELF = "nobody can say whether it went: look at your own phone"


class Trials:
    """What the sender does with trials. None is handed over a second time once it may have gone.

    Args:
        database, line, clock: those of the sender.
        new_reference: gives a reference that was never used.
        tell: says that something changed.
    """

    def __init__(
        self,
        database: Database,
        line: Line,
        clock: Clock,
        new_reference: Callable[[], str],
        tell: Callable[[], None],
    ) -> None:
        self._database = database
        self._line = line
        self._clock = clock
        self._new_reference = new_reference
        self._tell = tell

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

    def begin(self, trial: Trial) -> str | None:
        """Writes down that a trial is about to be handed over, under which reference; None where it is not to go."""
        reference = self._new_reference()
        with self._database.writing() as session:
            found = session.get_one(Trial, trial.id)
            if found.mark != Mark.TO_GO:
                return None
            step_trial(found, Mark.GOING, self._clock.now())
            found.reference, found.line = reference, self._line.identity
        self._tell()
        return reference

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
