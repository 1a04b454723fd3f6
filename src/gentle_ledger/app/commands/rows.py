"""Commands about rows: mended cells, added rows, and rows left out or released."""

from typing import ClassVar

from pydantic import Field
from typing_extensions import override

from gentle_ledger.app.draft import Draft, Plan
from gentle_ledger.app.edit import Command, Gate, LongCommand
from gentle_ledger.app.parts import Behind, Part
from gentle_ledger.app.settings import NotUsable
from gentle_ledger.core.cells.cell import MAX_CELL_CHARACTERS, words_of
from gentle_ledger.core.cells.phones import known_regions
from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.rows import RowNumber, number_of_row, row_of_number
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.release import Release
from gentle_ledger.core.columns.tidy import Action, Batch, mended
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.errors import NotNow, NotThere
from gentle_ledger.store.messages import bearing_rows
from gentle_ledger.store.rounds import open_round


def _mended(typed: str, row: RowNumber, column: str, cells: int) -> str:
    return f"mending {count(cells, 'cell')}" if cells > 1 else f'"{clipped(typed, 20)}" in row {row}, {column}'


def _which(row: RowNumber, rows: int) -> str:
    return f"row {row}" if rows == 1 else count(rows, "row")


MENDED = reason_kind("cells mended", _mended)
ADDED = reason_kind("row added", "adding row {row}")
LEFT_OUT = reason_kind("rows left out", lambda row, rows: f"leaving {_which(row, rows)} out")
TAKEN_BACK = reason_kind("rows taken back", lambda row, rows: f"taking {_which(row, rows)} back")
MOST_REASON = 500
"""Characters of the reason for which a row is let go."""

RELEASED = reason_kind(
    "row released", lambda row, why="": f"sending row {row} all the same{f': {clipped(why)}' if why else ''}"
)
HELD_AGAIN = reason_kind("row held again", "holding row {row} again")


class MendCell(Command):
    """Gives a cell of the sheet another content, blank for none. What stood there stays beside it.

    Where `was` says what the clerk saw there, a cell that has something else by now is not covered.
    """

    gate: ClassVar[Gate] = staticmethod(open_round)

    row: RowNumber = Field(ge=1)
    column: str
    typed: str = Field(max_length=MAX_CELL_CHARACTERS)
    was: str | None = None

    @override
    def apply(self, draft: Draft) -> Reason | None:
        sheet = draft.opened.readings.sheet
        position = sheet.position(self.column)
        if position is None:
            raise NotUsable(f'The sheet has no column "{self.column}".', column=self.column)
        if self.row > draft.found.row_count:
            raise NotThere(f"There is no row {self.row} in this round.", row=self.row)
        typed, stands = self.typed.strip(), words_of(sheet.rows[row_of_number(self.row)][position])
        if typed == stands:
            return None
        if self.was is not None and words_of(self.was) != stands:
            place = Part(f"row {self.row}, {sheet.columns[position]}", stands, typed, self.row, sheet.columns[position])
            said = f"Row {self.row}, {self.column} was changed meanwhile, to “{clipped(stands, 40) or 'nothing'}”."
            raise Behind(said, [place], version=draft.found.version)
        draft.mend({(self.row, position): typed or None})
        return draft.said(MENDED(typed=typed, row=self.row, column=sheet.columns[position], cells=1))


class AddRow(Command):
    """Adds a blank row at the end."""

    @override
    def apply(self, draft: Draft) -> Reason | None:
        return ADDED(row=draft.add_rows())


class KeepRow(Command):
    """Leaves a row out, takes it back, or releases it from checks that may be released.

    Attributes:
        row: the row.
        left_out: whether it is left out.
        released: whether it is let go.
        held: what it is let go from: the keys of the checks, each with what it said of the row.
        reason: why, in the clerk's words.
    """

    gate: ClassVar[Gate] = staticmethod(open_round)

    row: RowNumber
    left_out: bool | None = None
    released: bool | None = None
    held: list[tuple[str, str]] = Field(default_factory=list)
    reason: str | None = Field(default=None, max_length=MOST_REASON)

    @override
    def apply(self, draft: Draft) -> Reason | None:
        what: Reason | None = None
        if self.left_out is not None and draft.found.stage != Stage.PREPARING:
            raise NotNow("Rows are left out before sending starts.", "What is held or not chosen stays back as it is.")
        if self.released is not None:
            bears = self._bears(draft)
            why = " ".join((self.reason or "").split())
            draft.release(bears, Release(self.held, why) if self.released else None)
            if self.released:
                what = draft.said(RELEASED(row=self.row, why=why))
            else:
                what = draft.said(HELD_AGAIN(row=self.row))
        if self.left_out is not None and draft.leave_out([self.row], self.left_out):
            what = (LEFT_OUT if self.left_out else TAKEN_BACK)(row=self.row, rows=1)
        return what

    def _bears(self, draft: Draft) -> RowNumber:
        """The row that bears this one's text: what holds it is found there."""
        if draft.found.stage == Stage.PREPARING:
            return number_of_row(draft.opened.composer.groups.lead(row_of_number(self.row)))
        # Rows that went are in no group any more, and what was combined with them stands by itself.
        return next(iter(bearing_rows(draft.session, draft.found.id, [self.row])), self.row)


class TidyNumbers(LongCommand):
    """Mends all numbers of a batch at once, or leaves their rows out.

    Attributes:
        version: of the round in which the batch was found.
        batch: None where there is no such batch.
        action: what is done.
        country: ISO 3166-1, to read them as numbers of that country.
    """

    version: int
    batch: Batch | None
    action: Action
    country: str = ""

    @override
    def plan(self, draft: Plan) -> Reason | None:
        if self.action is Action.READ_AS and self.country not in known_regions():
            raise NotUsable(f'"{self.country}" is not an ISO 3166-1 country code such as CA.')
        batch, position = self.batch, draft.opened.composer.mobile
        current = draft.found.version == self.version
        if not current or batch is None or position is None or self.action not in batch.actions:
            raise NotThere("There is no such batch of numbers any more.", "Look at the numbers once more.")
        if self.action is Action.LEAVE_OUT:
            rows = draft.leave_out([number_of_row(row) for row in batch.rows], out=True)
            return draft.said(LEFT_OUT(row=number_of_row(batch.rows[0]), rows=len(rows)))
        sheet = draft.opened.readings.sheet
        cells = mended(sheet.values(position), batch.rows, self.action, self.country)
        if not cells:
            raise NotUsable(f"This changes nothing in {count(len(batch.rows), 'number')}.")
        draft.mend({(number_of_row(row), position): typed for row, typed in cells.items()})
        row, typed = next(iter(cells.items()))
        return draft.said(MENDED(typed=typed, row=number_of_row(row), column=sheet.columns[position], cells=len(cells)))
