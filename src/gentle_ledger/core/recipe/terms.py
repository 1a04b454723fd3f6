"""The terms of a line: what a part costs by it, and the longest text that it takes."""

from collections.abc import Mapping
from decimal import Decimal

from pydantic import BaseModel, Field

from gentle_ledger.core.recipe.model import Currency, Region
from gentle_ledger.core.sms.parts import MOST_PARTS


class LineTerms(BaseModel):
    """What a line takes for a part, and how many parts of a text.

    Attributes:
        price_per_part: what one part costs; None where no price is known.
        price_currency: the currency of all prices (ISO 4217).
        prices: what one part costs to numbers of some countries (ISO 3166-1), where that is another price.
        most_parts: how many parts a text may have; more than 255 cannot be joined (3GPP TS 23.040, 9.2.3.24.1).
    """

    price_per_part: Decimal | None = Field(default=None, ge=0)
    price_currency: Currency = "CAD"
    prices: dict[Region, Decimal] = Field(default_factory=dict)
    most_parts: int = Field(default=MOST_PARTS, ge=1, le=MOST_PARTS)

    def cost(self, parts: Mapping[str, int]) -> Decimal | None:
        """What so many parts to numbers of each country cost; None where one of the prices is not known."""
        total = Decimal()
        for region, each in parts.items():
            price = self.prices.get(region, self.price_per_part)
            if price is None and each:
                return None
            total += each * (price or Decimal())
        return total if self.prices or self.price_per_part is not None else None
