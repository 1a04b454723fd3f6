"""Corrections: cells mended in the program, rows added by hand, and what of it can be undone.

`rows.original` keeps the cells as they were brought in, once one of them was mended. `rounds.reading` says what was
left out when the file was read.
"""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("rounds", sa.Column("reading", sa.Text, nullable=False, server_default=""))
    op.add_column("rows", sa.Column("original", sa.Text))
    op.add_column("rows", sa.Column("added", sa.Boolean, nullable=False, server_default=sa.false()))
    op.create_table(
        "corrections",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), nullable=False),
        sa.Column("step", sa.Integer, nullable=False),
        sa.Column("row", sa.Integer, nullable=False),
        sa.Column("column", sa.Integer),
        sa.Column("before", sa.Text),
        sa.Column("after", sa.Text),
        sa.Column("undone", sa.Boolean, nullable=False),
    )
    op.create_index("corrections_by_round", "corrections", ["round_id", "step"])
