"""The lines: which there are, what of their state lasts, and what is kept while a carrier is away."""

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from gentle_ledger.core.pace.decide import LineState
from gentle_ledger.core.recipe.terms import LineTerms
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.models import LineRecord, Round
from gentle_ledger.store.statements import Statements, moment_as_text
from gentle_ledger.store.witness import line_key


@dataclass(frozen=True, slots=True)
class LineFacts:
    """What a line is, for the store: see `LineRecord` for each of them."""

    kind: str
    name: str
    identity: str
    settings: Mapping[str, Any]
    abilities: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class KeptAway:
    """A carrier that was away when this was written.

    `wait` is in seconds, `asked` how many of them the carrier asked for; it is looked at again at `until`.
    """

    reason: str
    since: datetime
    failures: int
    wait: float
    asked: float
    until: datetime


def line_record(session: Session, facts: LineFacts) -> LineRecord:
    """The record of a line, made the first time it is used; its settings are those of now."""
    found = session.scalars(select(LineRecord).where(LineRecord.identity == facts.identity)).first()
    if found is None:
        found = LineRecord(kind=facts.kind, name=facts.name, identity=facts.identity)
        session.add(found)
    found.kind, found.name = facts.kind, facts.name
    found.settings, found.abilities = json.dumps(dict(facts.settings)), json.dumps(dict(facts.abilities))
    session.flush()
    return found


def line_of_identity(session: Session, identity: str) -> int | None:
    """The number of the record of a line; None where there is none yet."""
    return session.scalar(select(LineRecord.id).where(LineRecord.identity == identity))


def line_of_key(ledger: Statements, key: str) -> int:
    """The record of the line that a witness names by a key; one that this ledger does not know gets an empty record."""
    unknown = f"unknown {key}"
    for line_id, identity in ledger.rows("SELECT id, identity FROM lines"):
        if identity == unknown or line_key(identity) == key:
            return int(line_id)
    made = ledger.run(
        "INSERT INTO lines (kind, name, identity, settings, abilities, draw, reason, failures, wait, asked, in_a_row, "
        "slowed) VALUES ('', '', ?, '{}', '{}', 0, '', 0, 0, 0, 0, 1)",
        unknown,
    )
    return int(made.lastrowid or 0)


def line_in_use(session: Session) -> LineRecord | None:
    """The line that rounds go by: the one a sender last began to use; None before any did."""
    wanted = (
        select(LineRecord)
        .where(LineRecord.used_at.is_not(None))
        .order_by(LineRecord.used_at.desc(), LineRecord.id.desc())
    )
    return session.scalars(wanted.limit(1)).first()


def line_of_round(session: Session, found: Round) -> LineRecord | None:
    """The line that a round was confirmed for; before that, and of rounds of earlier versions, the one in use."""
    known = None if found.line_id is None else session.get(LineRecord, found.line_id)
    return known or line_in_use(session)


def lines_at_work(session: Session) -> list[tuple[LineRecord, int]]:
    """The line in use, and those that rounds go by which were started: each with how many are sending."""
    in_use = line_in_use(session)
    going: Counter[int] = Counter()
    for found in session.scalars(select(Round).where(Round.stage == Stage.SENDING)):
        if line := line_of_round(session, found):
            going[line.id] += 1
    numbers = {*going} | ({in_use.id} if in_use else set())
    return [(session.get_one(LineRecord, number), going[number]) for number in sorted(numbers)]


def terms_now(session: Session) -> LineTerms:
    """The terms of the line that rounds go by; those of a line without prices before there is any."""
    record = line_in_use(session)
    return LineTerms.model_validate(json.loads(record.settings)) if record else LineTerms()


def begin_use(record: LineRecord, at: datetime) -> None:
    """A sender begins to use a line: from now on it is the one that rounds go by."""
    record.used_at = at


def note_hand_over(ledger: Statements, line_id: int, at: datetime, state: LineState) -> None:
    """Keeps when a text was last handed over, and what the pace must know for the next one."""
    ledger.run(
        "UPDATE lines SET last_hand_over_at = ?, draw = ?, in_a_row = ?, slowed = ? WHERE id = ?",
        *(moment_as_text(at), state.draw, state.in_a_row, state.slowed, line_id),
    )


def kept_away(record: LineRecord) -> KeptAway | None:
    """What is kept of the line's carrier being away; None while it is there."""
    if record.away_since is None or record.not_before is None:
        return None
    away = (record.failures, record.wait, record.asked, record.not_before)
    return KeptAway(record.reason, record.away_since, *away)


def keep_away(ledger: Statements, line_id: int, away: KeptAway | None) -> None:
    """Keeps that a line's carrier is away, or, with None, that it is back."""
    since, until = (moment_as_text(away.since), moment_as_text(away.until)) if away else (None, None)
    said = (away.reason, away.failures, away.wait, away.asked) if away else ("", 0, 0.0, 0.0)
    ledger.run(
        "UPDATE lines SET away_since = ?, not_before = ?, reason = ?, failures = ?, wait = ?, asked = ? WHERE id = ?",
        *(since, until, *said, line_id),
    )
