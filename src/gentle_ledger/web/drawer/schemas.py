"""What the browser gets and sends about the drawer."""

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.recipe.part import MOST_CHARACTERS


class NeededField(BaseModel):
    """A field that a wording needs, and the column of the round that may be meant by it."""

    name: str
    there: bool = Field(description="Whether the round has a column of just that name.")
    column: str | None


class DrawerWording(BaseModel):
    """A wording in the drawer, as a round sees it."""

    key: str = Field(description="What it is asked for by.")
    number: int | None = Field(description="Its number where it was kept here; null for one that ships.")
    name: str
    text: str
    needs: list[NeededField]


class KeepWordingIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=100)
    text: str = Field(min_length=1, max_length=MOST_CHARACTERS)


class RenameIn(BaseModel):
    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=100)


class KeptOut(BaseModel):
    number: int
    name: str


class TakeIn(BaseModel):
    """A wording that is taken out for a round."""

    model_config = ConfigDict(extra="forbid")

    key: str
    of: str | None = Field(default=None, description="The wording whose place it takes; null for all the rest.")
    columns: dict[str, str] = Field(default_factory=dict, description="The column that each field is to be.")
