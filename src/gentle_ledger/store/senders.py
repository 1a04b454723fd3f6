"""The sender as others see it: which process it is, whether it is there, and what hinders it."""

import os
import socket
from pathlib import Path

from filelock import FileLock, Timeout
from sqlalchemy.orm import Session

from gentle_ledger.store.models import SenderRecord


def this_process() -> str:
    """A name for this process, among those that use one ledger."""
    return f"{socket.gethostname()}/{os.getpid()}"


def sender_lock(path: Path) -> FileLock:
    """The lock that the one sender of a ledger holds; it is the operating system's, and ends with the process."""
    return FileLock(f"{path}.sender", thread_local=False, mode=0o600)


def somebody_sends(path: Path) -> bool:
    """Whether any process holds the sender's lock of a ledger. It is held for an instant to find out."""
    look = sender_lock(path)
    try:
        look.acquire(timeout=0)
    except Timeout:
        return True
    look.release()
    return False


def process_id(record: SenderRecord | None) -> int | None:
    """The number of the process that a record names, where it runs on this machine."""
    host, _, number = (record.process if record else "").rpartition("/")
    return int(number) if host == socket.gethostname() and number.isdecimal() else None


def say_present(session: Session, process: str, trouble: str, settings: str = "") -> None:
    """The sender says which process it is, by which settings it sends, and what hinders it, if anything."""
    found = session.get(SenderRecord, 1)
    if found is None:
        found = SenderRecord(id=1)
        session.add(found)
    found.process, found.trouble, found.settings = process, trouble, settings


def last_sender(session: Session) -> SenderRecord | None:
    """The process that last began to send; whether it still does is told by the lock."""
    return session.get(SenderRecord, 1)
