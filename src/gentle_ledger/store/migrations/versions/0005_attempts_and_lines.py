"""A carrier that is away costs no row.

A row whose carrier could not take it is To go again and keeps its reference, so that a reference may be handed over
more than once, but by one row only. `uncertain` says that a hand-over of a row may have gone. `lines` keeps since when
a line's carrier is away, over a restart too. `rounds.ask_wanted` is how a window asks the sender to ask the carrier.
"""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"

STEPS = (
    ("To go", "Going"),
    ("Going", "Sent"),
    ("Going", "Failed"),
    ("Going", "Unsure"),
    ("Going", "To go"),
    ("Unsure", "Sent"),
    ("Unsure", "Failed"),
    ("To go", "Sent"),
    ("To go", "Unsure"),
    ("Failed", "To go"),
    ("To go", "Left out"),
    ("Left out", "To go"),
)


def upgrade() -> None:
    op.add_column("messages", sa.Column("uncertain", sa.Boolean, nullable=False, server_default=sa.false()))
    op.execute("UPDATE messages SET uncertain = 1 WHERE mark IN ('Going', 'Unsure')")
    op.execute("DROP TRIGGER marks_step_only_as_allowed")
    steps = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in STEPS)
    op.execute(
        "CREATE TRIGGER marks_step_only_as_allowed BEFORE UPDATE OF mark ON messages "
        f"WHEN OLD.mark <> NEW.mark AND NOT ({steps}) "
        "BEGIN SELECT RAISE(ABORT, 'a mark cannot take this step'); END"
    )
    op.drop_index("messages_going", "messages")
    op.create_index("messages_uncertain", "messages", ["round_id", "row"], sqlite_where=sa.text("uncertain = 1"))
    op.drop_index("one_hand_over_a_reference", "ledger")
    op.create_index("hand_overs_by_reference", "ledger", ["reference"], sqlite_where=sa.text("mark = 'Going'"))
    op.execute(
        "CREATE TRIGGER one_row_a_reference BEFORE INSERT ON ledger WHEN NEW.mark = 'Going' AND EXISTS "
        "(SELECT 1 FROM ledger WHERE reference = NEW.reference AND mark = 'Going' AND message_id <> NEW.message_id) "
        "BEGIN SELECT RAISE(ABORT, 'this reference belongs to another row'); END"
    )
    op.create_table(
        "lines",
        sa.Column("name", sa.String, primary_key=True, nullable=False),
        sa.Column("away_since", sa.String),
        sa.Column("reason", sa.Text, nullable=False, server_default=""),
        sa.Column("failures", sa.Integer, nullable=False, server_default="0"),
        sa.Column("wait", sa.Float, nullable=False, server_default="0"),
        sa.Column("asked", sa.Float, nullable=False, server_default="0"),
    )
    op.add_column("rounds", sa.Column("ask_wanted", sa.Boolean, nullable=False, server_default=sa.false()))
