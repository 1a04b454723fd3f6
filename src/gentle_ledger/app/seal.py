"""A fingerprint of what would be sent, so that nothing else is."""

import hashlib

from gentle_ledger.core.rounds.compute import Computed


def seal_of(computed: Computed) -> str:
    """Of exactly what would be sent: every ready row's number and text, in order (SHA-256, FIPS 180-4)."""
    digest = hashlib.sha256()
    for row in computed.ready:
        for piece in (str(row), computed.numbers[row].e164, computed.texts[row]):
            data = piece.encode()
            digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()
