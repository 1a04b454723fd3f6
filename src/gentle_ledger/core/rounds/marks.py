"""Where a row stands once sending starts, and which steps between marks there are."""

from enum import StrEnum

from gentle_ledger.core.cells.reasons import reason_kind


class PlanMark(StrEnum):
    """Where a row stands before sending starts."""

    READY = "Ready"
    HELD = "Held"
    LEFT_OUT = "Left out"

    def once_started(self, *, chosen: bool) -> "Mark":
        """The mark that such a row has once sending starts; a ready one that was not chosen waits as it is."""
        if self is PlanMark.READY:
            return Mark.TO_GO if chosen else Mark.READY
        return Mark.HELD if self is PlanMark.HELD else Mark.LEFT_OUT


class Mark(StrEnum):
    """A row's mark in a round that was started.

    Held and Left out are carried over from before; Ready is the mark of a row that was not among those chosen to go.
    """

    READY = "Ready"
    HELD = "Held"
    LEFT_OUT = "Left out"
    TO_GO = "To go"
    GOING = "Going"
    SENT = "Sent"
    FAILED = "Failed"
    UNSURE = "Unsure"


ALLOWED: frozenset[tuple[Mark, Mark]] = frozenset(
    {
        (Mark.TO_GO, Mark.GOING),
        (Mark.GOING, Mark.SENT),
        (Mark.GOING, Mark.FAILED),
        (Mark.GOING, Mark.UNSURE),
        # What hindered it concerns the carrier and not the row: the row keeps its turn.
        (Mark.GOING, Mark.TO_GO),
        # The carrier was asked again and could tell.
        (Mark.UNSURE, Mark.SENT),
        (Mark.UNSURE, Mark.FAILED),
        # Before a second try the carrier is asked about the first: it had gone after all.
        (Mark.TO_GO, Mark.SENT),
        # The round is stopped while nobody can say what became of a first try.
        (Mark.TO_GO, Mark.UNSURE),
        # A person tries the failed ones again.
        (Mark.FAILED, Mark.TO_GO),
        # A person stops the round, and may take it up again.
        (Mark.TO_GO, Mark.LEFT_OUT),
        (Mark.LEFT_OUT, Mark.TO_GO),
        # A person sends what was not chosen at first; or its number asked for no more texts meanwhile.
        (Mark.READY, Mark.TO_GO),
        (Mark.READY, Mark.LEFT_OUT),
        # A copy of the ledger was put back, and since it was made the text was handed over.
        (Mark.READY, Mark.UNSURE),
        (Mark.LEFT_OUT, Mark.UNSURE),
        (Mark.FAILED, Mark.UNSURE),
        # The row is mended after sending began: until it is looked at anew it is not sent.
        (Mark.READY, Mark.HELD),
        (Mark.LEFT_OUT, Mark.HELD),
        (Mark.TO_GO, Mark.HELD),
        (Mark.FAILED, Mark.HELD),
        # It was looked at anew.
        (Mark.HELD, Mark.READY),
        (Mark.HELD, Mark.LEFT_OUT),
    }
)
"""Every step there is. Nothing leads out of Sent, nothing from Unsure back to To go or to Held.

A row that is To go again after a hand-over keeps its reference: it is asked about first, and goes under the same one.
"""

STOPPED = reason_kind("stopped before turn", "the round was stopped before its turn")
"""The reason of a row that Stop left out."""
KEPT_BACK = reason_kind("kept back", "not among those chosen to go, and left out by hand")
"""The reason of a row that was not chosen and then left out."""
MISSED = reason_kind("moment missed", "its own moment was over by more than {late}")
"""The reason of a row that could not leave in time. Just these three kinds of Left out can be taken up again."""
MISSED_OPEN = reason_kind(
    "moment missed while open", "its own moment was over while nobody could say what became of a first try"
)
FIRST_TRY_OPEN = reason_kind(
    "stopped while open", "the round was stopped while nobody could say what became of a first try"
)
SAID_SENT = reason_kind("said to have gone", "said by hand to have gone: {why}")
SAID_NOT_SENT = reason_kind("said not to have gone", "said by hand not to have gone: {why}")
MENDED = reason_kind("mended since", "mended since sending began, and not looked at anew yet")
"""The reason of a held row that was mended: its text is still the one before."""
WAITS = reason_kind("mended and ready", "mended since sending began; it goes once you confirm it")
"""The reason of a row that was mended, and is ready by now."""
BEFORE = reason_kind("text before", "until then the text was: {text} (to {number})")
SAME_HERE = reason_kind("same in this round", "the same text to the same number in this round, with row {row}")
"""The reason of a row that is held because its text went, or is to go, to that number with another row."""
TO_BE_TRIED = reason_kind("to be tried again", "to be tried again")
TAKEN_UP = reason_kind("taken up again", "taken up again")
CHOSEN = reason_kind("chosen to go", "chosen to go")
