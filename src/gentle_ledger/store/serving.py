"""Whether the interface of a ledger is served, for a sender that was started with it and outlives its restart."""

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_LEFT = b"ended"


def _sign(path: Path) -> Path:
    return Path(f"{path}.serving")


@contextmanager
def serving(path: Path, address: str) -> Iterator[None]:
    """Says that the interface of a ledger is served, and where, for as long as this lasts; several may at once.

    The lock is the operating system's, and ends with the process. What is written in the file tells a server that was
    ended by somebody from one that died.
    """
    handle = os.open(_sign(path), os.O_RDWR | os.O_CREAT, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_SH)
        _write(handle, address.encode())
        yield
        _write(handle, _LEFT)
    finally:
        os.close(handle)


def _write(handle: int, said: bytes) -> None:
    os.ftruncate(handle, 0)
    os.pwrite(handle, said, 0)


def served_at(path: Path) -> str | None:
    """Where the interface of a ledger is served, as the server that began last says; None where none is."""
    said = _sign(path).read_text("utf-8", "replace") if is_served(path) else ""
    return said if said.startswith("http://") else None


def is_served(path: Path) -> bool:
    """Whether any process serves the interface of a ledger."""
    try:
        handle = os.open(_sign(path), os.O_RDWR)
    except FileNotFoundError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    finally:
        os.close(handle)
    return False


def was_ended(path: Path) -> bool:
    """Whether the last process that served it was told to end, and did not die."""
    try:
        return _sign(path).read_bytes() == _LEFT
    except FileNotFoundError:
        return False
