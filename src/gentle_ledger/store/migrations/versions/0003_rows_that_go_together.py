"""Rows that go together: a text made from several rows is handed over once, and its marks reach all of them.

`with_row` names the row that bears the text. The row that follows it is never handed over itself, which a trigger
guards, because two hand-overs would be the same text twice.
"""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("messages", sa.Column("with_row", sa.Integer))
    op.create_index("messages_that_follow", "messages", ["round_id", "with_row"], sqlite_where=sa.text("with_row > 0"))
    op.execute(
        "CREATE TRIGGER rows_that_follow_are_not_handed_over BEFORE INSERT ON ledger "
        "WHEN NEW.mark = 'Going' AND (SELECT with_row FROM messages WHERE id = NEW.message_id) IS NOT NULL "
        "BEGIN SELECT RAISE(ABORT, 'this row goes with another one'); END"
    )
    op.execute(
        "CREATE TRIGGER rows_stay_together BEFORE UPDATE OF with_row ON messages "
        "BEGIN SELECT RAISE(ABORT, 'which rows go together cannot change'); END"
    )
