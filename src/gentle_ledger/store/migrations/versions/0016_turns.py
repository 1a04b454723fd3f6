"""What the pace knows of each text, round and line: its place in the order, its moment and zones, and whose turn it is.

Texts that were frozen before keep the order of their rows.
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.add_column("messages", sa.Column("place", sa.Integer, nullable=False, server_default="0"))
    op.add_column("messages", sa.Column("moment", sa.String))
    op.add_column("messages", sa.Column("zones", sa.String, nullable=False, server_default=""))
    op.execute("UPDATE messages SET place = row")
    to_go = sa.text("mark = 'To go' AND with_row IS NULL")
    op.create_index("messages_to_go", "messages", ["round_id", "zones", "place"], sqlite_where=to_go)
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
    op.create_index("attempts_by_line", "attempts", ["line_id", "at"])
