"""What a window asked for is done once, however often it asks; and each change keeps which window made it, and when.

`version` is the round's after the change, `undone_version` the one after it was taken back.
"""

import sqlalchemy as sa
from alembic import op

revision = "0019"
down_revision = "0018"


def upgrade() -> None:
    op.create_table(
        "deeds",
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("key", sa.String, primary_key=True),
        sa.Column("change_id", sa.Integer),
        sa.Column("at", sa.String, nullable=False),
        sqlite_with_rowid=False,
    )
    op.add_column("changes", sa.Column("window", sa.String, nullable=False, server_default=""))
    op.add_column("changes", sa.Column("version", sa.Integer, nullable=False, server_default="0"))
    op.add_column("changes", sa.Column("undone_window", sa.String, nullable=False, server_default=""))
    op.add_column("changes", sa.Column("undone_version", sa.Integer, nullable=False, server_default="0"))
    # What other windows did is looked for at each change, past effects that may be long.
    op.create_index("changes_by_version", "changes", ["round_id", "version"])
    op.create_index("changes_by_undone_version", "changes", ["round_id", "undone_version"])
