"""A removed round is kept for a day; and what was changed before sending started can no longer be undone."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.add_column("rounds", sa.Column("removed_at", sa.String))
    op.execute("UPDATE changes SET dropped = 1 WHERE round_id IN (SELECT id FROM rounds WHERE stage <> 'preparing')")
