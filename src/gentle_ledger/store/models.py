"""The tables."""

import secrets
from datetime import date, datetime

from sqlalchemy import ForeignKey, Index, String, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from gentle_ledger.core.cells.rows import RowNumber
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.base import Base, Day, Instant


class RoundNumber(Base):
    """Every number a round was ever given, removed rounds included, so that none is given twice."""

    __tablename__ = "round_numbers"
    __table_args__ = ({"sqlite_autoincrement": True},)

    id: Mapped[int] = mapped_column(primary_key=True)


class Round(Base):
    """One sheet, one recipe, and where it stands.

    `version` grows with every change of sheet, recipe or rows kept out, `sheet_version` with every change of columns or
    cells: what is kept at hand of a sheet belongs to one of its versions. `note` says why the program paused the round
    by itself, or is ""; `reading` says what was left out of the file when it was read; `ask_wanted` asks the sender to
    ask the carrier about the unsure rows now. A removed round is kept for a day. `turn` is the number of the attempt
    that was its last: of rounds that share a line the one with the smallest is next.
    `uid` is a random id that it gets when it is made, `line_id` the line it was confirmed for. `look_first` is why it
    goes on only after somebody has looked, or ""; `asks_first` has the carrier asked about every text before it goes.
    `sheet_id` is the sheet it has now. `laid_by` is the process that writes its texts down before it starts: until then
    these count for nothing. `started_as` counts the starts of all rounds; 0 for one that never was, or was long ago.
    `stands_upto` is the last change that stands for good, since sending started then.
    """

    __tablename__ = "rounds"
    __table_args__ = (Index("rounds_by_uid", "uid", unique=True), Index("rounds_started", "started_as"))

    id: Mapped[int] = mapped_column(primary_key=True)
    stage: Mapped[str] = mapped_column(String, default=Stage.PREPARING)
    recipe: Mapped[str] = mapped_column(Text)
    columns: Mapped[str] = mapped_column(Text)
    row_count: Mapped[int]
    file_name: Mapped[str]
    worksheet: Mapped[str | None]
    note: Mapped[str] = mapped_column(Text, default="")
    reading: Mapped[str] = mapped_column(Text, default="")
    ask_wanted: Mapped[bool] = mapped_column(default=False)
    version: Mapped[int] = mapped_column(default=1)
    sheet_version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime] = mapped_column(Instant)
    started_at: Mapped[datetime | None] = mapped_column(Instant)
    finished_at: Mapped[datetime | None] = mapped_column(Instant)
    removed_at: Mapped[datetime | None] = mapped_column(Instant)
    turn: Mapped[int] = mapped_column(default=0)
    uid: Mapped[str] = mapped_column(default=lambda: secrets.token_hex(16))
    line_id: Mapped[int | None]
    look_first: Mapped[str] = mapped_column(Text, default="")
    asks_first: Mapped[bool] = mapped_column(default=False)
    sheet_id: Mapped[int] = mapped_column(default=0)
    laid_by: Mapped[str] = mapped_column(default="")
    started_as: Mapped[int] = mapped_column(default=0)
    stands_upto: Mapped[int] = mapped_column(default=0)


class SheetNumber(Base):
    """A sheet that is in use, by the round whose it is, or whose earlier one; or, without a round, one that is not.

    The latter is being written down by the process `laid_by`, see `store.processes`, or is to be cleared away.
    """

    __tablename__ = "sheets"
    __table_args__ = (Index("sheets_by_round", "round_id"), {"sqlite_autoincrement": True})

    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int | None] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"))
    laid_by: Mapped[str] = mapped_column(default="")


class Row(Base):
    """One data row of a sheet; `number` is 1 for the first.

    `original` has the cells as they were brought in once one was mended, else None; `added` rows were in no file, and
    `hidden` ones in no sight. `release` says what a released row was let go from, and why.
    """

    __tablename__ = "sheet_rows"
    __table_args__ = ({"sqlite_with_rowid": False},)

    sheet_id: Mapped[int] = mapped_column(ForeignKey("sheets.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[RowNumber] = mapped_column(primary_key=True)
    cells: Mapped[str] = mapped_column(Text)
    left_out: Mapped[bool] = mapped_column(default=False)
    released: Mapped[bool] = mapped_column(default=False)
    release: Mapped[str] = mapped_column(Text, default="")
    original: Mapped[str | None] = mapped_column(Text)
    added: Mapped[bool] = mapped_column(default=False)
    hidden: Mapped[bool] = mapped_column(default=False)


class Change(Base):
    """One line of a round's journal: who did what and when, with what was before and after.

    `kind` and `parameters` are the reason that says what was done, `effects` what it did, as JSON. `until` is when the
    last of it was typed. A change without effects cannot be undone; one that was undone can be done again until another
    change is made, and is `dropped` then. What was changed before sending started stands as well: see `Round`.
    `window` is the one that made it, "" where none said so, and `version` the round's after it; `undone_window` and
    `undone_version` are the same of its undoing.
    """

    __tablename__ = "changes"
    __table_args__ = (
        Index("changes_by_round", "round_id", "id"),
        Index("changes_by_version", "round_id", "version"),
        Index("changes_by_undone_version", "round_id", "undone_version"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"))
    at: Mapped[datetime] = mapped_column(Instant)
    until: Mapped[datetime] = mapped_column(Instant)
    by: Mapped[str]
    kind: Mapped[str]
    parameters: Mapped[str] = mapped_column(Text, default="{}")
    effects: Mapped[str] = mapped_column(Text, default="[]")
    undoable: Mapped[bool] = mapped_column(default=False)
    undone_at: Mapped[datetime | None] = mapped_column(Instant)
    undone_by: Mapped[str | None]
    dropped: Mapped[bool] = mapped_column(default=False)
    window: Mapped[str] = mapped_column(default="")
    version: Mapped[int] = mapped_column(default=0)
    undone_window: Mapped[str] = mapped_column(default="")
    undone_version: Mapped[int] = mapped_column(default=0)


class DeedDone(Base):
    """Something that a window asked for, by the key it gave it, and the change that was made for it, if one was."""

    __tablename__ = "deeds"
    __table_args__ = ({"sqlite_with_rowid": False},)

    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    change_id: Mapped[int | None]
    at: Mapped[datetime] = mapped_column(Instant)


class EarlierSheet(Base):
    """A sheet of a round in whose place a newer version stands; it is kept so that this can be undone."""

    __tablename__ = "earlier_sheets"
    __table_args__ = (Index("earlier_sheets_by_round", "round_id"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"))
    sheet_id: Mapped[int]
    columns: Mapped[str] = mapped_column(Text)
    file_name: Mapped[str]
    reading: Mapped[str] = mapped_column(Text, default="")


class Message(Base):
    """One row of a started round: number and text frozen, and its mark. A trigger guards both.

    `reason` is the sentence of the reason that `reason_code` and `reason_parameters` are; of a row that several checks
    hold, the first one's are kept with the sentences of all.
    `with_row` is the row that bears this row's text when rows were combined: that one is handed over, this one never,
    and has the other's marks. `uncertain`: its last hand-over may have gone, and the carrier's word is awaited.
    `codes` are the row's references as they are compared, as a JSON list. `released` is why the clerk let it go, and
    `release` the parameters of that reason, as JSON.
    `place` is its place in the order in which the texts leave, the smallest first; `moment` its own, before which it
    is not to leave; `zones` are those that its recipient can be in (IANA), with spaces between.
    """

    __tablename__ = "messages"
    __table_args__ = (
        UniqueConstraint("round_id", "row"),
        Index("messages_by_mark", "round_id", "mark", "row"),
        Index("messages_that_follow", "round_id", "with_row", sqlite_where=text("with_row > 0")),
        Index("messages_uncertain", "round_id", "row", sqlite_where=text("uncertain = 1")),
        Index("messages_by_number", "address", "marked_at"),
        Index(
            "messages_to_go",
            *("round_id", "zones", "moment", "place"),
            sqlite_where=text("mark = 'To go' AND with_row IS NULL"),
        ),
        Index(
            "messages_with_moments",
            "round_id",
            "moment",
            sqlite_where=text("mark = 'To go' AND with_row IS NULL AND moment IS NOT NULL"),
        ),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id"))
    row: Mapped[RowNumber]
    label: Mapped[str]
    address: Mapped[str]
    text: Mapped[str] = mapped_column(Text)
    parts: Mapped[int]
    mark: Mapped[str] = mapped_column(String, default=Mark.TO_GO)
    reason: Mapped[str] = mapped_column(Text, default="")
    reason_code: Mapped[str] = mapped_column(String, default="")
    reason_parameters: Mapped[str] = mapped_column(Text, default="{}")
    may_retry: Mapped[bool] = mapped_column(default=False)
    tries: Mapped[int] = mapped_column(default=0)
    reference: Mapped[str | None]
    marked_at: Mapped[datetime] = mapped_column(Instant)
    with_row: Mapped[RowNumber | None]
    uncertain: Mapped[bool] = mapped_column(default=False)
    codes: Mapped[str] = mapped_column(Text, default="[]")
    released: Mapped[str] = mapped_column(Text, default="")
    release: Mapped[str] = mapped_column(Text, default="{}")
    place: Mapped[int] = mapped_column(default=0)
    moment: Mapped[datetime | None] = mapped_column(Instant)
    zones: Mapped[str] = mapped_column(default="")


class Trial(Base):
    """A row's text (from 1) as it was handed over to a number of the clerk's own. Triggers guard it like a message.

    It stands in no row's history: no check, tally or marked sheet knows of it.
    """

    __tablename__ = "trials"
    __table_args__ = (
        Index("trials_by_round", "round_id", "id"),
        Index("trials_open", "id", sqlite_where=text("mark IN ('To go', 'Going')")),
        {"sqlite_autoincrement": True},
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    round_id: Mapped[int]
    row: Mapped[RowNumber]
    address: Mapped[str]
    text: Mapped[str] = mapped_column(Text)
    parts: Mapped[int]
    mark: Mapped[str]
    reason: Mapped[str] = mapped_column(Text, default="")
    reference: Mapped[str | None]
    line: Mapped[str | None]
    asked_at: Mapped[datetime] = mapped_column(Instant)
    marked_at: Mapped[datetime] = mapped_column(Instant)


class NoMoreTexts(Base):
    """Somebody who asked for no more texts: the number (E.164), on which day, and how.

    A number stands on the list once; one that stood there by mistake is taken off and stays on record.
    """

    __tablename__ = "no_more_texts"
    __table_args__ = (
        Index("no_more_texts_by_number", "number", unique=True, sqlite_where=text("taken_off_at IS NULL")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[str]
    asked_on: Mapped[date] = mapped_column(Day)
    how: Mapped[str] = mapped_column(Text, default="")
    noted_at: Mapped[datetime] = mapped_column(Instant)
    taken_off_at: Mapped[datetime | None] = mapped_column(Instant)


class KeptWording(Base):
    """A wording in the drawer. One that was removed can be brought back."""

    __tablename__ = "drawer"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    text: Mapped[str] = mapped_column(Text)
    kept_at: Mapped[datetime] = mapped_column(Instant)
    removed_at: Mapped[datetime | None] = mapped_column(Instant)


class LookedAtRow(Base):
    """A text that somebody looked at before sending: that of a row (from 1), with its fingerprint as it was then."""

    __tablename__ = "looked_at"

    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True)
    row: Mapped[RowNumber] = mapped_column(primary_key=True)
    fingerprint: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)


class RehearsalRecord(Base):
    """A round's last rehearsal: of which texts (their seal) and at which pace (as JSON), and what came of it in words.

    `whole` says that it went to its end. It touches no mark, no ledger and no line.
    """

    __tablename__ = "rehearsals"

    round_id: Mapped[int] = mapped_column(ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True)
    at: Mapped[datetime] = mapped_column(Instant)
    seal: Mapped[str]
    pace: Mapped[str] = mapped_column(Text)
    outcome: Mapped[str] = mapped_column(Text)
    whole: Mapped[bool]


class LineRecord(Base):
    """A line: a way out, and what of its state must last.

    Attributes:
        kind: which sort of line it is, by its key in the registry.
        name: what the recipient sees as the sender.
        identity: which way out this is, carrier included: only the same one can be asked about its hand-overs.
        settings: those of its kind, as JSON.
        abilities: what it can do, as JSON, for whoever does not know its kind.
        last_hand_over_at, draw: the last hand-over, and the number drawn for the gap after it.
        not_before: until when its carrier is left alone.
        in_a_row: how many texts left since the last rest.
        slowed: how many times as long as usual the gap is, because the carrier asked for fewer texts.
        away_since, reason: since when its carrier is away, and why; None and "" while it is there.
        failures: how many looks in a row failed; `wait` is how many seconds the present wait is long, and `asked` how
            many of them the carrier asked for.
        used_at: when a sender last began to use it; the newest is the line that rounds go by.
    """

    __tablename__ = "lines"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    name: Mapped[str]
    identity: Mapped[str] = mapped_column(String, unique=True)
    settings: Mapped[str] = mapped_column(Text, default="{}")
    abilities: Mapped[str] = mapped_column(Text, default="{}")
    last_hand_over_at: Mapped[datetime | None] = mapped_column(Instant)
    draw: Mapped[float] = mapped_column(default=0.0)
    not_before: Mapped[datetime | None] = mapped_column(Instant)
    away_since: Mapped[datetime | None] = mapped_column(Instant)
    reason: Mapped[str] = mapped_column(Text, default="")
    failures: Mapped[int] = mapped_column(default=0)
    wait: Mapped[float] = mapped_column(default=0.0)
    asked: Mapped[float] = mapped_column(default=0.0)
    used_at: Mapped[datetime | None] = mapped_column(Instant)
    in_a_row: Mapped[int] = mapped_column(default=0)
    slowed: Mapped[float] = mapped_column(default=1.0)


class Attempt(Base):
    """One hand-over of a text by a line, under a reference, and what is known of it.

    A trigger keeps a reference to one text. `carrier_id` is the carrier's own id for it, `answer` what it said.
    `beyond_proof` says that nobody can know when it was handed over, if at all: "no record" proves nothing of it.
    """

    __tablename__ = "attempts"
    __table_args__ = (
        Index("attempts_by_message", "message_id", "id"),
        Index("attempts_by_reference", "reference"),
        Index("attempts_by_line", "line_id", "at"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    message_id: Mapped[int] = mapped_column(ForeignKey("messages.id"))
    line_id: Mapped[int] = mapped_column(ForeignKey("lines.id"))
    reference: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)
    state: Mapped[str]
    carrier_id: Mapped[str] = mapped_column(String, default="")
    answer: Mapped[str] = mapped_column(Text, default="")
    answered_at: Mapped[datetime | None] = mapped_column(Instant)
    beyond_proof: Mapped[bool] = mapped_column(default=False)


class SenderRecord(Base):
    """Who has the turn of a line: which process it is, and what stands for its settings.

    `turn` grows each time another process takes it, which a trigger sees to; every write of a sender names its own, so
    that one that was replaced writes nothing more.
    """

    __tablename__ = "senders"

    line_id: Mapped[int] = mapped_column(primary_key=True)
    turn: Mapped[int] = mapped_column(default=0)
    process: Mapped[str] = mapped_column(String, default="")
    settings: Mapped[str] = mapped_column(String, default="")


class ThisLedger(Base):
    """What the ledger knows of itself. There is one row.

    `identity` is a random id, and `secret` what its references are made with: both are as old as the ledger, and its
    copies have them too. `machine` stands for the one it was last used on; `witnessed` says that its hand-overs are
    written down beside it as well.
    """

    __tablename__ = "this_ledger"

    id: Mapped[int] = mapped_column(primary_key=True)
    identity: Mapped[str] = mapped_column(default=lambda: secrets.token_hex(16))
    secret: Mapped[str] = mapped_column(default=lambda: secrets.token_hex(32))
    machine: Mapped[str] = mapped_column(default="")
    witnessed: Mapped[bool] = mapped_column(default=False)


class UnknownHandOver(Base):
    """A hand-over that a witness names, of a text that this ledger does not have, or not yet.

    `line_key` stands for the line, see `witness.line_key`; `row` is 0 for a trial.
    """

    __tablename__ = "unknown_hand_overs"
    __table_args__ = (
        Index("unknown_hand_overs_by_round", "round_uid", "row"),
        Index("unknown_hand_overs_by_reference", "reference"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    round_uid: Mapped[str]
    row: Mapped[int]
    reference: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)
    line_key: Mapped[str]


class Notice(Base):
    """Something of the ledger as a whole that has to be looked at: a reason as code and parameters (JSON)."""

    __tablename__ = "notices"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(Instant)
    code: Mapped[str]
    parameters: Mapped[str] = mapped_column(Text, default="{}")
    seen_at: Mapped[datetime | None] = mapped_column(Instant)


class LedgerEntry(Base):
    """One line of the lasting record. It is added to; triggers refuse any change or removal."""

    __tablename__ = "ledger"
    __table_args__ = (
        Index("ledger_by_message", "message_id", "id"),
        Index("hand_overs_by_reference", "reference", sqlite_where=text("mark = 'Going'")),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(Instant)
    message_id: Mapped[int] = mapped_column(ForeignKey("messages.id"))
    mark: Mapped[str]
    reason: Mapped[str] = mapped_column(Text, default="")
    reason_code: Mapped[str] = mapped_column(String, default="")
    reason_parameters: Mapped[str] = mapped_column(Text, default="{}")
    reference: Mapped[str | None]
    line: Mapped[str | None]
