"""What the pace knows of each text, round and line: its place in the order, its moment and zones, and whose turn it is.

Texts that were frozen before keep the order of their rows.
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


STAGES = (
    ("preparing", "sending"),
    ("sending", "paused"),
    ("sending", "stopped"),
    ("sending", "finished"),
    ("paused", "sending"),
    ("paused", "stopped"),
    ("stopped", "sending"),
    ("finished", "sending"),
)


def upgrade() -> None:
    op.add_column("messages", sa.Column("place", sa.Integer, nullable=False, server_default="0"))
    op.add_column("messages", sa.Column("moment", sa.String))
    op.add_column("messages", sa.Column("zones", sa.String, nullable=False, server_default=""))
    op.execute("UPDATE messages SET place = row")
    to_go = sa.text("mark = 'To go' AND with_row IS NULL")
    op.create_index("messages_to_go", "messages", ["round_id", "zones", "moment", "place"], sqlite_where=to_go)
    op.create_index(
        "messages_with_moments",
        "messages",
        ["round_id", "moment"],
        sqlite_where=sa.text("mark = 'To go' AND with_row IS NULL AND moment IS NOT NULL"),
    )
    op.execute(
        "CREATE TRIGGER frozen_turns BEFORE UPDATE OF place, zones ON messages "
        "BEGIN SELECT RAISE(ABORT, 'the turn of a text cannot change'); END"
    )
    op.add_column("rounds", sa.Column("turn", sa.Integer, nullable=False, server_default="0"))
    op.add_column("lines", sa.Column("in_a_row", sa.Integer, nullable=False, server_default="0"))
    op.add_column("lines", sa.Column("slowed", sa.Float, nullable=False, server_default="1"))
    op.add_column("senders", sa.Column("settings", sa.String, nullable=False, server_default=""))
    # A cap is counted from the attempts themselves.
    op.drop_column("lines", "day")
    op.drop_column("lines", "of_day")
    # What let a held row go is written into the record together with its first hand-over.
    op.add_column("messages", sa.Column("release", sa.Text, nullable=False, server_default="{}"))
    # A round of which nothing went can be taken back: what is on record stays.
    op.execute("DROP TRIGGER messages_stay")
    op.execute(
        "CREATE TRIGGER messages_stay BEFORE DELETE ON messages "
        "WHEN EXISTS (SELECT 1 FROM ledger WHERE ledger.message_id = OLD.id) "
        "OR EXISTS (SELECT 1 FROM attempts WHERE attempts.message_id = OLD.id) "
        "BEGIN SELECT RAISE(ABORT, 'a text on record cannot be removed'); END"
    )
    op.execute("DROP TRIGGER stages_step_only_as_allowed")
    steps = " OR ".join(f"(OLD.stage = '{before}' AND NEW.stage = '{after}')" for before, after in STAGES)
    back = (
        "(OLD.stage IN ('sending', 'paused') AND NEW.stage = 'preparing' "
        "AND NOT EXISTS (SELECT 1 FROM messages WHERE messages.round_id = OLD.id))"
    )
    op.execute(
        "CREATE TRIGGER stages_step_only_as_allowed BEFORE UPDATE OF stage ON rounds "
        f"WHEN OLD.stage <> NEW.stage AND NOT ({steps} OR {back}) "
        "BEGIN SELECT RAISE(ABORT, 'a round cannot take this step'); END"
    )
    op.create_index("attempts_by_line", "attempts", ["line_id", "at"])
