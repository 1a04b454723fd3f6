"""A version of the sheet's own cells, and texts that are found by their number over all rounds.

By `rounds.sheet_version` every copy of the program knows when what it keeps at hand is behind. `messages.codes` has the
references of a row, by which a later round finds that the same person was written to about the same thing.
"""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("rounds", sa.Column("sheet_version", sa.Integer, nullable=False, server_default="1"))
    op.add_column("messages", sa.Column("codes", sa.Text, nullable=False, server_default="[]"))
    op.create_index("messages_by_number", "messages", ["address", "marked_at"])
