"""Which rows the workbook did not show.

A hidden or filtered row is one that somebody did not mean to bill; it is left out until somebody takes it back.
"""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("rows", sa.Column("hidden", sa.Boolean, nullable=False, server_default=sa.false()))
