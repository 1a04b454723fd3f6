"""A round's number is given once: the number of a removed round never comes back.

SQLite gives the highest number again once its row is gone, and whoever still had the removed round at hand (an open
window, the desks in memory) would take the new one for it.
"""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table("round_numbers", sa.Column("id", sa.Integer, primary_key=True), sqlite_autoincrement=True)
    op.execute("INSERT INTO round_numbers (id) SELECT id FROM rounds")
