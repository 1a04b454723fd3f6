"""A change of a round's rows, readied beside the round, so that the round itself changes at one stroke.

A short change is done at that stroke; for a long one a sheet is written down in pieces before, under a number of its
own, which takes the place of the one there is.
"""

from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from gentle_ledger.app.draft import NewerSheet
from gentle_ledger.app.open_rounds import OpenRound, read_after
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.store.database import Database
from gentle_ledger.store.effects import Effect, SheetEffect, Touched, as_kept
from gentle_ledger.store.models import Round
from gentle_ledger.store.rows import earlier_sheet, replace_sheet, standing_for
from gentle_ledger.store.sheets import PIECE, KeptRows, clear_sheet_if_may_be, laid_copy, laid_sheet, let_go, use_sheet

Seen = tuple[Readings, KeptRows]
"""What is read of a sheet, and which of its rows are kept out or let go."""


@dataclass
class Aside:
    """See the module.

    Attributes:
        effects: what is done.
        back: whether it is taken back.
        newer: the newer version of the sheet, if one takes the place of this one.
        number: the sheet that was written down; None where none had to be.
        seen: what will be seen of the sheet; None where that is read at the stroke.
        touched: what of the sheet it concerns.
        done_with: the sheet that nothing goes by any more.
        of_round: the effects that write no rows.
        kept: the effects as the journal keeps them; None where that is written out at the stroke.
    """

    effects: Sequence[Effect]
    back: bool = False
    newer: NewerSheet | None = None
    number: int | None = None
    seen: Seen | None = None
    touched: Touched = field(default_factory=Touched)
    done_with: int | None = None
    of_round: Sequence[Effect] = ()
    kept: str | None = None

    def take(self, session: Session, found: Round) -> list[Effect]:
        """Does it, for a round that is as it was when this was readied; gives all the effects that this had."""
        effects = list(self.effects)
        if self.newer is not None and self.number is not None:
            newer = self.newer
            kept = replace_sheet(session, found, newer.sheet, self.number, newer.file_name, newer.reading)
            self.touched.whole = True
            effects.insert(0, SheetEffect(kept))
        elif self.number is not None:
            use_sheet(session, self.number, found.id)
            let_go(session, found.sheet_id)
            self.done_with, found.sheet_id = found.sheet_id, self.number
            if self.seen is not None:
                found.row_count = len(self.seen[0].sheet.rows)
        for effect in self.effects if self.number is None else self.of_round:
            effect.apply(session, found, self.touched, back=self.back)
        return effects


@contextmanager
def laid_aside(
    database: Database,
    before: OpenRound,
    effects: Sequence[Effect],
    *,
    newer: NewerSheet | None = None,
    back: bool = False,
) -> Iterator[Aside]:
    """Readies effects, in their order, for a round as it is `before`. What is not taken is cleared away in the end."""
    aside = Aside(effects, back, newer, of_round=[effect for effect in effects if not effect.rows_written])
    with ExitStack() as stack:
        if newer is not None:
            aside.number = stack.enter_context(laid_sheet(database, newer.sheet, newer.kept, newer.originals))
            aside.seen = before.readings.anew(newer.sheet), newer.kept
        elif sum(effect.rows_written for effect in effects) > PIECE:
            aside.number = stack.enter_context(laid_copy(database, before.sheet_id))
            _write(database, before, aside)
        elif earlier := next((effect for effect in effects if isinstance(effect, SheetEffect)), None):
            with database.reading() as session:
                standing = earlier_sheet(session, earlier.kept)
                aside.seen = read_after(session, standing, before, Touched(whole=True))
        yield aside
    if aside.done_with is not None:
        clear_sheet_if_may_be(database, aside.done_with)


def _write(database: Database, before: OpenRound, aside: Aside) -> None:
    """Writes what becomes of the rows into the copy of the sheet, piece by piece."""
    sheet = before.readings.sheet
    standing = standing_for(before.round_id, aside.number or 0, sheet.columns, len(sheet.rows))
    for effect in aside.effects:
        pieces = effect.pieces() if effect.rows_written else ()
        for piece in reversed(pieces) if aside.back else pieces:
            with database.writing(piece=True) as session:
                piece.apply(session, standing, aside.touched, back=aside.back)
    with database.reading() as session:
        aside.seen = read_after(session, standing, before, aside.touched)
    aside.kept = None if aside.back else as_kept(aside.effects)
