"""The key of a ledger: a secret that lies beside it, for its owner alone. Who has it is let in."""

import logging
import os
import secrets
import stat
from pathlib import Path

from gentle_ledger.core.cells.errors import LedgerError

log = logging.getLogger(__name__)

_LEAST = 40
"""Characters of a key that can be trusted; ours have 43, of 256 random bits."""
_OTHERS = stat.S_IRWXG | stat.S_IRWXO


class NoKey(LedgerError):
    """The key of a ledger is not there, or may not be read."""

    kind = "no key"
    status = 401


def key_file(ledger: Path) -> Path:
    """Where the key of a ledger lies."""
    return Path(f"{ledger}.key")


def read_key(ledger: Path) -> str:
    """The key of a ledger, for a program that asks at the server. Raises NoKey."""
    try:
        return key_file(ledger).read_text("ascii").strip()
    except FileNotFoundError as fault:
        raise NoKey(
            f'There is no key beside "{ledger}": it was never served.', "Start it with gentle-ledger serve."
        ) from fault
    except (OSError, ValueError) as fault:
        raise NoKey(
            f'The key beside "{ledger}" cannot be read.', "It is for the user who starts the program."
        ) from fault


def key_to_serve(ledger: Path) -> str:
    """The key of a ledger that is to be served; made the first time.

    One that others could have read, or that is no key, is replaced, so that nobody is let in by it any more.
    Raises OSError.
    """
    path = key_file(ledger)
    if (kept := _trusted(path)) is not None:
        return kept
    if path.is_symlink() or path.exists():
        log.warning(
            "The key in %s could be read by others, or is none. A new one was made: who was let in is out.", path
        )
        path.unlink()
    made = path.with_name(f"{path.name}.{secrets.token_hex(4)}")
    handle = os.open(made, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(handle, "w") as file:
            file.write(secrets.token_urlsafe(32) + "\n")
        # Of two servers that start at once the first one's key is the key of both.
        os.link(made, path)
    except FileExistsError:
        pass
    finally:
        made.unlink()
    return read_key(ledger)


def _trusted(path: Path) -> str | None:
    """The key in a file that nobody else could read or write; None where there is no such one."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NOFOLLOW)
    except OSError:
        return None
    with os.fdopen(handle) as file:
        found = os.fstat(handle)
        ours = stat.S_ISREG(found.st_mode) and found.st_uid == os.getuid() and not found.st_mode & _OTHERS
        key = file.read(1_000).strip() if ours else ""
    return key if len(key) >= _LEAST and key.isascii() else None
