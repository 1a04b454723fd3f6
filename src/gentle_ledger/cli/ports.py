"""Whether a port is free, said before anything starts, and the address of the program at one."""

import socket

from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.web.settings import Settings

_PORTS_TRIED = 50


class PortTaken(LedgerError):
    """Something else listens where the program should."""


def refuse_taken(port: int) -> None:
    """A port that something else listens on is said in a sentence. Raises PortTaken."""
    if not _is_free(port):
        raise PortTaken(f"Port {port} is in use by another program.", "End it, or choose another port.")


def free_from(port: int, *taken: int) -> int:
    """That port, or the next one that nothing listens on. Raises PortTaken when none of the next ones is free."""
    free = (p for p in range(port, port + _PORTS_TRIED) if p < 65_536 and p not in taken and _is_free(p))
    found = next(free, None)
    if found is None:
        raise PortTaken(f"Port {port} and the next {_PORTS_TRIED} are in use.", "Choose another one.")
    return found


def address_of(settings: Settings) -> str:
    """Where the program is reached, without a code."""
    host = f"[{settings.host}]" if ":" in settings.host else settings.host
    return f"http://{host}:{settings.port}"


def _is_free(port: int) -> bool:
    with socket.socket() as attempt:
        attempt.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            attempt.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True
