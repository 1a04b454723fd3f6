"""Other ledgers of this machine that send by the same number, and copies of this one: each would keep its own pace."""

import contextlib
import hashlib
import json
import os
from pathlib import Path

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.store.processes import Seen, seen
from gentle_ledger.store.witness import cannot_witness

ALSO_SENDS = reason_kind(
    "another ledger sends",
    'Another ledger on this machine, "{path}", sends by {line} as well. Each keeps gap, hours and cap for itself, so '
    "that texts may leave faster than either says",
)


class CopySends(LedgerError):
    """A copy of this very ledger is being sent from, in another place of this machine."""

    kind = "copy sends"
    status = 409


def claim_line(state: Path, line: str, identity: str, path: Path, process: str) -> list[str]:
    """Says that a process sends from a ledger by a number, and finds who else does so from another ledger.

    Args:
        state: the user's state folder of the program.
        line: the sending name or number.
        identity: that of the ledger.
        path: where it lies.
        process: the name of the process.

    Returns the paths of the other ledgers. Raises CopySends where a copy of this one is being sent from, and NoWitness
    where nothing can be written there.
    """
    folder = state / "lines" / hashlib.sha256(line.encode()).hexdigest()[:16]
    mine, here = folder / identity, str(path.resolve())
    other = _read(mine)
    if other and other[1] != here and other[0] != process and seen(other[0]) in {Seen.RUNS, Seen.STOPPED}:
        raise CopySends(
            f'A copy of this ledger is being sent from in "{other[1]}", so nothing is sent from here.',
            "End the program that uses it; of the two only one may go on.",
        )
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        made = Path(f"{mine}.{os.getpid()}")
        made.write_text(json.dumps([process, here]), "utf-8")
        made.replace(mine)
    except OSError as fault:
        raise cannot_witness(mine, fault) from fault
    found = [claim for each in folder.iterdir() if each != mine and (claim := _read(each))]
    return sorted(where for who, where in found if where != here and seen(who) in {Seen.RUNS, Seen.STOPPED})


def _read(path: Path) -> tuple[str, str] | None:
    with contextlib.suppress(OSError, ValueError):
        process, where = json.loads(path.read_text("utf-8"))
        return str(process), str(where)
    return None
