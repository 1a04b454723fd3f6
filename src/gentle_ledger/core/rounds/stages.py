"""Where a round stands, and which steps between stages there are."""

from enum import StrEnum


class Stage(StrEnum):
    """Where a round stands."""

    PREPARING = "preparing"
    SENDING = "sending"
    PAUSED = "paused"
    STOPPED = "stopped"
    FINISHED = "finished"


STEPS: frozenset[tuple[Stage, Stage]] = frozenset(
    {
        (Stage.PREPARING, Stage.SENDING),
        (Stage.SENDING, Stage.PAUSED),
        (Stage.SENDING, Stage.STOPPED),
        (Stage.SENDING, Stage.FINISHED),
        (Stage.PAUSED, Stage.SENDING),
        (Stage.PAUSED, Stage.STOPPED),
        # What failed is tried again, or what was stopped is taken up again.
        (Stage.STOPPED, Stage.SENDING),
        (Stage.FINISHED, Stage.SENDING),
        # As long as nothing went, and no text is frozen any more.
        (Stage.SENDING, Stage.PREPARING),
        (Stage.PAUSED, Stage.PREPARING),
    }
)
"""Every step there is. Nothing leads back to preparing once a text went: what was frozen stays so."""
