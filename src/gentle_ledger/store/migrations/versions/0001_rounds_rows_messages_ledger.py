"""Rounds, their rows, the texts of started rounds, and the ledger.

The triggers guard what no code may do: unsay a mark, change a frozen text, or rewrite the record.
"""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None

# Written out, not read from the program: a migration stays what it was on its day.
STEPS = (
    ("To go", "Going"),
    ("Going", "Sent"),
    ("Going", "Failed"),
    ("Going", "Unsure"),
    ("Unsure", "Sent"),
    ("Unsure", "Failed"),
    ("To go", "Sent"),
    ("To go", "Failed"),
    ("Failed", "To go"),
    ("To go", "Left out"),
    ("Left out", "To go"),
)


def upgrade() -> None:
    op.create_table(
        "rounds",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("stage", sa.String, nullable=False),
        sa.Column("recipe", sa.Text, nullable=False),
        sa.Column("columns", sa.Text, nullable=False),
        sa.Column("row_count", sa.Integer, nullable=False),
        sa.Column("file_name", sa.String, nullable=False),
        sa.Column("worksheet", sa.String),
        sa.Column("note", sa.Text, nullable=False),
        sa.Column("version", sa.Integer, nullable=False),
        sa.Column("created_at", sa.String, nullable=False),
        sa.Column("started_at", sa.String),
        sa.Column("finished_at", sa.String),
    )
    op.create_table(
        "rows",
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("cells", sa.Text, nullable=False),
        sa.Column("left_out", sa.Boolean, nullable=False),
        sa.Column("released", sa.Boolean, nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_table(
        "messages",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id"), nullable=False),
        sa.Column("row", sa.Integer, nullable=False),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("address", sa.String, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("parts", sa.Integer, nullable=False),
        sa.Column("mark", sa.String, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("may_retry", sa.Boolean, nullable=False),
        sa.Column("tries", sa.Integer, nullable=False),
        sa.Column("reference", sa.String),
        sa.Column("marked_at", sa.String, nullable=False),
        sa.UniqueConstraint("round_id", "row"),
    )
    op.create_index("messages_by_mark", "messages", ["round_id", "mark", "row"])
    op.create_index("messages_going", "messages", ["mark"], sqlite_where=sa.text("mark = 'Going'"))
    op.create_table(
        "ledger",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("message_id", sa.Integer, sa.ForeignKey("messages.id"), nullable=False),
        sa.Column("mark", sa.String, nullable=False),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("reference", sa.String),
        sa.Column("line", sa.String),
        sqlite_autoincrement=True,
    )
    op.create_index("ledger_by_message", "ledger", ["message_id", "id"])
    # A reference belongs to one hand-over: no second one can begin under it.
    op.create_index(
        "one_hand_over_a_reference",
        "ledger",
        ["reference"],
        unique=True,
        sqlite_where=sa.text("mark = 'Going'"),
    )
    steps = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in STEPS)
    op.execute(
        "CREATE TRIGGER marks_step_only_as_allowed BEFORE UPDATE OF mark ON messages "
        f"WHEN OLD.mark <> NEW.mark AND NOT ({steps}) "
        "BEGIN SELECT RAISE(ABORT, 'a mark cannot take this step'); END"
    )
    op.execute(
        "CREATE TRIGGER frozen_texts BEFORE UPDATE OF round_id, row, address, text, parts ON messages "
        "BEGIN SELECT RAISE(ABORT, 'a frozen text cannot change'); END"
    )
    op.execute(
        "CREATE TRIGGER messages_stay BEFORE DELETE ON messages "
        "BEGIN SELECT RAISE(ABORT, 'a frozen text cannot be removed'); END"
    )
    for action in ("UPDATE", "DELETE"):
        op.execute(
            f"CREATE TRIGGER ledger_no_{action.lower()} BEFORE {action} ON ledger "
            "BEGIN SELECT RAISE(ABORT, 'the ledger is only added to'); END"
        )
