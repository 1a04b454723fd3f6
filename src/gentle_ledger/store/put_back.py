"""A ledger that is older than the world: what it does not remember is in doubt, and it sends nothing before a look."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import islice

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.reasons import Reason, reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.attempts import AttemptState, note_attempt
from gentle_ledger.store.database import Database
from gentle_ledger.store.lines import line_of_key
from gentle_ledger.store.models import Round, ThisLedger, Trial
from gentle_ledger.store.notices import add_notice
from gentle_ledger.store.rounds import recipe_of
from gentle_ledger.store.stages import step_stage
from gentle_ledger.store.statements import Statements, moment_as_text
from gentle_ledger.store.steps import MarkedText, marked_text, step_text
from gentle_ledger.store.trials import step_trial
from gentle_ledger.store.witness import TRIAL, HandedOver, Witness

_AT_ONCE = 200
"""Rows that are put in doubt in one transaction, so that nobody waits long for the ledger meanwhile."""
_IN_ONE_QUERY = 500

PUT_BACK = reason_kind(
    "put back", "handed over after this copy of the ledger was made, which does not know what became of it"
)
MAY_HAVE_GONE = "nobody can say whether it went: an older copy of the ledger was put back; look at your own phone"
NOT_GONE = "not sent: an older copy of the ledger was put back, or it is on another machine now"


def _lacks(texts: int, of: str) -> str:
    return (
        f"An older copy of the ledger was put back: {count(texts, 'text')} of {of} went, or may have gone, since it "
        "was made. The carrier is asked about each; none is sent again by itself. Look at them before you go on"
    )


LACKS = reason_kind("copy lacks hand-overs", _lacks)
OLDER = reason_kind(
    "copy put back",
    "An older copy of the ledger was put back. Of this round nothing is known to have gone since. Look at it before "
    "you go on",
)
MOVED = reason_kind(
    "other machine",
    "This ledger was used on another machine before, or its record of what went is not here. If it is still used "
    "there, end that first: each would send the same texts. The carrier is asked about each text before it goes. "
    "Look at the round before you go on",
)
OTHER = reason_kind(
    "other ledger",
    "Another ledger stood in the place of this one, and nobody can say which of these texts it sent. Look at the "
    "carrier's pages before you go on",
)


def _unknown(texts: int, since: str) -> str:
    return (
        f"An older copy of the ledger was put back. Since it was made, {count(texts, 'text')} went in rounds that it "
        f"does not have, the last on {since}. Look at the carrier's pages before you bring those sheets in again"
    )


UNKNOWN_ROUNDS = reason_kind("rounds that a copy lacks", _unknown)


def this_ledger(session: Session) -> ThisLedger:
    """What the ledger knows of itself; made here for one that was never migrated, as in memory."""
    found = session.get(ThisLedger, 1)
    if found is None:
        found = ThisLedger(id=1)
        session.add(found)
        session.flush()
    return found


@dataclass(frozen=True, slots=True)
class Doubts:
    """What a ledger does not know of the world.

    Attributes:
        unknown: the hand-overs that a witness names and the ledger does not.
        moved: whether it is on another machine than it was, or its witness there is gone.
        other: whether another ledger stood in its place last.
    """

    unknown: Sequence[HandedOver]
    moved: bool
    other: bool

    def __bool__(self) -> bool:
        return bool(self.unknown) or self.moved or self.other


def doubts_of(database: Database, witness: Witness, machine: str) -> Doubts:
    """Compares a ledger with its witnesses and with the machine that it is on now."""
    with database.reading() as session:
        known = session.get(ThisLedger, 1) or ThisLedger(identity="", machine="", witnessed=False)
    with database.reading_bare() as ledger:
        any_gone = bool(
            ledger.first("SELECT 1 FROM attempts") or ledger.first("SELECT 1 FROM trials WHERE reference IS NOT NULL")
        )
        unknown = _unknown_to(ledger, witness.all_of(known.identity))
        prepared = any_gone or bool(ledger.first("SELECT 1 FROM rounds"))
    elsewhere = known.machine not in {"", machine} or (known.witnessed and not witness.in_state(known.identity))
    return Doubts(unknown, prepared and elsewhere, prepared and witness.other_ledger(known.identity))


def _unknown_to(ledger: Statements, named: Mapping[str, list[HandedOver]]) -> list[HandedOver]:
    """Those that are named more often than the ledger has attempts under their reference; of each the newest."""
    found: list[HandedOver] = []
    source = iter(named)
    while some := list(islice(source, _IN_ONE_QUERY)):
        slots = ", ".join("?" * len(some))
        known: Counter[str] = Counter()
        for table in ("attempts", "unknown_hand_overs", "trials"):
            wanted = f"SELECT reference, count(*) FROM {table} WHERE reference IN ({slots}) GROUP BY reference"
            known.update(dict(ledger.rows(wanted, *some)))
        for reference in some:
            # Of one and the same reference it is known how often, and not which of its times.
            found += named[reference][known[reference] :]
    return sorted(found)


def put_in_doubt(database: Database, doubts: Doubts, at: datetime, said: str) -> None:
    """Sets every round that was going at rest, with a sentence, and every text that a witness names in doubt.

    In steps, each of them true by itself: what is interrupted is found again.

    Args:
        database: the ledger, in the hands of the one that sends.
        doubts: what it does not know; something.
        at: now.
        said: when the last of the unknown ones went, ready to read.
    """
    with database.writing() as session:
        _set_at_rest(session, doubts, at)
        # Before any of them is noted: what is noted is not unknown any more where this is cut off.
        if lost := _of_rounds_that_are_not_here(session, doubts.unknown):
            add_notice(session, UNKNOWN_ROUNDS(texts=lost, since=said), at)
    source = iter(doubts.unknown)
    while some := list(islice(source, _AT_ONCE)):
        with database.writing_bare(piece=True) as ledger:
            for handed in some:
                _doubt(ledger, handed, at)


def adopt(session: Session, machine: str) -> None:
    """From now on the ledger is one of this machine, and its witness is here."""
    known = this_ledger(session)
    known.machine, known.witnessed = machine, True


def _set_at_rest(session: Session, doubts: Doubts, at: datetime) -> None:
    texts = Counter(handed.round_uid for handed in doubts.unknown)
    if doubts.moved or doubts.other:
        session.execute(update(Round).values(asks_first=True))
    for found in session.scalars(select(Round).where(Round.stage != Stage.PREPARING)):
        why = _why(doubts, texts[found.uid], recipe_of(found).title)
        going = found.stage == Stage.SENDING
        if going or found.stage == Stage.PAUSED or texts[found.uid] or doubts.moved or doubts.other:
            found.look_first = why
            found.version += 1
        if going:
            step_stage(found, Stage.PAUSED, why)
    for trial in session.scalars(select(Trial).where(Trial.mark == Mark.TO_GO)):
        named = any(handed.round_uid == TRIAL and handed.row == trial.id for handed in doubts.unknown)
        step_trial(trial, Mark.UNSURE if named else Mark.FAILED, at, MAY_HAVE_GONE if named else NOT_GONE)


def _why(doubts: Doubts, texts: int, title: str) -> str:
    reasons: list[Reason] = []
    if texts:
        reasons.append(LACKS(texts=texts, of=title or "this round"))
    if doubts.moved:
        reasons.append(MOVED())
    if doubts.other:
        reasons.append(OTHER())
    return ". ".join(reason.sentence for reason in reasons or [OLDER()]) + "."


_MAY_BE_DOUBTED = (Mark.TO_GO, Mark.READY, Mark.LEFT_OUT, Mark.FAILED)


def _doubt(ledger: Statements, handed: HandedOver, at: datetime) -> None:
    found = ledger.first(
        "SELECT m.id FROM messages m JOIN rounds r ON r.id = m.round_id "
        "WHERE r.uid = ? AND m.row = ? AND m.with_row IS NULL AND r.stage <> ?",
        *(handed.round_uid, handed.row, Stage.PREPARING),
    )
    of = ledger.first("SELECT message_id FROM attempts WHERE reference = ?", handed.reference)
    if found is None or (of is not None and of[0] != found[0]):
        ledger.run(
            "INSERT INTO unknown_hand_overs (round_uid, row, reference, at, line_key) VALUES (?, ?, ?, ?, ?)",
            *(handed.round_uid, handed.row, handed.reference, moment_as_text(_moment(handed)), handed.line_key),
        )
        return
    doubt_text(ledger, found[0], [handed], at)


def doubt_text(ledger: Statements, message_id: int, handed_over: Iterable[HandedOver], at: datetime) -> None:
    """Notes hand-overs of a text that are not on record; where it did not go as far as is known, it is Unsure."""
    reference: str | None = None
    for handed in handed_over:
        reference = handed.reference
        line_id = line_of_key(ledger, handed.line_key)
        note_attempt(ledger, message_id, line_id, reference, _moment(handed), AttemptState.OPEN)
    text = marked_text(ledger, message_id)
    if isinstance(text, MarkedText) and text.mark in _MAY_BE_DOUBTED:
        step_text(ledger, text, Mark.UNSURE, at, reason=PUT_BACK(), reference=reference)


def _moment(handed: HandedOver) -> datetime:
    return datetime.fromtimestamp(handed.at, UTC)


def _of_rounds_that_are_not_here(session: Session, unknown: Sequence[HandedOver]) -> int:
    here = set(session.scalars(select(Round.uid)))
    return sum(handed.round_uid not in here and handed.round_uid != TRIAL for handed in unknown)


def doubted_rows(ledger: Statements, round_uid: str) -> dict[int, list[HandedOver]]:
    """The hand-overs that are known of a round's rows (from 1) although it was not started as far as it remembers."""
    found: dict[int, list[HandedOver]] = {}
    wanted = "SELECT at, line_key, round_uid, row, reference FROM unknown_hand_overs WHERE round_uid = ? ORDER BY id"
    for at, *named in ledger.rows(wanted, round_uid):
        handed = HandedOver(datetime.fromisoformat(at).timestamp(), *named)
        found.setdefault(handed.row, []).append(handed)
    return found


def doubt_frozen(ledger: Statements, round_id: int, round_uid: str, at: datetime) -> int:
    """The rows of a round that is just being started and of which hand-overs are known are Unsure; says how many."""
    rows = doubted_rows(ledger, round_uid)
    for row, handed_over in rows.items():
        found = ledger.first(
            "SELECT coalesce(b.id, m.id) FROM messages m LEFT JOIN messages b ON b.round_id = m.round_id "
            "AND b.row = m.with_row WHERE m.round_id = ? AND m.row = ?",
            *(round_id, row),
        )
        if found is not None:
            doubt_text(ledger, found[0], handed_over, at)
            ledger.run("DELETE FROM unknown_hand_overs WHERE round_uid = ? AND row = ?", round_uid, row)
    return len(rows)
