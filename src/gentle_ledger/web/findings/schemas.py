"""What the browser sends about findings."""

from pydantic import BaseModel, ConfigDict, Field

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.checks.model import Mend


class MendFinding(BaseModel):
    """What is to be done about the rows of a finding, or one of them."""

    model_config = ConfigDict(extra="forbid")

    check: str = Field(max_length=60)
    mend: Mend
    row: RowNumber | None = Field(default=None, ge=1, description="The one row; null for all of them.")
    version: int = Field(description="That of the round as it was shown.")
