"""What never changes while the program runs."""

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks import Level
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.format import FormatKind


class RoleOut(BaseModel):
    role: Role
    doc: str


class FormatOut(BaseModel):
    """A way of writing values; `doc` says what may stand behind its word."""

    kind: FormatKind
    doc: str


class AggregateOut(BaseModel):
    """What a combined row may have in a column."""

    aggregate: Aggregate
    doc: str


class ExampleOut(BaseModel):
    """A formula and what it comes to, written as a formula, too."""

    formula: str
    value: str


class FunctionOut(BaseModel):
    """A function of the formula language, as the help has it."""

    name: str
    topic: str
    shape: str
    doc: str
    examples: list[ExampleOut]


class CheckOut(BaseModel):
    """A check: the words on its tag, what its finding does to a row, what it looks for, and what to do about it."""

    key: str
    label: str
    level: Level
    doc: str
    do: str
    fixed: bool = Field(description="Whether no round may set another level for it.")


class NamedCode(BaseModel):
    """A code and what it is called."""

    code: str
    name: str


class PlacesOut(BaseModel):
    """Countries (ISO 3166-1), currencies (ISO 4217) and ways of writing (BCP 47), by name."""

    region: list[NamedCode]
    currency: list[NamedCode]
    locale: list[NamedCode]


class Catalogue(BaseModel):
    """What never changes while the program runs, from its registries."""

    roles: list[RoleOut]
    formats: list[FormatOut]
    aggregates: list[AggregateOut]
    checks: list[CheckOut]
    functions: list[FunctionOut]
    places: PlacesOut
    endings: list[str] = Field(description="The endings of the files that can be brought in.")
