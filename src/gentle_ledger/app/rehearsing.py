"""What the interface asks of whoever runs rehearsals; it does not know who that is."""

from collections.abc import Sequence
from typing import Protocol

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.core.rounds.rehearsed import Rehearsed


class Rehearsals(Protocol):
    """Runs one rehearsal at a time; the last one can be looked at until the next begins."""

    def begin(self, round_id: int, recipe: Recipe, rows: Sequence[FrozenRow], seal: str) -> None:
        """Begins a rehearsal of a round. Raises NotNow while one is running."""
        ...

    def stop(self, round_id: int) -> None:
        """Stops the rehearsal of a round, if it is running."""
        ...

    def look(self, round_id: int) -> Rehearsed | None:
        """The rehearsal of a round, as it stands; None where the last one was another round's."""
        ...

    def close(self) -> None:
        """Ends whatever is running."""
        ...
