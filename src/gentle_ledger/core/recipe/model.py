"""A round's set-up as one model, to and from TOML."""

from collections.abc import Iterable
from datetime import date
from decimal import Decimal
from enum import StrEnum
from typing import Annotated, Any

from pydantic import (
    AfterValidator,
    BeforeValidator,
    Field,
    field_validator,
    model_validator,
)

from gentle_ledger.core.cells.cell import as_written, column_key
from gentle_ledger.core.cells.locales import known_currency, known_locale
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.phones import known_regions
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped
from gentle_ledger.core.recipe.combine import Aggregate
from gentle_ledger.core.recipe.format import format_from
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.recipe.part import RecipePart
from gentle_ledger.core.sheets.header import LeftOut
from gentle_ledger.core.sheets.torn import Commas


def _region(value: str) -> str:
    if value not in known_regions():
        raise ValueError(f'"{clipped(value)}" is not an ISO 3166-1 country code such as CA')
    return value


def _currency(value: str) -> str:
    if not known_currency(value):
        raise ValueError(f'"{clipped(value)}" is not an ISO 4217 currency code such as CAD')
    return value


def _locale(value: str) -> str:
    if not known_locale(value):
        raise ValueError(f'"{clipped(value)}" is not a locale CLDR knows, such as en-CA')
    return value


Region = Annotated[str, AfterValidator(_region)]
Currency = Annotated[str, AfterValidator(_currency)]
LocaleTag = Annotated[str, AfterValidator(_locale)]


def _format(value: str) -> str:
    return str(format_from(value))


def _entry(value: Any) -> Any:
    """A number, a day or true and false, as TOML has them, as the text they are typed as."""
    if isinstance(value, (Decimal, int, date)):
        return as_written(Decimal(value) if isinstance(value, int) and not isinstance(value, bool) else value)
    return value


def _one_line_end(value: str) -> str:
    return value.replace("\r\n", "\n").replace("\r", "\n")


Wording = Annotated[str, AfterValidator(_one_line_end)]
FormatText = Annotated[str, AfterValidator(_format)]
Lookup = Annotated[dict[str, Annotated[str, BeforeValidator(_entry)]], Field(max_length=1_000)]


class ColumnSettings(RecipePart):
    """What the clerk set for one column.

    Attributes:
        role: when the recognised one is wrong.
        reading: how its days or its decimal marks are to be taken, where the column itself leaves doubt.
        format: how its values are written, such as "money" or "date long"; see `core.recipe.format`.
        fallback: what fills its blanks.
        formula: makes it a computed column; a formula over the row's other columns.
        template: makes it a computed column as well; an RFC 6570 URI Template over the row's other columns.
    """

    role: Role | None = None
    reading: Order | None = None
    format: FormatText | None = None
    fallback: str | None = None
    formula: str | None = None
    template: str | None = None

    @property
    def computed(self) -> bool:
        """Whether the column is computed."""
        return self.formula is not None or self.template is not None

    @model_validator(mode="after")
    def _one_source(self) -> "ColumnSettings":
        if self.formula is not None and self.template is not None:
            raise ValueError("a column has a formula or a template, not both")
        if self.template is not None and self.role not in {None, Role.LINK}:
            raise ValueError(f"a column with a template is a link, not a {self.role}")
        return self


class LeaveOutRule(RecipePart):
    """Rows for which the formula `when` is true are left out, with the `reason`."""

    when: str
    reason: str = Field(min_length=1, max_length=200)


REST = "main wording"
"""What the plain wording is called beside those that have a condition; none of them may take its name."""


class ConditionalWording(RecipePart):
    """A wording for the rows for which the formula `when` is true, unless an earlier one is theirs."""

    name: str = Field(min_length=1, max_length=100)
    when: str
    text: Wording = ""

    @field_validator("name")
    @classmethod
    def _one_line(cls, value: str) -> str:
        name = " ".join(value.split())
        if not name:
            raise ValueError("a wording needs a name")
        if column_key(name) == column_key(REST):
            raise ValueError(f'"{REST}" is what the wording for all other rows is called: give this one another name')
        return name


def place_of(recipe: "Recipe", wording: str) -> int:
    """The place of the wording of that name, in any case; that of the one for all the rest where there is none."""
    keys = [column_key(each.name) for each in recipe.wordings]
    key = column_key(wording)
    return keys.index(key) if key in keys else len(keys)


class CheckLevel(StrEnum):
    """What the findings of a check do to their rows, as set for a round."""

    HOLDS = "holds"
    LOOK = "look"
    OFF = "off"


class CombineSettings(RecipePart):
    """Rows with the same cell in the column `by` become one text; `columns` says what becomes of the others."""

    by: str
    columns: dict[str, Aggregate] = Field(default_factory=dict)

    def how(self, column: str) -> Aggregate | None:
        """What becomes of a column, by its name in any case; None when the rows have to agree."""
        key = column_key(column)
        return next((how for name, how in self.columns.items() if column_key(name) == key), None)

    def renamed(self, column: str, name: str) -> "CombineSettings":
        """The same where a column has another name."""
        key = column_key(column)
        columns = {name if column_key(n) == key else n: how for n, how in self.columns.items()}
        return CombineSettings(by=name if column_key(self.by) == key else self.by, columns=columns)


def _refuse_twice(what: str, names: Iterable[str]) -> None:
    seen: dict[str, str] = {}
    for name in names:
        if (other := seen.setdefault(column_key(name), name)) != name:
            raise ValueError(f'"{clipped(other)}" and "{clipped(name)}" are the same {what}: keep one of them')


class BelongTogether(RecipePart):
    """Rows of which it was said that they belong together, though their names are of different people.

    `key` is what they are combined by: their number (E.164), or their cell. It is asked again once another name comes.
    """

    key: str = Field(min_length=1, max_length=1_000)
    names: tuple[str, ...] = Field(max_length=1_000)


class FileAnswers(RecipePart):
    """What was said of a file, or was seen of it; good for the next one that is made in the same way.

    Attributes:
        worksheet: which worksheet of several is read.
        characters: how the characters of a text file are read.
        left_out: what else than rows was seen in it, and left out.
        commas: what the commas of a text file are, by the column whose cells they may part.
    """

    worksheet: str = ""
    characters: str = ""
    left_out: tuple[LeftOut, ...] = ()
    commas: dict[str, Commas] = Field(default_factory=dict, max_length=500)


FORM = 1
"""The version of the form a recipe has; see `recipe.kept` for how earlier ones become this one."""


class Recipe(RecipePart):
    """All that makes a round besides its rows.

    `form` is the version of the form it is written in.

    `sender` is the name of who writes, as it should stand in every text; "" where nobody has said.

    Rows that a workbook does not show are left out, unless `leave_out_hidden` says otherwise.

    `wordings` are tried in order; `wording` is for all the rows that none of them is for. `checks` has the levels that
    were set for this round, by the keys of the checks.

    `repeat_days` are those within which the same text, or one about the same reference, is looked for in other rounds;
    `lately_days` those within which any text to the same number is.

    `sent_columns` has the answer to whether a column says which rows were sent; one without an answer is asked about.

    `countries` are those (ISO 3166-1), besides the round's own, whose numbers were said to be right.

    `belong_together` has the rows that are combined though their names differ; see `BelongTogether`.

    `file` has what was said of the file that the sheet came from; see `FileAnswers`.
    """

    form: int = Field(default=FORM, ge=FORM, le=FORM)
    title: str = Field(default="Untitled round", min_length=1, max_length=200)
    as_of: date | None = None
    region: Region = "CA"
    currency: Currency = "CAD"
    locale: LocaleTag = "en-CA"
    wordings: tuple[ConditionalWording, ...] = Field(default=(), max_length=20)
    wording: Wording = ""
    pace: PaceSettings = PaceSettings()
    sender: str = Field(default="", max_length=100)
    plain_signs: bool = True
    leave_out_hidden: bool = True
    repeat_days: int = Field(default=30, ge=0, le=3_650)
    lately_days: int = Field(default=7, ge=0, le=3_650)
    checks: dict[str, CheckLevel] = Field(default_factory=dict, max_length=200)
    countries: tuple[Region, ...] = Field(default=(), max_length=250)
    sent_columns: dict[str, bool] = Field(default_factory=dict, max_length=500)
    file: FileAnswers = FileAnswers()
    columns: dict[str, ColumnSettings] = Field(default_factory=dict, max_length=500)
    leave_out: tuple[LeaveOutRule, ...] = Field(default=(), max_length=50)
    combine: CombineSettings | None = None
    belong_together: tuple[BelongTogether, ...] = Field(default=(), max_length=5_000)
    lookups: dict[str, Lookup] = Field(default_factory=dict, max_length=50)

    @model_validator(mode="after")
    def _one_spelling(self) -> "Recipe":
        """Names and keys match in any case, so two that differ by it alone would be one and the same."""
        _refuse_twice("column", self.columns)
        _refuse_twice("table", self.lookups)
        names = [wording.name for wording in self.wordings]
        if len(set(map(column_key, names))) < len(names):
            raise ValueError("two wordings have the same name: give one of them another")
        for name, table in self.lookups.items():
            _refuse_twice(f'key of the table "{clipped(name)}"', table)
        return self

    def setting(self, column: str) -> ColumnSettings:
        """The settings of a column, by its name in any case; empty ones when nothing was set."""
        key = column_key(column)
        return next((s for name, s in self.columns.items() if column_key(name) == key), ColumnSettings())

    def sent_answer(self, column: str) -> bool | None:
        """Whether that column says which rows were sent; None when nobody has said."""
        key = column_key(column)
        return next((answer for name, answer in self.sent_columns.items() if column_key(name) == key), None)

    def with_column(self, column: str, settings: ColumnSettings) -> "Recipe":
        """A recipe with one column set anew, in its place; settings that say nothing are dropped."""
        key = column_key(column)
        columns = {name: settings if column_key(name) == key else s for name, s in self.columns.items()}
        if all(column_key(name) != key for name in columns):
            columns[column] = settings
        kept = {name: s for name, s in columns.items() if s != ColumnSettings()}
        return self.model_copy(update={"columns": kept})
