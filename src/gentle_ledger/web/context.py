"""What every route shares: the store, the sender, the desks at hand, the settings and the clock."""

from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from typing import Annotated

from fastapi import Depends, Request

from gentle_ledger.core.formats import money
from gentle_ledger.core.recipe import Recipe
from gentle_ledger.sending.bell import Bell
from gentle_ledger.sending.clock import Clock
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.database import Database
from gentle_ledger.web.desks import Desks
from gentle_ledger.web.settings import Settings


@dataclass
class Context:
    settings: Settings
    database: Database
    sender: Sender
    bell: Bell
    clock: Clock
    desks: Desks = field(default_factory=Desks)

    def now(self) -> datetime:
        return self.clock.now().astimezone()

    def cost(self, parts: int, recipe: Recipe) -> str | None:
        """What that many parts cost, ready to read; None when no price is set."""
        price = self.settings.price_per_part
        return None if price is None else money(Decimal(parts) * price, recipe.currency, recipe.locale)

    def changed(self) -> None:
        """Wakes the sender and tells the listeners, after something was written."""
        self.sender.woken.set()
        self.bell.ring()


def _context(request: Request) -> Context:
    found: Context = request.app.state.context
    return found


Here = Annotated[Context, Depends(_context)]
