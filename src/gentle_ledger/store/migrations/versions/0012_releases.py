"""What a row was released from, and why, also on record with its text; and who asked for no more texts."""

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
