"""References: the same one for the same text of the same row, and never the same for another text."""

import hashlib
import hmac
from collections.abc import Sequence

_LENGTH = 32
"""Hexadecimal digits, 128 bits: more than any carrier's own ids have, and short enough for all of their fields."""


def reference_of_text(secret: str, round_uid: str, row: int, number: str, text: str, begun: int) -> str:
    """The reference of a row's text, as 32 hexadecimal digits.

    A ledger that is put back as it was comes to the same references again, so that its carrier can be asked about what
    it does not remember itself; without the secret nobody can guess one.

    Args:
        secret: the ledger's own.
        round_uid: the random id that the round got when it was made.
        row: its number, from 1.
        number: E.164, as it was frozen.
        text: as it was frozen.
        begun: how many other references were begun for it before.
    """
    return _digest(secret, "text", (round_uid, str(row), number, text, str(begun)))


def reference_of_trial(secret: str, trial: int, asked_at: str, number: str, text: str) -> str:
    """The same of a trial: by its number, and by the moment at which it was asked for, which no other one has."""
    return _digest(secret, "trial", (str(trial), asked_at, number, text))


def _digest(secret: str, kind: str, pieces: Sequence[str]) -> str:
    """HMAC with SHA-256 (RFC 2104, FIPS 180-4) over pieces, each behind its length, so that none runs into another."""
    made = hmac.new(bytes.fromhex(secret), digestmod=hashlib.sha256)
    for piece in (kind, *pieces):
        data = piece.encode()
        made.update(len(data).to_bytes(8, "big") + data)
    return made.hexdigest()[:_LENGTH]
