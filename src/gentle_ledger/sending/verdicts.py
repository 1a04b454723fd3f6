"""What a carrier's word makes of a row and of an attempt, and the reasons the sender gives."""

from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.sending.lines import Accepted, NoRecord, Outcome, Refused, Silent, Unavailable
from gentle_ledger.store.attempts import AttemptState

NO_RECORD = reason_kind("no record", "the carrier did not answer and has no record of this text")
GONE_BEFORE = reason_kind("gone before", "an earlier try had gone after all")
CANNOT_SAY = reason_kind(
    "cannot say", "the carrier did not answer, so nobody can say whether the text went; it is being asked"
)
NOT_YET = reason_kind(
    "no record yet", "the carrier has no record of this text yet; it is asked again until that is proof"
)
OTHER_LINE = reason_kind(
    "other line", "a first try went out by another line and may have gone; nobody can be asked about it here"
)
CANNOT_BE_ASKED = reason_kind(
    "cannot be asked", "a first try may have gone, and this line's carrier cannot be asked about it"
)
FORGOTTEN = reason_kind(
    "forgotten",
    "the carrier has no record of this text, which proves nothing: it does not remember that long, or nobody knows "
    "when the text was handed over",
)
WENT_ELSEWHERE = reason_kind("went elsewhere", "it had gone already, from a copy of this ledger")
HELD_UP = reason_kind("held up", "this program was held up before the text left; nothing was handed over")
REFUSED = reason_kind("refused", "{says}")
NOT_TAKEN = reason_kind("not taken", "{says}")
AWAY_TOO_LONG = reason_kind("away too long", "the carrier took no texts for too long: {says}")
ALIKE = reason_kind("failed alike", 'rows failed one after the other with "{says}", which may not be their own fault')

_ATTEMPT: dict[type[Outcome], AttemptState] = {
    Accepted: AttemptState.ACCEPTED,
    Refused: AttemptState.REFUSED,
    Unavailable: AttemptState.NOT_TAKEN,
    NoRecord: AttemptState.NO_RECORD,
    Silent: AttemptState.OPEN,
}
"""What is known of an attempt by what the carrier said of it."""


def attempt_state(outcome: Outcome, *, proof: bool) -> AttemptState:
    """What is known of an attempt once the carrier said this of it; `proof` tells whether "no record" is any."""
    if (isinstance(outcome, Unavailable) and outcome.perhaps_taken) or (isinstance(outcome, NoRecord) and not proof):
        return AttemptState.OPEN
    return _ATTEMPT[type(outcome)]


def verdict_of(
    outcome: Outcome | None, proof: bool, unasked: Reason | None, *, forgotten: bool = False
) -> tuple[Mark, Reason | None, bool]:
    """What a row is by the carrier's word of its hand-over: its mark, why, and whether a second try may succeed.

    `forgotten` says that "no record" proves nothing of it, and never will.
    """
    if isinstance(outcome, Accepted):
        return Mark.SENT, None, False
    if isinstance(outcome, Refused):
        return Mark.FAILED, REFUSED(says=outcome.reason, code=outcome.code), outcome.may_retry
    if isinstance(outcome, NoRecord):
        if forgotten:
            return Mark.UNSURE, FORGOTTEN(), False
        return (Mark.FAILED, NO_RECORD(), True) if proof else (Mark.UNSURE, NOT_YET(), False)
    return Mark.UNSURE, (None if outcome else unasked) or CANNOT_SAY(), False
