"""The commands and their options."""

import argparse
import json
import os
import signal
import sys
import threading
from collections.abc import Sequence
from contextlib import suppress
from datetime import UTC, date, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy.exc import DatabaseError
from typing_extensions import override

from gentle_ledger.core.cells.errors import LedgerError, RecipeError

if TYPE_CHECKING:
    from gentle_ledger.core.rounds.compute import Computed
    from gentle_ledger.core.sheets.torn import Commas


class MomentError(LedgerError):
    """A moment that cannot be read."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one command and returns its exit code: 0, or 2 for input that cannot be used."""
    parser = argparse.ArgumentParser(
        prog="gentle-ledger", description="Texts from spreadsheet rows, one row at a time."
    )
    parser.add_argument("--version", action=_Version, nargs=0, help="say which version this is")
    commands = parser.add_subparsers(dest="command", required=True)
    serve = commands.add_parser("serve", help="start the program")
    demo = commands.add_parser("demo", help="start the program and the stand-in carrier with demo data")
    serve.add_argument("--open", action="store_true", help="open it in a browser, which is let in")
    serve.add_argument("--no-sender", action="store_true", help="only show and prepare; another process sends")
    sender = commands.add_parser("sender", help="send the rounds that were started, without a page to look at")
    sender.add_argument("--with-server", type=int, metavar="PROCESS", help="end when that server does not come back")
    sender.add_argument("--tells", type=int, metavar="HANDLE", help="say there why it cannot begin")
    carrier = commands.add_parser("carrier", help="start the stand-in carrier")
    for command in (sender, carrier):
        command.add_argument("--with-parent", action="store_true", help="end when standard input does")
    for command, port in ((serve, 8090), (demo, 8090), (carrier, 8091)):
        command.add_argument("--port", type=int, default=None, help=f"the port to listen on ({port})")
    demo.add_argument("--carrier-port", type=int, default=None, help="the stand-in carrier's port (the next one)")
    demo.add_argument("--data", type=Path, default=Path("data/demo"), help="the folder for the demo's data")
    carrier.add_argument("--data", type=Path, default=Path("data/carrier.sqlite3"), help="the carrier's data file")
    carrier.add_argument("--hang", type=float, default=60.0, help="seconds that 'no answer' stays silent")
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
        command.add_argument(
            "--commas",
            action="append",
            default=[],
            metavar="COLUMN=ANSWER",
            help="what a text file's commas are where that is a question: 'within cells' or 'between cells'",
        )
        command.add_argument("--worksheet", help="which worksheet of a workbook; the first one by default")
        command.add_argument("--header", type=int, help="the line with the column names; recognised by default")
    backup = commands.add_parser("backup", help="copy the ledger into a new file, also while the program runs")
    backup.add_argument("file", type=Path)
    restore = commands.add_parser("restore", help="put a copy in the place of the ledger; what was there is kept")
    restore.add_argument("file", type=Path)
    restore.add_argument("--yes", action="store_true", help="do not ask")
    address = commands.add_parser("address", help="print an address by which one browser is let in, within a minute")
    status = commands.add_parser("status", help="say how the program is; the exit code is 1 where something is wrong")
    status.add_argument("--json", action="store_true", help="all of it, as JSON")
    for command in (address, status):
        command.add_argument("--port", type=int, default=None, help="its port, where several serve one ledger")
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
        "address": _address,
        "status": _status,
        "openapi": _openapi,
    }
    try:
        _begin_logging()
        return run[options.command](options)
    except (LedgerError, OSError, DatabaseError) as fault:
        said = fault.sentence if isinstance(fault, LedgerError) else trouble_at_start(fault)
        _tell(options, said)
        return 2


def _tell(options: argparse.Namespace, said: str) -> None:
    """Tells why a command cannot go on: whoever started a sender, unless that is gone by now, or who looks on."""
    with suppress(OSError):
        if getattr(options, "tells", None) is not None:
            os.write(options.tells, said.encode())
            return
    print(said, file=sys.stderr)


class _Version(argparse.Action):
    """Says which version this is, looking for it only then."""

    @override
    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> None:
        from gentle_ledger.version import version_said

        print(version_said())
        parser.exit()


def _begin_logging() -> None:
    from gentle_ledger.cli.logs import begin_logging
    from gentle_ledger.web.settings import read_settings

    settings = read_settings()
    begin_logging(settings.log_format, settings.log_level)


def trouble_at_start(fault: Exception) -> str:
    """A disk or a file that cannot be used, as a sentence."""
    from gentle_ledger.store.errors import cannot_write

    known = cannot_write(fault)
    return f"{known.what} {known.remedy_once}" if known else f"The program cannot start: {fault}."


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
    from gentle_ledger.app.reading import bring_in_apart
    from gentle_ledger.core.columns.readings import Readings
    from gentle_ledger.core.columns.sent_before import heeded
    from gentle_ledger.core.pace.civil import zone_named
    from gentle_ledger.core.recipe.file import before_of
    from gentle_ledger.core.recipe.toml import recipe_from_bytes
    from gentle_ledger.core.rounds.compute import Computed
    from gentle_ledger.core.rounds.fit import refuse_misfit
    from gentle_ledger.core.rounds.plan import what_is_said
    from gentle_ledger.core.sheets.bring_in import Choice
    from gentle_ledger.core.wording.composer import Composer
    from gentle_ledger.web.settings import read_settings

    recipe = recipe_from_bytes(_read(options.recipe))
    choice = Choice(options.worksheet, options.header, options.characters, _commas(options.commas), before_of(recipe))
    brought = bring_in_apart(_read(options.sheet), options.sheet.name, choice, currency=recipe.currency)
    sheet = brought.sheet
    composer = Composer(Readings(sheet, zone_named(read_settings().zone)), heeded(recipe, sheet))
    refuse_misfit(composer)
    computed = Computed(composer, today=today)
    worksheets = [] if options.worksheet else [brought.said_of_worksheets]
    return computed, [said for said in (*worksheets, *what_is_said(brought.reading.sentence, computed)) if said]


def _commas(said: list[str]) -> dict[str, "Commas"]:
    """What was said of the commas of a text file: `Due=within cells`, one for each column."""
    from gentle_ledger.core.sheets.torn import Commas

    found = {}
    for each in said:
        column, _, answer = each.rpartition("=")
        if answer not in set(Commas) or not column:
            raise RecipeError(f'"{each}" is not an answer.', f"Write it as --commas 'Due={Commas.WITHIN}'.")
        found[column] = Commas(answer)
    return found


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
    from gentle_ledger.cli.serve import serve

    serve(options.port, send=not options.no_sender, open_it=options.open)
    return 0


def _demo(options: argparse.Namespace) -> int:
    from gentle_ledger.cli.serve import demo

    demo(options.data, options.port, options.carrier_port)
    return 0


def _address(options: argparse.Namespace) -> int:
    from gentle_ledger.cli.asking import new_address

    print(new_address(options.port))
    return 0


def _status(options: argparse.Namespace) -> int:
    from gentle_ledger.cli.asking import health

    found = health(options.port)
    print(json.dumps(found, indent=1) if options.json else "\n".join(found["said"]))
    return 0 if found["well"] else 1


def _sender(options: argparse.Namespace) -> int:
    from gentle_ledger.cli.sending import BEGUN, run_sender
    from gentle_ledger.web.settings import read_settings

    if options.with_parent:
        threading.Thread(target=_end_with_input, name="parent", daemon=True).start()

    def begun() -> None:
        if options.tells is not None:
            _tell(options, BEGUN)
            options.tells = None

    run_sender(read_settings(), server=options.with_server, begun=begun)
    return 0


def _carrier(options: argparse.Namespace) -> int:
    import uvicorn

    from gentle_ledger.carrier.app import create_carrier
    from gentle_ledger.cli.ports import refuse_taken

    port = options.port or 8091
    refuse_taken(port)
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
