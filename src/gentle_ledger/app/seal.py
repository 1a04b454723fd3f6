"""A fingerprint of what would be sent, so that nothing else is."""

import hashlib
from collections.abc import Iterable

from gentle_ledger.core.rounds.frozen import FrozenRow


def seal_of(rows: Iterable[FrozenRow]) -> str:
    """Of exactly what would be sent: every ready row's number and text, in order (SHA-256, FIPS 180-4)."""
    digest = hashlib.sha256()
    for frozen in rows:
        for piece in (str(frozen.row), frozen.number, frozen.text) if frozen.goes else ():
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()
