"""A version of the sheet's own cells, so that every copy of the program knows when what it keeps at hand is behind."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("rounds", sa.Column("sheet_version", sa.Integer, nullable=False, server_default="1"))
