"""What becomes of an answer whose round was changed while it was being made."""

import functools
from collections.abc import Callable
from typing import ParamSpec, TypeVar

from gentle_ledger.core.cells.errors import LedgerError

P = ParamSpec("P")
T = TypeVar("T")


class Superseded(LedgerError):
    """A round was changed while it was being counted: the answer would be out of date.

    The client asks again by itself. An answer that waited here for the newest state would keep a thread for as long as
    somebody types.
    """

    kind = "superseded"
    status = 409

    def __init__(self) -> None:
        super().__init__("The round was changed while it was being computed.", "Look at it once more.")


def from_the_newest(endpoint: Callable[P, T]) -> Callable[P, T]:
    """For what is pressed once: begins the answer anew when the round was changed while it was being made."""

    @functools.wraps(endpoint)
    def until_current(*args: P.args, **more: P.kwargs) -> T:
        while True:
            try:
                return endpoint(*args, **more)
            except Superseded:
                continue

    return until_current
