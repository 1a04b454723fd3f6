"""A fingerprint of what would be sent, so that nothing else is."""

import hashlib
from collections.abc import Iterable

from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.frozen import FrozenRow


def seal_of(computed: Computed, rows: Iterable[int]) -> str:
    """Of exactly what would be sent: number and text of each of these rows (from 0), in order (SHA-256, FIPS 180-4)."""
    return _seal((row, computed.numbers[row].e164, computed.texts[row]) for row in rows)


def seal_of_frozen(rows: Iterable[FrozenRow]) -> str:
    """The same of rows as they would be written down."""
    return _seal((frozen.row, frozen.number, frozen.text) for frozen in rows)


def _seal(texts: Iterable[tuple[int, str, str]]) -> str:
    digest = hashlib.sha256()
    for row, number, text in texts:
        for piece in (str(row), number, text):
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()
