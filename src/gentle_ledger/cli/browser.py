"""Opening the program in a browser, which is let in by a file for the user alone.

No command line has the code, which other users of the machine can read, and no history: the page that it leads to takes
the file's place there.
"""

import html
import os
import socket
import sys
import threading
import time
import webbrowser
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from gentle_ledger.cli.ports import address_of
from gentle_ledger.web.keyring import CODE_LASTS
from gentle_ledger.web.settings import Settings
from gentle_ledger.web.way_in.router import address_with

_LOOK_EVERY = 0.1
_PATIENCE = 60.0

_PAGE = """<!doctype html>
<meta charset="utf-8">
<title>Gentle Ledger</title>
<script>location.replace("{address}")</script>
<p>Gentle Ledger is being opened.
"""


@contextmanager
def opened_in_browser(settings: Settings, new_code: Callable[[], str]) -> Iterator[None]:
    """Has the user's browser open the program as soon as it answers; what led there is cleared away."""
    over = threading.Event()
    page = settings.state / f"open-{settings.port}.html"

    def open_it() -> None:
        until = time.monotonic() + _PATIENCE
        while not _answers(settings):
            if over.wait(_LOOK_EVERY) or time.monotonic() > until:
                return
        try:
            write_page(page, address_with(address_of(settings), new_code()))
            found = webbrowser.open(page.absolute().as_uri())
        except (OSError, webbrowser.Error):
            found = False
        if not found:
            print("No browser could be opened. Open the address above.", file=sys.stderr, flush=True)
        over.wait(CODE_LASTS)

    thread = threading.Thread(target=open_it, name="browser", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join()
        with suppress(OSError):
            page.unlink(missing_ok=True)


def write_page(page: Path, address: str) -> None:
    """Writes the file that leads to an address, for its owner alone. Raises OSError."""
    page.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    page.unlink(missing_ok=True)
    with os.fdopen(os.open(page, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
        file.write(_PAGE.format(address=html.escape(address)))


def _answers(settings: Settings) -> bool:
    with suppress(OSError), socket.create_connection((settings.host, settings.port), timeout=1.0):
        return True
    return False
