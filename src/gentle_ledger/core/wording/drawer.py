"""Wordings kept for other rounds: those that ship, the fields that one needs, and the columns that they may mean."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gentle_ledger.core.cells.cell import column_key
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.formulas.starting_points import Slot, fitting
from gentle_ledger.core.wording.parse import parse_wording


@dataclass(frozen=True, slots=True)
class Shipped:
    """A wording that ships with the program."""

    key: str
    name: str
    text: str


SHIPPED = (
    Shipped(
        "first reminder",
        "First reminder",
        "Hello {First name}, a friendly reminder: {Amount} for berth {Berth} was due on {Due date}. If "
        "you have paid since, thank you, and please disregard this. Saltmarsh Quay office",
    ),
    Shipped(
        "second reminder",
        "Second reminder",
        "Hello {First name}, {Amount} for berth {Berth} is still open; it was due on {Due date}. Please "
        "pay this week, or call us if something is in the way. Saltmarsh Quay office",
    ),
    Shipped(
        "final reminder",
        "Final reminder",
        "Hello {First name}, despite two reminders {Amount} for berth {Berth}, due on {Due date}, has not"
        " reached us. Please call the office so that we can settle it together. Saltmarsh Quay office",
    ),
    Shipped(
        "receipt",
        "Receipt",
        "Thank you, {First name}: we received {Amount} for berth {Berth}. Nothing more is open. Saltmarsh Quay office",
    ),
    Shipped(
        "instalment",
        "Instalment",
        "Hello {First name}, your next instalment of {Amount} for berth {Berth} is due on {Due date}. "
        "Saltmarsh Quay office",
    ),
    Shipped(
        "due date changed",
        "Change of a due date",
        "Hello {First name}, as agreed, your {Amount} for berth {Berth} is now due on {Due date}. "
        "Saltmarsh Quay office",
    ),
    Shipped(
        "lift-out",
        "Arrangements for a lift-out",
        "Hello {First name}, {Boat} is down for lift-out on {Day}. Please have her at the slip by high "
        "water, mast ready and sails off. If the day does not suit you, call us. Saltmarsh Quay office",
    ),
)
"""Courteous and plain, each within two parts with values of usual length."""


_USUAL = {
    column_key(slot.name): slot
    for slot in (
        Slot("First name", Role.NAME, "first given forename name"),
        Slot("Amount", Role.MONEY, "due balance amount total charge open owed"),
        Slot("Due date", Role.DATE, "due payable deadline until date"),
        Slot("Day", Role.DATE, "lift day date on"),
        Slot("Berth", None, "berth mooring slip"),
        Slot("Boat", None, "boat vessel yacht"),
    )
}
"""What the fields of wordings are usually called besides their own names."""


def fields_needed(text: str) -> list[str]:
    """The fields of a wording, each once in their order."""
    found: dict[str, str] = {}
    for field in parse_wording(text).fields:
        found.setdefault(column_key(field.name), field.name)
    return list(found.values())


def column_for(field: str, names: Sequence[str], roles: Sequence[Role]) -> str | None:
    """The column that a field may mean: that of its name, or one that is usually called so. It is only proposed."""
    own = next((name for name in names if column_key(name) == column_key(field)), None)
    slot = _USUAL.get(column_key(field))
    return own if own is not None or slot is None else fitting(slot, names, roles)


def with_columns(text: str, columns: Mapping[str, str]) -> str:
    """A wording in which fields are other columns, by their names in any case; a field that is not named stays."""
    by_key = {column_key(field): column for field, column in columns.items()}
    for field in sorted(parse_wording(text).fields, key=lambda field: -field.start):
        column = by_key.get(column_key(field.name))
        if column is not None:
            text = f"{text[: field.start]}{{{column}}}{text[field.end :]}"
    return text
