"""Errors of the program itself, told without a word that may quote a cell: what kind they are, and where they arose."""

import traceback

_MOST = 20
"""Errors of a chain that are told."""


class JobFailed(Exception):
    """A counting process failed at a job. It says where in that process, and nothing of what it was working on."""


def told_discreetly(fault: BaseException, may_speak: tuple[type[BaseException], ...] = ()) -> str:
    """An error and those behind it, the first one first: the places each came through, a line each, and its class.

    Only what an error of `may_speak` says is told with it.
    """
    chain: list[str] = []
    of: BaseException | None = fault
    while of is not None and len(chain) < _MOST:
        places = "".join(
            f"  {frame.filename}:{frame.lineno} in {frame.name}\n" for frame in traceback.extract_tb(of.__traceback__)
        )
        says = f": {of}" if isinstance(of, may_speak) else ""
        chain.append(f"{places}{type(of).__module__}.{type(of).__qualname__}{says}")
        of = of.__cause__ or (None if of.__suppress_context__ else of.__context__)
    return "\n".join(reversed(chain))
