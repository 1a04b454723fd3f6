"""One wording bound to a sheet's columns: what it makes of a row."""

from collections.abc import Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.evaluation import Column, Evaluation, Shown
from gentle_ledger.core.wording.parse import Field, Wording, WordingProblem, parse_wording, unknown_fields
from gentle_ledger.core.wording.seams import closed_up


@dataclass(frozen=True, slots=True)
class Gap:
    """A field that a row cannot fill: its cell is blank, or `why` it cannot be read or, if `computed`, worked out."""

    column: str
    why: Reason | None = None
    computed: bool = False


@dataclass(frozen=True, slots=True)
class Run:
    """A stretch of a text: `column` is where it came from, None for the wording's own words.

    `gap` marks a place that could not be filled, by this row or by any; its text is then the field's name, never part
    of what is sent.
    """

    text: str
    column: str | None = None
    gap: bool = False


class BoundWording:
    """A wording with the columns that its fields are.

    Attributes:
        name: what the clerk calls it; None for the one for all the rest.
        wording: taken apart.
        problems: why it cannot be used; none of its texts is made then.
        used: the columns that it uses, by position.
        fallbacks: what fills their blanks, by position.
    """

    def __init__(self, name: str | None, text: str, evaluation: Evaluation) -> None:
        columns = evaluation.columns
        self.name = name
        self.wording: Wording = parse_wording(text)
        self.problems: tuple[WordingProblem, ...] = (
            *self.wording.problems,
            *unknown_fields(self.wording, columns.names),
        )
        self.used: dict[int, Column] = {}
        self.fallbacks: dict[int, str | None] = {}
        self._evaluation = evaluation
        self._pieces: list[str | int | Field] = []
        for piece in self.wording.pieces:
            position = columns.position(piece.name) if isinstance(piece, Field) else None
            if position is None:
                self._pieces.append(piece)
                continue
            self._pieces.append(position)
            self.used[position] = evaluation.column(position)
            self.fallbacks[position] = columns.fallback(position)

    def _value(self, position: int, place: int) -> Shown:
        shown, fallback = self.used[position].shown[place], self.fallbacks[position]
        # A formula that comes to no text is no gap, yet what was set for a blank stands in for it as well.
        return fallback if shown is None or (shown == "" and fallback) else shown

    def gaps(self, place: int) -> tuple[Gap, ...]:
        """The fields that the row at a place cannot fill."""
        found: tuple[Gap, ...] = ()
        columns = self._evaluation.columns
        for position in self.used:
            value = self._value(position, place)
            if not isinstance(value, str):
                why = value.reason if isinstance(value, Unreadable) else None
                found += (Gap(columns.names[position], why, position >= columns.first_computed),)
        return found

    def text(self, place: int) -> str:
        """The finished text, or "" when a field cannot be filled: a text with a hole in it must not exist."""
        parts: list[str] = []
        for piece in self._pieces:
            if isinstance(piece, str):
                parts.append(piece)
                continue
            value = None if isinstance(piece, Field) else self._value(piece, place)
            if not isinstance(value, str):
                return ""
            parts.append(value)
        return "".join(parts if all(parts) else closed_up(parts))

    def texts(self, rows: Sequence[int]) -> list[str]:
        """The texts of some rows that are not combined, in their order: `text` of each, made column by column."""
        if any(isinstance(piece, Field) for piece in self._pieces):
            return [""] * len(rows)
        if not self.used:
            return [self.text(0)] * len(rows) if rows else []
        finished = {position: self._evaluation.finished(position) for position in self.used}
        places = [piece for piece in self._pieces if isinstance(piece, int)]
        pattern = "".join(piece.replace("%", "%%") if isinstance(piece, str) else "%s" for piece in self._pieces)
        columns = [finished[place].texts for place in places]
        if len(rows) < self._evaluation.groups.rows:
            columns = [[column[row] for row in rows] for column in columns]
        found = [pattern % values for values in zip(*columns, strict=True)]
        anew = {row for each in finished.values() for row in (*each.holes, *each.nothing)}
        if anew:
            for at, row in enumerate(rows):
                if row in anew:
                    found[at] = self.text(row)
        return found

    def runs(self, place: int) -> list[Run]:
        """The text stretch by stretch, gaps included; without gaps, joined it is `text`."""
        found: list[Run] = []
        names = self._evaluation.columns.names
        for piece in self._pieces:
            if isinstance(piece, str):
                found.append(Run(piece))
                continue
            if isinstance(piece, Field):
                found.append(Run(piece.name, gap=True))
                continue
            value = self._value(piece, place)
            found.append(Run(value, names[piece]) if isinstance(value, str) else Run(names[piece], names[piece], True))
        if all(run.text for run in found):
            return found
        texts = closed_up([run.text for run in found])
        return [Run(text, run.column, run.gap) for text, run in zip(texts, found, strict=True)]
