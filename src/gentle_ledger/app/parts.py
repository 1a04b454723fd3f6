"""What a change made another, place by place: to be shown, and to tell whether two windows wrote in the same place."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from gentle_ledger.app.differences import differences
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.store.deeds import Deed
from gentle_ledger.store.effects import CellsEffect, Effect, FlagEffect, RecipeEffect, ReleaseEffect, SheetEffect
from gentle_ledger.store.journal import others_since
from gentle_ledger.store.models import Round

_MOST_SHOWN = 50
_FLAGS = {"left_out": "left out", "released": "sent all the same"}


@dataclass(frozen=True, slots=True)
class Part:
    """One place: where, what stood there before and after, and its row and column where it is a cell."""

    where: str
    before: str
    after: str
    row: RowNumber | None = None
    column: str | None = None


def parts_of(effect: Effect, names: Sequence[str]) -> Iterator[Part]:
    """The places of an effect; `names` are the columns of the sheet as it is now."""
    if isinstance(effect, CellsEffect):
        for number, at, before, after in effect.cells:
            column = names[at] if at < len(names) else f"column {at + 1}"
            yield Part(f"row {number}, {column}", as_written(before), as_written(after), number, column)
    elif isinstance(effect, RecipeEffect):
        yield from (Part(*found) for found in differences(effect.before, effect.after))
    elif isinstance(effect, FlagEffect):
        said = ("no", "yes") if effect.after else ("yes", "no")
        for number in effect.rows:
            yield Part(f"row {number}, {_FLAGS.get(effect.name, effect.name)}", *said)
    elif isinstance(effect, ReleaseEffect):
        said = ("yes" if effect.before else "no", "yes" if effect.after else "no")
        yield Part(f"row {effect.number}, {_FLAGS['released']}", *said)


class Behind(LedgerError):
    """Another window wrote something else in the same place meanwhile; neither takes the other's by itself."""

    kind = "behind"
    status = 409

    def __init__(self, what: str, places: Sequence[Part] = (), **more: Any) -> None:
        super().__init__(what, "Choose which of the two is to stand.")
        shown = [
            {"where": part.where, "theirs": part.before, "mine": part.after, "row": part.row, "column": part.column}
            for part in places[:_MOST_SHOWN]
        ]
        self.more = {"places": shown, "further": max(0, len(places) - _MOST_SHOWN), **more}


def refuse_behind(session: Session, found: Round, effects: Sequence[Effect], names: Sequence[str], deed: Deed) -> None:
    """Raises Behind where an effect is in a place that another window changed since this one had seen the round.

    In a sheet that was replaced meanwhile each row may be another one; a round that is older than what was seen here
    was put back, and all of it may be otherwise.
    """
    if deed.seen is None:
        return
    mine = [part for effect in effects for part in parts_of(effect, names)]
    if deed.seen > found.version:
        raise Behind("This round is older than what was seen here: a copy was put back.", mine, version=found.version)
    others = others_since(session, found, deed)
    if not others or not mine:
        return
    touched = {part.where for effect in others for part in parts_of(effect, names)}
    replaced = any(isinstance(effect, SheetEffect) for effect in others)
    both = [part for part in mine if part.where in touched or (replaced and part.where.startswith("row "))]
    if not both:
        return
    if replaced:
        what = "The sheet was replaced meanwhile, so this may be a cell of somebody else."
    else:
        what = f"Another window changed {both[0].where if len(both) == 1 else f'{len(both)} places'} meanwhile."
    raise Behind(what, both, version=found.version)
