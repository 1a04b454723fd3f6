"""Where the fields of a text stand and which columns they are, for whoever draws them."""

from dataclasses import dataclass

from gentle_ledger.core.cells.fields import Where, fields_between
from gentle_ledger.core.columns.column_set import ColumnSet
from gentle_ledger.core.columns.links import names_in


@dataclass(frozen=True, slots=True)
class Span:
    """A field from `start` up to `end`, in code points.

    Attributes:
        column: the column that it is, by its own name; None where it is none, or several as in a link.
        computed: whether that column is a computed one.
        known: whether every name in it is a column's.
    """

    start: int
    end: int
    column: str | None
    computed: bool
    known: bool


def spans_in(text: str, where: Where, columns: ColumnSet) -> list[Span]:
    """The fields of a wording, a formula or a link's template, also where it cannot be used yet."""
    found = []
    for inside, start, end in fields_between(text, where):
        position = columns.position(inside)
        names = [name for name, _, _ in names_in(text[start:end])] if where is Where.LINK else [inside]
        known = position is not None or all(columns.position(name) is not None for name in names)
        column = None if position is None else columns.names[position]
        computed = position is not None and position >= columns.first_computed
        found.append(Span(start, end, column, computed, known))
    return found
