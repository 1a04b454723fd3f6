"""Processes by a name that no other one ever has: which machine, since when it runs, which process, and its start."""

import contextlib
import functools
import hashlib
import itertools
import os
import signal
import socket
import subprocess
import time
import uuid
from collections.abc import Iterator
from enum import StrEnum
from pathlib import Path
from typing import NamedTuple

_PROC = Path("/proc")
_MACHINE_ID = (Path("/etc/machine-id"), Path("/var/lib/dbus/machine-id"))
_LOOK_EVERY = 0.02


class Seen(StrEnum):
    """What can be seen of a process from here."""

    RUNS = "runs"
    STOPPED = "stopped"
    GONE = "gone"
    ELSEWHERE = "elsewhere"


@functools.cache
def this_machine() -> str:
    """Stands for this machine, over restarts of it (SHA-256 of its id, which machine-id(5) wants to be kept secret)."""
    for path in _MACHINE_ID:
        with contextlib.suppress(OSError):
            if found := path.read_text("ascii", "ignore").strip():
                return _hashed(found)
    return _hashed(f"{socket.gethostname()} {uuid.getnode()}")


def _hashed(value: str) -> str:
    return hashlib.sha256(f"gentle-ledger {value}".encode()).hexdigest()[:32]


@functools.cache
def _place() -> str:
    """Where processes can be seen from here: this machine, since it was started, and the same space of numbers."""
    boot, space = "", ""
    with contextlib.suppress(OSError):
        boot = (_PROC / "sys/kernel/random/boot_id").read_text().strip()
    with contextlib.suppress(OSError):
        space = str((_PROC / "self/ns/pid").readlink())
    return _hashed(f"{socket.gethostname()} {this_machine()} {boot} {space}")


_serial = itertools.count()


def this_process() -> str:
    """A name for this process, another one each time: whoever asks for one is told from all others in it too."""
    return f"{_place()}/{os.getpid()}/{_start_of(os.getpid())}/{next(_serial)}"


def process_id(name: str) -> int | None:
    """The number of a process that runs where it can be seen from here; None for any other."""
    place, _, rest = name.partition("/")
    number = rest.partition("/")[0]
    return int(number) if place == _place() and number.isdecimal() else None


def seen(name: str) -> Seen:
    """What can be seen of a process by its name. One that ended and that nobody asked about is gone (proc(5), Z)."""
    if not name:
        return Seen.GONE
    number = process_id(name)
    if number is None:
        return Seen.ELSEWHERE
    if _start_of(number) != name.split("/")[2]:
        return Seen.GONE
    return {"Z": Seen.GONE, "X": Seen.GONE, "T": Seen.STOPPED, "t": Seen.STOPPED}.get(_state_of(number), Seen.RUNS)


def end_surely(name: str, seconds: float = 5.0) -> bool:
    """Ends a process (SIGKILL) and waits until it is gone; False where it may still run, or cannot be seen from here.

    It is told by its number and its start, so that another one that got the number since is left alone.
    """
    number = process_id(name)
    if number is None or number == os.getpid():
        return False
    until = time.monotonic() + seconds
    while seen(name) is not Seen.GONE:
        try:
            os.kill(number, signal.SIGKILL)
        except ProcessLookupError:
            return True
        except PermissionError:
            return False
        if time.monotonic() >= until:
            return False
        time.sleep(_LOOK_EVERY)
    return True


def tell_to_end(name: str) -> bool:
    """Tells a process to end when it can (SIGTERM); False where there is none to be told."""
    number = process_id(name)
    if number in {None, os.getpid()} or seen(name) is Seen.GONE:
        return False
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.kill(number, signal.SIGTERM)
        return True
    return False


def is_ours(number: int) -> bool:
    """Whether a process is one of this program, as far as the system says what it is."""
    with contextlib.suppress(OSError):
        command = (_PROC / str(number) / "cmdline").read_bytes()
        return b"gentle_ledger" in command or b"gentle-ledger" in command
    return not (_PROC / "self").exists()


class Holder(NamedTuple):
    """Who keeps a file locked: the number of the process, its name, and whether it is one of this program."""

    number: int
    name: str
    ours: bool


_FOR_WRITING = 120
"""The byte of a write-ahead log's index that who writes has locked (SQLite, WAL-mode File Format, 2.3.1)."""


def who_locks(path: Path) -> int | None:
    """The process that holds a file's lock for itself alone (flock(2)), as far as the system tells (proc(5), locks)."""
    return next((holder for holder, _, _ in _locks_of(path, "FLOCK")), None)


def who_writes(ledger: Path) -> Holder | None:
    """Who holds the lock for writing to an SQLite file with a write-ahead log, as far as the system tells."""
    index = Path(f"{ledger}-shm")
    number = next((holder for holder, first, last in _locks_of(index, "POSIX") if first <= _FOR_WRITING <= last), None)
    if number is None:
        return None
    name = ""
    with contextlib.suppress(OSError):
        name = (_PROC / str(number) / "comm").read_text("utf-8", "replace").strip()
    return Holder(number, name, number == os.getpid() or is_ours(number))


def _locks_of(path: Path, kind: str) -> Iterator[tuple[int, int, float]]:
    """The locks of a kind that keep others from writing to a file: by which process, and from which byte to which."""
    with contextlib.suppress(OSError):
        number = path.stat().st_ino
        for line in (_PROC / "locks").read_text().splitlines():
            # 1: FLOCK  ADVISORY  WRITE 712 00:1c:9321 0 EOF
            fields = line.split()
            if fields[1:4] == [kind, "ADVISORY", "WRITE"] and fields[5].endswith(f":{number}") and int(fields[4]) > 0:
                yield int(fields[4]), int(fields[6]), float("inf") if fields[7] == "EOF" else int(fields[7])


def was_left_behind(name: str) -> bool:
    """Whether whoever started a process of this program is gone, as far as the system says who that was."""
    number = process_id(name)
    fields = _stat_of(number) if number else []
    return bool(fields) and not is_ours(int(fields[1]))


def _stat_of(number: int) -> list[str]:
    """The fields of a process behind its name (proc(5), stat), or none."""
    with contextlib.suppress(OSError):
        return (_PROC / str(number) / "stat").read_text("utf-8", "replace").rpartition(")")[2].split()
    return []


def _state_of(number: int) -> str:
    fields = _stat_of(number)
    return fields[0] if fields else "R"


def _start_of(number: int) -> str:
    """When a process was started, in the system's own words; "" where there is none."""
    if (_PROC / "self/stat").exists():
        fields = _stat_of(number)
        return fields[19] if len(fields) > 19 else ""
    asked = ["ps", "-o", "lstart=", "-p", str(number)]
    with contextlib.suppress(OSError):
        return "-".join(subprocess.run(asked, capture_output=True, text=True, check=False).stdout.split())
    return ""
