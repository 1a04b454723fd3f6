"""Reading a file that somebody brings in, in a process of its own: whatever is in it, the program goes on."""

import io
import pickle
import signal
import subprocess
import sys
import threading
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from typing import Any, ClassVar

from gentle_ledger.app import reading_process
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.sheets.bring_in import AS_IT_COMES, BroughtIn, Choice, Glance, refuse_by_size
from gentle_ledger.core.sheets.header import Reading
from gentle_ledger.core.sheets.model import MAX_ROWS, Sheet
from gentle_ledger.core.sheets.torn import Commas, Torn

MEMORY = 4 * 1024**3
"""Bytes the reading of one file may take; an estimate of ours of what the largest sheet may need."""
SECONDS = 120
"""Seconds of processor time, and twice as many by the clock."""
_AT_ONCE = threading.BoundedSemaphore(2)
"""Two files are read at a time; a third one waits."""


@dataclass(frozen=True, slots=True)
class Limits:
    """What the process that reads a file may use."""

    memory: int = MEMORY
    seconds: int = SECONDS


@dataclass(frozen=True, slots=True)
class Seen:
    """A file at a glance: `brought` or, where it cannot be brought in as it is, the `trouble`."""

    glance: Glance
    brought: BroughtIn | None
    trouble: SheetError | None


def bring_in_apart(
    data: bytes, file_name: str, choice: Choice = AS_IT_COMES, *, currency: str = "CAD", limits: Limits = Limits()
) -> BroughtIn:
    """`core.sheets.bring_in.bring_in`, in a process of its own. Raises SheetError, also past the limits."""
    answer = _read(data, file_name, choice, currency, None, limits)
    if "refused" in answer:
        raise _refusal(answer["refused"])
    return _brought(answer)


def glance_apart(
    data: bytes,
    file_name: str,
    choice: Choice = AS_IT_COMES,
    *,
    least: int,
    after: int,
    currency: str = "CAD",
    limits: Limits = Limits(),
) -> Seen:
    """The first lines of a file and how it would be read: `least` lines, or `after` more than come before its rows.

    Raises SheetError for a file that cannot be opened at all, and past the limits.
    """
    answer = _read(data, file_name, choice, currency, (least, after), limits)
    if "closed" in answer:
        raise _refusal(answer["closed"])
    names, chosen, lines, characters, torn, unseen = answer["seen"]
    trouble = _refusal(answer["refused"]) if "refused" in answer else None
    return Seen(
        Glance(names, chosen, lines, characters, tuple(Torn(*each) for each in torn), unseen),
        None if trouble else _brought(answer),
        trouble,
    )


def _refusal(said: tuple[str, str, RowNumber | None, str | None]) -> SheetError:
    what, remedy, row, column = said
    return SheetError(what, remedy, row=row, column=column)


def _brought(answer: dict[str, Any]) -> BroughtIn:
    sheet = Sheet(answer["columns"], answer["rows"], frozenset(answer["hidden"]))
    commas = {column: Commas(said) for column, said in answer["commas"].items()}
    return BroughtIn(
        sheet, Reading(*answer["reading"]), answer["worksheets"], answer["worksheet"], commas, answer["unseen"]
    )


def _read(
    data: bytes,
    file_name: str,
    choice: Choice,
    currency: str,
    lines: tuple[int, int] | None,
    limits: Limits,
) -> dict[str, Any]:
    refuse_by_size(data, file_name)
    request = {"data": data, "name": file_name, "currency": currency, "lines": lines, "choice": choice}
    command = [sys.executable, "-I", "-m", reading_process.__name__, str(limits.memory), str(limits.seconds)]
    with _AT_ONCE:
        try:
            done = subprocess.run(
                command,
                input=pickle.dumps(request, protocol=5),
                capture_output=True,
                timeout=2 * limits.seconds,
                check=False,
            )
        except subprocess.TimeoutExpired as fault:
            raise _too_slow(limits) from fault
    if done.returncode == -signal.SIGXCPU:
        raise _too_slow(limits)
    if done.returncode < 0 or done.returncode == reading_process.OUT_OF_MEMORY:
        raise SheetError(
            "The file cannot be read: it wants more memory than any sheet of its size should.",
            "A stray value far below or to the right of the rows does that. Copy the rows into a new workbook and "
            "bring that in.",
        )
    if done.returncode != 0:
        raise SheetError(
            "The file is damaged in a way that the program cannot read.",
            "Open it in the spreadsheet program, save it anew as XLSX or CSV, and bring that in.",
        )
    found: dict[str, Any] = _Cells(io.BytesIO(done.stdout)).load()
    return found


def _too_slow(limits: Limits) -> SheetError:
    return SheetError(
        f"The file was not read within {count(limits.seconds, 'second')}, so reading it was ended.",
        f"A sheet of {MAX_ROWS:,} rows takes less. Copy the rows into a new workbook, or save them as CSV.",
    )


class _Cells(pickle.Unpickler):
    """Takes nothing from the other process but plain values and the three classes that cells are made of."""

    _KNOWN: ClassVar = {(c.__module__, c.__name__): c for c in (Decimal, date, datetime)}

    def find_class(self, module: str, name: str) -> Any:
        if (module, name) not in self._KNOWN:
            raise pickle.UnpicklingError(f"{module}.{name} is no cell")
        return self._KNOWN[module, name]
