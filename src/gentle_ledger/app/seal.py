"""A fingerprint of what would be sent, so that nothing else is."""

import hashlib
from collections.abc import Iterable

from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.frozen import FrozenRow


def seal_of(computed: Computed) -> str:
    """Of exactly what would be sent: every ready row's number and text, in order (SHA-256, FIPS 180-4)."""
    return _seal((row, computed.numbers[row].e164, computed.texts[row]) for row in computed.ready)


def seal_of_frozen(rows: Iterable[FrozenRow]) -> str:
    """The same of the rows as they would be written down."""
    return _seal((frozen.row, frozen.number, frozen.text) for frozen in rows if frozen.goes)


def _seal(texts: Iterable[tuple[int, str, str]]) -> str:
    digest = hashlib.sha256()
    for row, number, text in texts:
        for piece in (str(row), number, text):
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()
