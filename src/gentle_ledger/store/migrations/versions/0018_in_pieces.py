"""What is long is written in pieces: a sheet under a number of its own, texts before their round starts.

The sheet of a round, and an earlier one of it, are told by number, so that one takes the other's place at one stroke.
"""

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"

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
CARRIED = "number, cells, left_out, released, release, original, added, hidden"


def upgrade() -> None:
    op.create_table(
        "sheets",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE")),
        sa.Column("laid_by", sa.String, nullable=False, server_default=""),
        sqlite_autoincrement=True,
    )
    op.create_index("sheets_by_round", "sheets", ["round_id"])
    op.create_table(
        "sheet_rows",
        sa.Column("sheet_id", sa.Integer, sa.ForeignKey("sheets.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("cells", sa.Text, nullable=False),
        sa.Column("left_out", sa.Boolean, nullable=False),
        sa.Column("released", sa.Boolean, nullable=False),
        sa.Column("release", sa.Text, nullable=False),
        sa.Column("original", sa.Text),
        sa.Column("added", sa.Boolean, nullable=False),
        sa.Column("hidden", sa.Boolean, nullable=False),
        sqlite_with_rowid=False,
    )
    op.add_column("rounds", sa.Column("sheet_id", sa.Integer, nullable=False, server_default="0"))
    op.add_column("rounds", sa.Column("laid_by", sa.String, nullable=False, server_default=""))
    op.add_column("rounds", sa.Column("started_as", sa.Integer, nullable=False, server_default="0"))
    op.add_column("rounds", sa.Column("stands_upto", sa.Integer, nullable=False, server_default="0"))
    op.add_column("earlier_sheets", sa.Column("sheet_id", sa.Integer, nullable=False, server_default="0"))
    # The sheets there are get the numbers of their rounds, the earlier ones those after the last of these.
    op.execute("UPDATE rounds SET sheet_id = id")
    op.execute("UPDATE earlier_sheets SET sheet_id = id + (SELECT coalesce(max(id), 0) FROM rounds)")
    op.execute("INSERT INTO sheets (id, round_id) SELECT sheet_id, id FROM rounds")
    op.execute("INSERT INTO sheets (id, round_id) SELECT sheet_id, round_id FROM earlier_sheets")
    op.execute(f"INSERT INTO sheet_rows (sheet_id, {CARRIED}) SELECT round_id, {CARRIED} FROM rows")
    op.execute(
        f"INSERT INTO sheet_rows (sheet_id, {CARRIED}) SELECT e.sheet_id, {CARRIED} "
        "FROM earlier_rows r JOIN earlier_sheets e ON e.id = r.sheet_id"
    )
    op.drop_table("earlier_rows")
    op.drop_table("rows")
    op.create_index("rounds_started", "rounds", ["started_as"])
    op.execute("DROP TRIGGER stages_step_only_as_allowed")
    steps = " OR ".join(f"(OLD.stage = '{before}' AND NEW.stage = '{after}')" for before, after in STAGES)
    back = (
        "(OLD.stage IN ('sending', 'paused') AND NEW.stage = 'preparing' AND NOT EXISTS (SELECT 1 FROM messages "
        "WHERE messages.round_id = OLD.id AND messages.mark IN ('Going', 'Sent', 'Unsure', 'Failed')))"
    )
    op.execute(
        "CREATE TRIGGER stages_step_only_as_allowed BEFORE UPDATE OF stage ON rounds "
        f"WHEN OLD.stage <> NEW.stage AND NOT ({steps} OR {back}) "
        "BEGIN SELECT RAISE(ABORT, 'a round cannot take this step'); END"
    )
