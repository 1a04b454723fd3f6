"""What a row was released from, and why, also on record with its text; who asked for no more texts;
and which texts were looked at, as they were then; and the drawer of wordings."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    for table in ("rows", "earlier_rows"):
        op.add_column(table, sa.Column("release", sa.Text, nullable=False, server_default=""))
    op.add_column("messages", sa.Column("released", sa.Text, nullable=False, server_default=""))
    op.create_table(
        "no_more_texts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("number", sa.String, nullable=False),
        sa.Column("asked_on", sa.String, nullable=False),
        sa.Column("how", sa.Text, nullable=False),
        sa.Column("noted_at", sa.String, nullable=False),
        sa.Column("taken_off_at", sa.String),
    )
    op.create_index(
        "no_more_texts_by_number",
        "no_more_texts",
        ["number"],
        unique=True,
        sqlite_where=sa.text("taken_off_at IS NULL"),
    )
    op.create_table(
        "looked_at",
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("row", sa.Integer, primary_key=True),
        sa.Column("fingerprint", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
    )
    op.create_table(
        "drawer",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("kept_at", sa.String, nullable=False),
        sa.Column("removed_at", sa.String),
    )
