"""Fills an empty ledger with the demo's three rounds. What is there already is left alone."""

import threading
from collections.abc import Mapping
from datetime import datetime, timedelta
from importlib import resources
from pathlib import Path
from types import MappingProxyType

from gentle_ledger.carrier.records import Records
from gentle_ledger.carrier.rules import Answer, rule_for
from gentle_ledger.core.pace.decide import Wait
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.recipe.pace import PaceSettings
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.frozen import frozen_rows
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.demo import harbour
from gentle_ledger.sending.lines import Accepted, NoRecord, Policy, Refused
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.database import Database
from gentle_ledger.store.freezing import freeze
from gentle_ledger.store.rounds import add_round, list_rounds, round_of
from gentle_ledger.web.settings import Settings

_REASONS = {
    Answer.NOT_IN_USE: ("SVC0004", "the number is not in use"),
    Answer.BLOCKED: ("POL1011", "refused: the recipient has blocked this sender"),
}


class PastClock:
    """A clock that the seeding winds itself, so that October's round has October's times."""

    def __init__(self, start: datetime) -> None:
        self._start = start
        self._passed = 0.0

    def monotonic(self) -> float:
        return self._passed

    def now(self) -> datetime:
        return self._start + timedelta(seconds=self._passed)

    def wait(self, woken: threading.Event, seconds: float) -> None:
        self._passed += seconds


class SeedLine:
    """Hands texts to the stand-in's records by its own rules, without a network."""

    kind = "oma messaging"
    settings: Mapping[str, object] = MappingProxyType({})
    policy = Policy(60.0, tells_repeats_apart=True)

    def __init__(self, settings: Settings, records: Records, clock: PastClock) -> None:
        self._name = settings.sender
        self.identity = f"{settings.sender} at {settings.carrier_url}"
        self._records = records
        self._clock = clock

    @property
    def name(self) -> str:
        return self._name

    def hand_over(self, reference: str, number: str, text: str) -> Accepted | Refused:
        answer = rule_for(number).answer
        if answer is Answer.ERROR_ONCE and self._records.first_time(number):
            return Refused("the carrier refused it: A service error occurred", may_retry=True)
        fault, reason = _REASONS.get(answer, ("", ""))
        at = self._clock.now().isoformat(timespec="seconds")
        status = 400 if fault else 201
        kept = self._records.add(self._name, reference, number, text, status, fault, at)
        return Refused(reason, own=True) if fault else Accepted(str(kept.id))

    def ask(self, reference: str) -> Accepted | NoRecord:
        kept = self._records.by_correlator(self._name, reference)
        return Accepted(str(kept.id)) if kept else NoRecord()


def sample_sheet(file_name: str) -> bytes:
    """A sample sheet as it ships."""
    return (resources.files("gentle_ledger.demo") / "sheets" / file_name).read_bytes()


def seed(settings: Settings, carrier_data: Path) -> None:
    """One round being prepared, one finished with some failed, one small and ready to send."""
    database = Database(settings.data)
    database.migrate()
    with database.reading() as session:
        if list_rounds(session):
            database.close()
            return
    now = datetime.now().astimezone().replace(microsecond=0)
    office_hours = now.replace(hour=10, minute=10, second=0)
    # Further back than texts about one berth are looked for: dues are texted about each month.
    _finished(database, settings, carrier_data, office_hours - timedelta(days=35))
    quick = Recipe(
        title="Winter lift-out",
        as_of=now.date(),
        sender="Saltmarsh Quay",
        countries=harbour.COUNTRIES,
        wording=harbour.LIFT_WORDING,
        pace=PaceSettings(every=2.5, give_or_take=1.0),
    )
    _add(database, sample_sheet("winter-lift-out.xlsx"), "winter-lift-out.xlsx", quick, now - timedelta(hours=2))
    dues = Recipe(
        title="November berth dues",
        as_of=now.date(),
        sender="Saltmarsh Quay",
        countries=harbour.COUNTRIES,
        wordings=(harbour.ARREARS_WORDING,),
        wording=harbour.DUES_WORDING,
        columns=harbour.DUES_COLUMNS,
        leave_out=harbour.DUES_RULES,
        lookups={"Tariff": harbour.TARIFF},
    )
    _add(database, sample_sheet("november-berth-dues.csv"), "november-berth-dues.csv", dues, now - timedelta(hours=1))
    database.close()


def _add(database: Database, data: bytes, file_name: str, recipe: Recipe, at: datetime) -> int:
    brought = bring_in(data, file_name)
    with database.writing() as session:
        return add_round(session, brought.sheet, recipe, file_name, brought.worksheet, at).id


def _finished(database: Database, settings: Settings, carrier_data: Path, at: datetime) -> None:
    recipe = Recipe(
        title="October berth dues",
        as_of=at.date(),
        countries=harbour.COUNTRIES,
        wording=harbour.OCTOBER_WORDING,
        pace=PaceSettings(every=12, give_or_take=4),
    )
    data = harbour.october()
    round_id = _add(database, data, "october-berth-dues.csv", recipe, at)
    sheet = bring_in(data, "october-berth-dues.csv").sheet
    clock = PastClock(at + timedelta(minutes=20))
    records = Records(carrier_data)
    sender = Sender(database, SeedLine(settings, records, clock), clock, office=settings.zone)
    with database.writing() as session:
        freeze(
            session,
            round_of(session, round_id),
            frozen_rows(compute_round(sheet, recipe), settings.zone),
            clock.now(),
        )
    idle = threading.Event()
    while (decision := sender.act()) is not None:
        clock.wait(idle, 1.0 if isinstance(decision, Wait) else 0.2)
    sender.give_back()
    records.close()
