"""What a text was when it was looked at."""

import hashlib


def fingerprint(number: str, text: str) -> str:
    """Stands for a number (E.164) and the text to it: when either is another, so is this (SHA-256, FIPS 180-4)."""
    digest = hashlib.sha256()
    for piece in (number, text):
        data = piece.encode()
        digest.update(len(data).to_bytes(8, "big") + data)
    return digest.hexdigest()[:32]
