"""A fingerprint of all that a confirmation said, so that what starts is what was read, and nothing else."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from typing import Any

from sqlalchemy.orm import Session

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.cells.words import listed
from gentle_ledger.core.pace.decide import RowState
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.frozen import FrozenRow
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.models import LineRecord, Message, Round
from gentle_ledger.store.put_back import doubted_rows
from gentle_ledger.store.statements import statements_of
from gentle_ledger.store.turns import state_of

_SAID = {
    "texts": "the rows, numbers or texts",
    "turns": "the order or the moments of the rows",
    "gap": "the gap or the rests",
    "hours": "the hours",
    "cap": "the cap",
    "beginning": "the beginning",
    "pace": "the rest of the pace",
    "line": "the line",
    "price": "the price",
    "past": "what is known to have gone already",
}
"""What of a confirmation each piece of a seal stands for, in words."""
_OF_PACE = {
    **dict.fromkeys(("every", "give_or_take", "after", "rest"), "gap"),
    "hours": "hours",
    "per_day": "cap",
    "start": "beginning",
}
_SHORT = 24
"""Hexadecimal digits of each piece: 96 bits."""


def seal_of(computed: Computed, rows: Iterable[int]) -> str:
    """Of exactly what would be sent: number and text of each of these rows (from 0), in order (SHA-256, FIPS 180-4)."""
    return _seal((row, computed.numbers[row].e164, computed.texts[row]) for row in rows)


def seal_of_frozen(rows: Iterable[FrozenRow]) -> str:
    """The same of rows as they would be written down."""
    return _seal((frozen.row, frozen.number, frozen.text) for frozen in rows)


def seal_of_locked(texts: Iterable[Message]) -> str:
    """The same of texts that were locked when sending began."""
    return _seal((text.row, text.address, text.text) for text in texts)


def _seal(texts: Iterable[tuple[int, str, str]]) -> str:
    digest = hashlib.sha256()
    for row, number, text in texts:
        for piece in (str(row), number, text):
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()


def seal_of_turns(turns: Iterable[tuple[int, int, RowState]]) -> str:
    """Of the order in which texts leave, and of what each waits for: place, row and state."""
    digest = hashlib.sha256()
    for _, row, state in sorted(turns, key=lambda turn: turn[:2]):
        digest.update(f"{row} {' '.join(state.zones)} {state.moment!r}\n".encode())
    return digest.hexdigest()


def turns_of_frozen(rows: Iterable[FrozenRow]) -> str:
    """The same of rows as they would be written down."""
    return seal_of_turns(
        (-1 if frozen.place is None else frozen.place, frozen.row, RowState(frozen.zones, frozen.moment))
        for frozen in rows
    )


def turns_of_locked(texts: Iterable[Message]) -> str:
    """The same of texts that were locked when sending began."""
    return seal_of_turns((text.place, text.row, state_of(text)) for text in texts)


def whole_seal(texts: str, turns: str, recipe: Recipe, line: LineRecord | None, office: str, past: int = 0) -> str:
    """All that a confirmation says: of which texts, in which order, at which pace, by which line, at which price.

    Args:
        texts, turns: their own seals.
        recipe: the set-up of the round, which has its pace.
        line: the line that it is to go by.
        office: the zone (IANA) where the office is, by whose clocks hours and days are told.
        past: how many of the texts are known to have been handed over from a later state of the ledger.
    """
    pieces: dict[str, Any] = {"texts": texts, "turns": turns, "past": past}
    for name, value in recipe.pace.model_dump(mode="json").items():
        pieces.setdefault(_OF_PACE.get(name, "pace"), {})[name] = value
    for told_by_the_office in ("hours", "cap", "beginning"):
        pieces[told_by_the_office]["office"] = office
    settings: Mapping[str, Any] = json.loads(line.settings) if line else {}
    pieces["line"] = [line.identity, line.name] if line else []
    pieces["price"] = [settings.get(name) for name in ("price_per_part", "price_currency", "prices", "most_parts")]
    return ".".join(f"{name}-{_short(pieces[name])}" for name in _SAID)


def _short(piece: object) -> str:
    return hashlib.sha256(json.dumps(piece, sort_keys=True).encode()).hexdigest()[:_SHORT]


def what_differs(seal: str, now: str) -> str:
    """What is another than it was when a seal was made, in words; "" where nothing is."""
    before = set(seal.split("."))
    differing = [piece.partition("-")[0] for piece in now.split(".") if piece not in before]
    if "texts" in differing:
        # Of other rows the order is another as well, which goes without saying.
        differing = [name for name in differing if name != "turns"]
    if len(differing) >= len(_SAID) - 1 or (not differing and seal != now):
        return "what was confirmed"
    return listed([_SAID[name] for name in differing])


def refuse_changed(seal: str, now: str) -> None:
    """Raises NotNow, with what it is, where anything is another than it was confirmed."""
    if differs := what_differs(seal, now):
        raise NotNow(
            f"Since it was confirmed, {differs} changed, so nothing was sent.",
            "Look at it once more and send.",
        )


def past_rows(session: Session, found: Round, rows: Iterable[RowNumber]) -> int:
    """How many of a round's rows (from 1) are known to have been handed over from a later state of the ledger."""
    doubted = doubted_rows(statements_of(session), found.uid)
    return sum(row in doubted for row in rows) if doubted else 0
