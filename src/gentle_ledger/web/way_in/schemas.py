from pydantic import BaseModel, Field


class CodeIn(BaseModel):
    """The code of an address that was printed."""

    code: str = Field(max_length=200)


class LetIn(BaseModel):
    """The browser was let in: each request carries the value in the header Gentle-Ledger-Value."""

    value: str


class AddressOut(BaseModel):
    """An address by which one browser is let in; good once, and for so many seconds."""

    address: str
    seconds: float
