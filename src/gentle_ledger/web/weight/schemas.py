"""What the browser gets about the weight of a round's texts."""

from pydantic import BaseModel, Field


class SizeOut(BaseModel):
    """How many texts take so many parts."""

    parts: int
    texts: int


class CostlyOut(BaseModel):
    """A special character that something plain could stand for."""

    character: str
    name: str
    plain: str = Field(description="What could stand for it; blank where it could be left away.")
    letter: bool
    texts: int
    parts_less: int
    columns: list[str]
    in_wording: bool


class WeightOut(BaseModel):
    """What the ready texts take."""

    version: int
    sizes: list[SizeOut]
    one_less: int = Field(description="How many would take a part fewer with one character less.")
    signs_less: int = Field(description="Parts fewer with every sign and space replaced.")
    costly: list[CostlyOut]
