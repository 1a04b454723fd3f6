"""Serving the program: over the ledger of an office, for who has its key, and over the demo's, for everybody here."""

import gc
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Callable
from contextlib import nullcontext
from decimal import Decimal
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import urlsplit

import uvicorn
from typing_extensions import override

from gentle_ledger.cli.browser import opened_in_browser
from gentle_ledger.cli.ports import address_of, free_from, refuse_taken
from gentle_ledger.cli.program import Program, assemble
from gentle_ledger.cli.sending import SenderWatch
from gentle_ledger.cli.upkeep import clearing, copying
from gentle_ledger.core.cells.errors import LedgerError
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.demo.seed import seed
from gentle_ledger.store.key import key_file
from gentle_ledger.store.serving import serving
from gentle_ledger.web.settings import PREFIX, Settings, read_settings
from gentle_ledger.web.way_in.router import address_with

_ENDS_WITHIN = 3.0
"""Seconds that senders have after a SIGTERM, besides the two in which open pages are let go."""


class NotForTheDemo(LedgerError):
    """What the demo, which nobody needs a key for, is not to be used with."""


def serve(port: int | None, *, send: bool, open_it: bool) -> None:
    """Serves the ledger of the settings until it is told to end. `open_it` has a browser opened, and let in."""
    settings = read_settings(**({} if port is None else {"port": port}))
    refuse_taken(settings.port)
    base = address_of(settings)

    def said(program: Program) -> str:
        keyring = program.keyring
        way_in = address_with(base, keyring.new_code()) if keyring else base
        return (
            f"Gentle Ledger is open at {base}\n"
            f"To let a browser in, open within a minute: {way_in}\n"
            "For another such address later: gentle-ledger address"
        )

    run_program(settings, said, send=send, keyed=True, open_it=open_it)


def demo(data: Path, port: int | None, carrier_port: int | None) -> None:
    """Serves made-up data over the stand-in carrier, both on this machine, until it is told to end."""
    wanted = port or read_settings().port
    port = free_from(wanted)
    carrier_port = free_from(carrier_port or wanted + 1, port)
    data.mkdir(mode=0o700, parents=True, exist_ok=True)
    carrier_data = data / "carrier.sqlite3"
    settings = read_settings(
        data=data / "ledger.sqlite3",
        port=port,
        carrier_url=f"http://127.0.0.1:{carrier_port}/messaging/v1",
        carrier_timeout=4.0,
        price_per_part=Decimal("0.04"),
        **_demo_zone(),
    )
    refuse_real(settings)
    seed(settings, carrier_data)
    elsewhere = f"Port {wanted} is in use by another program: this is the next free one.\n" if port != wanted else ""
    command = [sys.executable, "-m", "gentle_ledger.cli", "carrier"]
    command += ["--port", str(carrier_port), "--data", str(carrier_data), "--with-parent"]
    carrier = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL)
    said = (
        f"\nGentle Ledger is open at       http://127.0.0.1:{port}\n"
        f"The stand-in carrier's page is http://127.0.0.1:{carrier_port}\n"
        f"{elsewhere}"
        f"The demo's data is in {data}.\n"
        "Nothing leaves this machine. Ctrl+C ends all of it.\n"
    )
    try:
        run_program(settings, lambda _: said, bound=True)
    finally:
        carrier.terminate()
        carrier.wait(10)


def refuse_real(settings: Settings) -> None:
    """Raises NotForTheDemo where the ledger has a key, as one of an office has, or its line leaves this machine."""
    if key_file(settings.data).exists():
        raise NotForTheDemo(
            f'"{settings.data}" is the ledger of an office: it has a key, and the demo needs none.',
            "Choose another folder with --data, or open it with gentle-ledger serve.",
        )
    host = urlsplit(settings.carrier_url).hostname or ""
    try:
        here = host == "localhost" or ip_address(host).is_loopback
    except ValueError:
        here = False
    if not here:
        raise NotForTheDemo("The demo sends to stand-ins on this machine alone.", "Use gentle-ledger serve.")


def run_program(
    settings: Settings,
    said: Callable[[Program], str],
    *,
    send: bool = True,
    bound: bool = False,
    keyed: bool = False,
    open_it: bool = False,
) -> None:
    """Serves until it is told to end; what `said` gives is printed once everything is in its place.

    The senders end with this process where it is told to end: what they have in hand is settled before, or asked about
    at the next start. One that dies leaves them, and what is going goes on; `bound` has them end in any case.
    """
    # A keystroke's answer crosses between threads some twenty times; at Python's own 5 ms a turn it would wait 100 ms
    # whenever all rows are being counted beside it.
    sys.setswitchinterval(0.0005)
    program = assemble(settings, keyed=keyed)
    _settle_memory(settings)
    watch = SenderWatch(settings, program.database, program.line_id, program.signal, bound=bound)
    told = _note_signals()
    keyring = program.keyring
    try:
        with (
            serving(settings.data, address_of(settings)),
            copying(settings, program.signal),
            clearing(program.database),
            watch.running() if send else nullcontext(),
            opened_in_browser(settings, keyring.new_code) if open_it and keyring else nullcontext(),
        ):
            print(said(program), flush=True)
            _Server(settings, program).run()
    finally:
        if send:
            watch.end(_ENDS_WITHIN if signal.SIGTERM in told else settings.carrier_timeout + 5)


class _Server(uvicorn.Server):
    """The server of a program, whose open pages are let go before it ends."""

    def __init__(self, settings: Settings, program: Program) -> None:
        self._signal = program.signal
        super().__init__(
            uvicorn.Config(
                program.app,
                host=settings.host,
                port=settings.port,
                # The program's own way of writing a log is kept, for what the server says as well.
                log_config=None,
                access_log=False,
                timeout_graceful_shutdown=2,
                server_header=False,
            )
        )

    @override
    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self._signal.close()
        await super().shutdown(sockets)


def _note_signals() -> list[int]:
    """The signals that this process was told to end by: they are told again once nothing is served any more."""
    told: list[int] = []
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda number, _frame: told.append(number))
    return told


def _settle_memory(settings: Settings) -> None:
    """Keeps full garbage collections short: each one stops every thread, and a key waits for it.

    Most of what such a collection walks through is the program itself with its tables of numbering plans and locales,
    which live as long as the process does. They are loaded here, by a text to nobody, and then left out of it.
    """
    sheet = Sheet(("Mobile", "Due", "Due date"), [("902-555-0100", "1.00", "2026-11-30")])
    places = {"region": settings.region, "currency": settings.currency, "locale": settings.locale}
    compute_round(sheet, Recipe(wording="{Due}{Due date}", **places))
    gc.collect()
    gc.freeze()


def _demo_zone() -> dict[str, str]:
    """The demo's office is in Nova Scotia, whatever this machine's own zone is; what was set counts all the same."""
    return {} if f"{PREFIX}ZONE" in os.environ else {"zone": "America/Halifax"}
