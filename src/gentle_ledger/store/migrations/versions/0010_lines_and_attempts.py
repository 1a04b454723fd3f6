"""A line and an attempt are rows of their own, and the sender says in the store what hinders it.

What was handed over until now is carried over from the ledger.
"""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.rename_table("lines", "earlier_lines")
    op.create_table(
        "lines",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("identity", sa.String, nullable=False),
        sa.Column("settings", sa.Text, nullable=False),
        sa.Column("abilities", sa.Text, nullable=False),
        sa.Column("last_hand_over_at", sa.String),
        sa.Column("draw", sa.Float, nullable=False),
        sa.Column("not_before", sa.String),
        sa.Column("day", sa.String, nullable=False),
        sa.Column("of_day", sa.Integer, nullable=False),
        sa.Column("away_since", sa.String),
        sa.Column("reason", sa.Text, nullable=False),
        sa.Column("failures", sa.Integer, nullable=False),
        sa.Column("wait", sa.Float, nullable=False),
        sa.Column("asked", sa.Float, nullable=False),
        sa.Column("used_at", sa.String),
        sa.UniqueConstraint("identity"),
    )
    op.create_table(
        "attempts",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("message_id", sa.Integer, sa.ForeignKey("messages.id"), nullable=False),
        sa.Column("line_id", sa.Integer, sa.ForeignKey("lines.id"), nullable=False),
        sa.Column("reference", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("carrier_id", sa.String, nullable=False),
        sa.Column("answer", sa.Text, nullable=False),
        sa.Column("answered_at", sa.String),
    )
    op.create_index("attempts_by_message", "attempts", ["message_id", "id"])
    op.create_index("attempts_by_reference", "attempts", ["reference"])
    op.create_table(
        "senders",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("process", sa.String, nullable=False),
        sa.Column("trouble", sa.Text, nullable=False),
    )
    _carry_over()
    op.drop_table("earlier_lines")
    op.execute(
        "CREATE TRIGGER one_text_a_reference BEFORE INSERT ON attempts WHEN EXISTS "
        "(SELECT 1 FROM attempts WHERE reference = NEW.reference AND message_id <> NEW.message_id) "
        "BEGIN SELECT RAISE(ABORT, 'this reference belongs to another text'); END"
    )
    for action in ("DELETE", "UPDATE OF message_id, line_id, reference, at"):
        name = action.split()[0].lower()
        op.execute(
            f"CREATE TRIGGER attempts_no_{name} BEFORE {action} ON attempts "
            "BEGIN SELECT RAISE(ABORT, 'an attempt stays on record'); END"
        )


def _carry_over() -> None:
    # Until now a line was known by its identity alone, in front of which its sender's name stands.
    put = (
        "INSERT INTO lines (kind, name, identity, settings, abilities, draw, day, of_day, "
        "reason, failures, wait, asked, away_since, not_before) "
    )
    op.execute(
        put + "SELECT 'oma messaging', name, name, '{}', '{}', 0, '', 0, reason, failures, wait, asked, away_since, "
        "away_since FROM earlier_lines"
    )
    op.execute(
        put + "SELECT DISTINCT 'oma messaging', line, line, '{}', '{}', 0, '', 0, '', 0, 0, 0, NULL, NULL FROM ledger "
        "WHERE mark = 'Going' AND coalesce(line, '') NOT IN (SELECT identity FROM lines) AND line IS NOT NULL"
    )
    op.execute(
        put + "SELECT 'oma messaging', '', '', '{}', '{}', 0, '', 0, '', 0, 0, 0, NULL, NULL WHERE EXISTS "
        "(SELECT 1 FROM ledger WHERE mark = 'Going' AND line IS NULL)"
    )
    op.execute(
        "INSERT INTO attempts (message_id, line_id, reference, at, state, carrier_id, answer) "
        "SELECT l.message_id, (SELECT id FROM lines WHERE identity = coalesce(l.line, '')), l.reference, l.at, "
        "CASE WHEN m.reference <> l.reference THEN 'open' WHEN m.mark = 'Sent' THEN 'accepted' "
        "WHEN m.mark = 'Failed' THEN 'refused' ELSE 'open' END, '', "
        "CASE WHEN m.reference = l.reference AND m.mark = 'Failed' THEN m.reason ELSE '' END "
        "FROM ledger l JOIN messages m ON m.id = l.message_id "
        "WHERE l.mark = 'Going' AND l.reference IS NOT NULL ORDER BY l.id"
    )
