"""Trials: texts that the clerk had sent to a number of their own. They belong to no row, and stay on record."""

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"

STEPS = (
    ("To go", "Going"),
    ("Going", "To go"),
    ("Going", "Sent"),
    ("Going", "Failed"),
    ("Going", "Unsure"),
)


def upgrade() -> None:
    op.create_table(
        "trials",
        sa.Column("id", sa.Integer, primary_key=True),
        # The round may be removed later; the trial stays.
        sa.Column("round_id", sa.Integer, nullable=False),
        sa.Column("row", sa.Integer, nullable=False),
        sa.Column("address", sa.String, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("parts", sa.Integer, nullable=False),
        sa.Column("mark", sa.String, nullable=False),
        sa.Column("reason", sa.Text, nullable=False, server_default=""),
        sa.Column("reference", sa.String),
        sa.Column("line", sa.String),
        sa.Column("asked_at", sa.String, nullable=False),
        sa.Column("marked_at", sa.String, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_index("trials_by_round", "trials", ["round_id", "id"])
    op.create_index("trials_open", "trials", ["id"], sqlite_where=sa.text("mark IN ('To go', 'Going')"))
    steps = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in STEPS)
    op.execute(
        "CREATE TRIGGER trials_step_only_as_allowed BEFORE UPDATE OF mark ON trials "
        f"WHEN OLD.mark <> NEW.mark AND NOT ({steps}) "
        "BEGIN SELECT RAISE(ABORT, 'a trial cannot take this step'); END"
    )
    op.execute(
        "CREATE TRIGGER frozen_trials BEFORE UPDATE OF round_id, row, address, text, parts, asked_at ON trials "
        "BEGIN SELECT RAISE(ABORT, 'a trial cannot change'); END"
    )
    op.execute(
        "CREATE TRIGGER trials_stay BEFORE DELETE ON trials BEGIN SELECT RAISE(ABORT, 'a trial cannot be removed'); END"
    )
