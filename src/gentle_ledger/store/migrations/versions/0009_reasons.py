"""A reason is a code with parameters; its sentence stays beside it."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"

# The reasons that something hangs on, by their sentences until now.
CODES = (
    ("stopped before turn", "the round was stopped before its turn"),
    ("stopped while open", "the round was stopped while nobody could say what became of a first try"),
)


def upgrade() -> None:
    for table in ("messages", "ledger"):
        op.add_column(table, sa.Column("reason_code", sa.String, nullable=False, server_default=""))
        op.add_column(table, sa.Column("reason_parameters", sa.Text, nullable=False, server_default="{}"))
    connection = op.get_bind()
    for code, sentence in CODES:
        # Only the texts: entries of the record are never written anew.
        connection.execute(
            sa.text("UPDATE messages SET reason_code = :code WHERE reason = :sentence"),
            {"code": code, "sentence": sentence},
        )
