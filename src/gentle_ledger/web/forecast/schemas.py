"""What the browser gets about when texts leave. All moments are by the clocks of the office, ready to read."""

from datetime import date

from pydantic import BaseModel, Field

from gentle_ledger.core.cells.rows import RowNumber


class DayAhead(BaseModel):
    """One civil day of a round; a stroke stands at a minute of the day, for as many texts as the forecast says."""

    day: date
    said: str
    note: str = Field(description="What is special about it, such as that it is the first day of the number.")
    planned: int
    gone: int
    strokes_planned: list[float]
    strokes_gone: list[float]


class LeavingOut(BaseModel):
    """When the first and the last of some texts leave by the pace.

    `begins` and `last` are null where nothing leaves; `begins` is blank for at once.
    """

    texts: int
    begins: str | None
    last: str | None
    lasting: str
    scheduled: bool = Field(description="Whether the round begins later, at a moment that was set.")
    office: str = Field(description="The place whose clocks these moments are by, such as Halifax.")
    held_up_by: str = Field(description="What holds the round up most, as part of a sentence; blank for nothing.")
    doubts: list[str] = Field(description="What of the pace cannot be kept, a sentence each.")


class ForecastOut(LeavingOut):
    """The same day by day."""

    texts_a_stroke: int
    from_hour: int
    to_hour: int
    days: list[DayAhead]
    more_days: int = Field(description="How many further days are not among them.")


class HolidayPlace(BaseModel):
    """A place with public holidays, by its ISO 3166 code."""

    code: str
    name: str


class RowAhead(BaseModel):
    """When one row's text leaves; `when` is blank where it never does."""

    row: RowNumber
    label: str
    when: str
    why: str = Field(description="What keeps it from leaving sooner, as part of a sentence; blank for nothing.")
