"""The commands and their options."""

import argparse
import gc
import json
import os
import signal
import sys
import threading
from collections.abc import Sequence
from contextlib import nullcontext
from datetime import UTC, date, datetime
from decimal import Decimal
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy.exc import DatabaseError

from gentle_ledger.core.cells.errors import LedgerError, RecipeError

if TYPE_CHECKING:
    from gentle_ledger.core.rounds.compute import Computed
    from gentle_ledger.web.settings import Settings


class MomentError(LedgerError):
    """A moment that cannot be read."""


class PortTaken(LedgerError):
    """Something else listens where the program should."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one command and returns its exit code: 0, or 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(
        prog="gentle-ledger", description="Texts from spreadsheet rows, one row at a time."
    )
    commands = parser.add_subparsers(dest="command", required=True)
    serve = commands.add_parser("serve", help="start the program")
    demo = commands.add_parser("demo", help="start the program and the stand-in carrier with demo data")
    serve.add_argument("--no-sender", action="store_true", help="only show and prepare; another process sends")
    sender = commands.add_parser("sender", help="send the rounds that were started, without a page to look at")
    sender.add_argument("--with-server", type=int, metavar="PROCESS", help="end when that server does not come back")
    sender.add_argument("--with-parent", action="store_true", help="end when standard input does")
    carrier = commands.add_parser("carrier", help="start the stand-in carrier")
    for command, port in ((serve, 8090), (demo, 8090), (carrier, 8091)):
        command.add_argument("--port", type=int, default=None, help=f"the port to listen on ({port})")
    demo.add_argument("--carrier-port", type=int, default=None, help="the stand-in carrier's port (the next one)")
    demo.add_argument("--data", type=Path, default=Path("data/demo"), help="the folder for the demo's data")
    carrier.add_argument("--data", type=Path, default=Path("data/carrier.sqlite3"), help="the carrier's data file")
    carrier.add_argument("--hang", type=float, default=60.0, help="seconds that 'no answer' stays silent")
    carrier.add_argument("--with-parent", action="store_true", help="end when standard input does")
    compute = commands.add_parser("compute", help="compute a round and send nothing")
    compute.add_argument("sheet", type=Path)
    compute.add_argument("--recipe", type=Path, required=True)
    compute.add_argument("--out", type=Path, help="the file to write; without it, standard output")
    compute.add_argument("--json", action="store_true", help="JSON lines instead of CSV")
    plan = commands.add_parser("plan", help="say when each row would leave, and send nothing")
    plan.add_argument("sheet", type=Path)
    plan.add_argument("--recipe", type=Path, required=True)
    plan.add_argument("--at", help="when Send is pressed, in ISO 8601; now by default")
    plan.add_argument("--out", type=Path, help="the CSV file to write; without it, standard output")
    for command in (compute, plan):
        command.add_argument("--characters", help="how a text file's characters are read, where it does not tell")
        command.add_argument("--worksheet", help="which worksheet of a workbook; the first one by default")
        command.add_argument("--header", type=int, help="the line with the column names; recognised by default")
    backup = commands.add_parser("backup", help="copy the ledger into a new file, also while the program runs")
    backup.add_argument("file", type=Path)
    restore = commands.add_parser("restore", help="put a copy in the place of the ledger; what was there is kept")
    restore.add_argument("file", type=Path)
    restore.add_argument("--yes", action="store_true", help="do not ask")
    commands.add_parser("openapi", help="print the interface's OpenAPI description")
    options = parser.parse_args(arguments)
    run = {
        "serve": _serve,
        "sender": _sender,
        "demo": _demo,
        "carrier": _carrier,
        "compute": _compute,
        "plan": _plan,
        "backup": _backup,
        "restore": _restore,
        "openapi": _openapi,
    }
    try:
        _begin_logging()
        return run[options.command](options)
    except LedgerError as fault:
        print(fault.sentence, file=sys.stderr)
        return 2
    except (OSError, DatabaseError) as fault:
        print(trouble_at_start(fault), file=sys.stderr)
        return 2


def _begin_logging() -> None:
    from gentle_ledger.cli.logs import begin_logging
    from gentle_ledger.web.settings import read_settings

    settings = read_settings()
    begin_logging(settings.log_format, settings.log_level)


def trouble_at_start(fault: Exception) -> str:
    """A disk or a file that cannot be used, as a sentence."""
    from gentle_ledger.store.errors import cannot_write

    known = cannot_write(fault)
    return known.sentence if known else f"The program cannot start: {fault}."


def _compute(options: argparse.Namespace) -> int:
    from gentle_ledger.core.rounds.plan import plan_as_csv, plan_as_json_lines

    computed, said = _computed(options, None)
    for sentence in said:
        print(sentence, file=sys.stderr)
    _write(options.out, plan_as_json_lines(computed, said) if options.json else plan_as_csv(computed))
    return 0


def _plan(options: argparse.Namespace) -> int:
    from gentle_ledger.core.pace.civil import zone_named
    from gentle_ledger.core.pace.decide import now_at
    from gentle_ledger.core.rounds.ahead import ahead_as_csv, run_ahead
    from gentle_ledger.web.settings import read_settings

    office, at = read_settings().zone, _moment(options.at)
    computed, said = _computed(options, at.astimezone(zone_named(office)).date())
    ahead = run_ahead(computed, office, now_at(0.0, at))
    for sentence in (*said, *ahead.doubts):
        print(sentence, file=sys.stderr)
    _write(options.out, ahead_as_csv(computed, ahead))
    return 0


def _moment(typed: str | None) -> datetime:
    """A moment in ISO 8601 with its offset; now where none is given."""
    try:
        found = datetime.now(UTC) if typed is None else datetime.fromisoformat(typed)
    except ValueError as fault:
        raise MomentError(f'"{typed}" is not a moment.', "Write it as 2026-11-26T16:00:00-04:00.") from fault
    if found.tzinfo is None:
        raise MomentError(f'"{typed}" has no offset from UTC.', "Write it as 2026-11-26T16:00:00-04:00.")
    return found


def _computed(options: argparse.Namespace, today: date | None) -> tuple["Computed", list[str]]:
    """The round that a sheet and a recipe make, and what is to be said of it."""
    from gentle_ledger.app.reading import Choice, bring_in_apart
    from gentle_ledger.core.columns.readings import Readings
    from gentle_ledger.core.columns.sent_before import heeded
    from gentle_ledger.core.recipe.toml import recipe_from_bytes
    from gentle_ledger.core.rounds.compute import Computed
    from gentle_ledger.core.rounds.fit import refuse_misfit
    from gentle_ledger.core.rounds.plan import what_is_said
    from gentle_ledger.core.wording.composer import Composer

    recipe = recipe_from_bytes(_read(options.recipe))
    choice = Choice(options.worksheet, options.header, options.characters)
    brought = bring_in_apart(_read(options.sheet), options.sheet.name, choice, currency=recipe.currency)
    sheet = brought.sheet
    composer = Composer(Readings(sheet), heeded(recipe, sheet))
    refuse_misfit(composer)
    computed = Computed(composer, today=today)
    return computed, what_is_said(brought.reading.sentence, computed)


def _write(out: Path | None, text: str) -> None:
    if out is None:
        sys.stdout.buffer.write(text.encode())
        return
    try:
        out.write_bytes(text.encode())
    except OSError as fault:
        raise RecipeError(f'"{out}" cannot be written: {fault.strerror}.') from fault


def _read(path: Path) -> bytes:
    try:
        data = path.read_bytes()
    except OSError as fault:
        raise RecipeError(f'"{path}" cannot be read: {fault.strerror}.') from fault
    return data


def _serve(options: argparse.Namespace) -> int:
    from gentle_ledger.web.settings import read_settings

    settings = read_settings(**({} if options.port is None else {"port": options.port}))
    _refuse_taken(settings.port)
    said = f"Gentle Ledger is open at http://{settings.host}:{settings.port}"
    _run_program(settings, said, send=not options.no_sender)
    return 0


def _sender(options: argparse.Namespace) -> int:
    from gentle_ledger.cli.sending import run_sender
    from gentle_ledger.web.settings import read_settings

    if options.with_parent:
        threading.Thread(target=_end_with_input, name="parent", daemon=True).start()
    run_sender(read_settings(), server=options.with_server)
    return 0


def _refuse_taken(port: int) -> None:
    """A port that something else listens on is said in a sentence before anything starts."""
    if not _is_free(port):
        raise PortTaken(f"Port {port} is in use by another program.", "End it, or choose another port.")


def _is_free(port: int) -> bool:
    import socket

    with socket.socket() as attempt:
        attempt.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            attempt.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


_PORTS_TRIED = 50


def _free_from(port: int, *taken: int) -> int:
    """That port, or the next one that nothing listens on. Raises PortTaken when none of the next ones is free."""
    free = (p for p in range(port, port + _PORTS_TRIED) if p < 65_536 and p not in taken and _is_free(p))
    found = next(free, None)
    if found is None:
        raise PortTaken(f"Port {port} and the next {_PORTS_TRIED} are in use.", "Choose another one.")
    return found


def _run_program(settings: "Settings", said: str, *, send: bool = True, bound: bool = False) -> None:
    """Serves until it is told to end; `said` is printed once everything is in its place.

    The sender ends with Ctrl+C. Told to end by SIGTERM, as by a service manager that restarts it, the server leaves it
    to the next one; `bound` has it end with this process in any case.
    """
    import uvicorn

    from gentle_ledger.cli.program import assemble
    from gentle_ledger.cli.sending import SenderWatch
    from gentle_ledger.cli.upkeep import clearing, copying
    from gentle_ledger.store.serving import serving

    # A keystroke's answer crosses between threads some twenty times; at Python's own 5 ms a turn it would wait 100 ms
    # whenever all rows are being counted beside it.
    sys.setswitchinterval(0.0005)
    program = assemble(settings)
    _settle_memory(settings)
    watch = SenderWatch(settings, program.database, program.line_id, bound=bound)
    told = _note_signals()
    try:
        with (
            serving(settings.data),
            copying(settings, program.signal),
            clearing(program.database),
            watch.running() if send else nullcontext(),
        ):
            print(said, flush=True)
            # An open event stream must not keep the program alive after it was told to end.
            uvicorn.run(
                program.app,
                host=settings.host,
                port=settings.port,
                # The program's own way of writing a log is kept, for what the server says as well.
                log_config=None,
                access_log=False,
                timeout_graceful_shutdown=2,
                server_header=False,
            )
    finally:
        if send and (bound or signal.SIGTERM not in told):
            watch.end()


def _note_signals() -> list[int]:
    """The signals that this process was told to end by: they are told again once nothing is served any more."""
    told: list[int] = []
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda number, _frame: told.append(number))
    return told


def _settle_memory(settings: "Settings") -> None:
    """Keeps full garbage collections short: each one stops every thread, and a key waits for it.

    Most of what such a collection walks through is the program itself with its tables of numbering plans and locales,
    which live as long as the process does. They are loaded here, by a text to nobody, and then left out of it.
    """
    from gentle_ledger.core.recipe.model import Recipe
    from gentle_ledger.core.rounds.compute import compute_round
    from gentle_ledger.core.sheets.model import Sheet

    sheet = Sheet(("Mobile", "Due", "Due date"), [("902-555-0100", "1.00", "2026-11-30")])
    places = {"region": settings.region, "currency": settings.currency, "locale": settings.locale}
    compute_round(sheet, Recipe(wording="{Due}{Due date}", **places))
    gc.collect()
    gc.freeze()


def _carrier(options: argparse.Namespace) -> int:
    import uvicorn

    from gentle_ledger.carrier.app import create_carrier

    port = options.port or 8091
    _refuse_taken(port)
    if options.with_parent:
        threading.Thread(target=_end_with_input, name="parent", daemon=True).start()
    print(f"The stand-in carrier is open at http://127.0.0.1:{port}", flush=True)
    # Lost answers are part of its job; a server's log of them would only alarm.
    uvicorn.run(
        create_carrier(options.data, options.hang),
        host="127.0.0.1",
        port=port,
        log_level="critical",
        timeout_graceful_shutdown=1,
    )
    return 0


def _end_with_input() -> None:
    """Ends this process when its standard input does: that is when its parent is gone, however the parent ended."""
    while os.read(0, 4096):
        pass
    os.kill(os.getpid(), signal.SIGTERM)


def _demo(options: argparse.Namespace) -> int:
    import subprocess

    from gentle_ledger.demo.seed import seed
    from gentle_ledger.web.settings import read_settings

    wanted = options.port or read_settings().port
    port = _free_from(wanted)
    carrier_port = _free_from(options.carrier_port or wanted + 1, port)
    options.data.mkdir(mode=0o700, parents=True, exist_ok=True)
    carrier_data = options.data / "carrier.sqlite3"
    settings = read_settings(
        data=options.data / "ledger.sqlite3",
        port=port,
        carrier_url=f"http://127.0.0.1:{carrier_port}/messaging/v1",
        carrier_timeout=4.0,
        price_per_part=Decimal("0.04"),
        **_demo_zone(),
    )
    seed(settings, carrier_data)
    elsewhere = f"Port {wanted} is in use by another program: this is the next free one.\n" if port != wanted else ""
    command = [sys.executable, "-m", "gentle_ledger.cli", "carrier"]
    command += ["--port", str(carrier_port), "--data", str(carrier_data), "--with-parent"]
    carrier = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL)
    try:
        _run_program(
            settings,
            f"\nGentle Ledger is open at       http://127.0.0.1:{port}\n"
            f"The stand-in carrier's page is http://127.0.0.1:{carrier_port}\n"
            f"{elsewhere}"
            f"The demo's data is in {options.data}.\n"
            "Nothing leaves this machine. Ctrl+C ends all of it.\n",
            bound=True,
        )
    finally:
        carrier.terminate()
        carrier.wait(10)
    return 0


def _demo_zone() -> dict[str, str]:
    """The demo's office is in Nova Scotia, whatever this machine's own zone is; what was set counts all the same."""
    from gentle_ledger.web.settings import PREFIX

    return {} if f"{PREFIX}ZONE" in os.environ else {"zone": "America/Halifax"}


def _backup(options: argparse.Namespace) -> int:
    from gentle_ledger.store.copies import save_copy
    from gentle_ledger.web.settings import read_settings

    made = save_copy(read_settings().data, options.file)
    print(f"Copied to {made.path}, {made.size:,} bytes, and looked through.")
    return 0


def _restore(options: argparse.Namespace) -> int:
    from gentle_ledger.store.copies import put_copy_back
    from gentle_ledger.web.settings import read_settings

    ledger = read_settings().data
    print(
        f'This puts "{options.file}" in the place of "{ledger}". What is there now is kept beside it. Rounds that were '
        "going rest until somebody has looked."
    )
    if not options.yes and input("Put it back? Type yes: ").strip().lower() != "yes":
        print("Nothing was changed.")
        return 2
    kept = put_copy_back(ledger, options.file)
    print(f"Put back. {f'What was there is kept in {kept}.' if kept else 'Nothing was there.'}")
    return 0


def _openapi(_options: argparse.Namespace) -> int:
    import tempfile

    from gentle_ledger.cli.program import assemble
    from gentle_ledger.web.settings import Settings

    with tempfile.TemporaryDirectory() as folder:
        program = assemble(Settings(data=Path(folder) / "ledger.sqlite3"))
        print(json.dumps(program.app.openapi(), indent=1))
    return 0
