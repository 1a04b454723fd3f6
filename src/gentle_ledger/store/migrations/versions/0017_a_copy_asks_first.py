"""What a ledger must know of itself, so that a copy of it asks first; who has the turn of a line; and by which line.

Rounds that were started before go by the line that was in use last.
"""

import secrets

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"

MARKS = (
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
    ("Ready", "To go"),
    ("Ready", "Left out"),
    # A copy was put back, and since it was made the text was handed over.
    ("Ready", "Unsure"),
    ("Left out", "Unsure"),
    ("Failed", "Unsure"),
)
TRIALS = (
    ("To go", "Going"),
    ("Going", "To go"),
    ("Going", "Sent"),
    ("Going", "Failed"),
    ("Going", "Unsure"),
    # It is not handed over at all, or a copy was put back and nobody can say whether it was.
    ("To go", "Failed"),
    ("To go", "Unsure"),
)


def upgrade() -> None:
    op.create_table(
        "this_ledger",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("identity", sa.String, nullable=False),
        sa.Column("secret", sa.String, nullable=False),
        sa.Column("machine", sa.String, nullable=False, server_default=""),
        sa.Column("witnessed", sa.Boolean, nullable=False, server_default="0"),
    )
    put = sa.text("INSERT INTO this_ledger (id, identity, secret) VALUES (1, :identity, :secret)")
    op.get_bind().execute(put, {"identity": secrets.token_hex(16), "secret": secrets.token_hex(32)})
    op.create_table(
        "unknown_hand_overs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_uid", sa.String, nullable=False),
        sa.Column("row", sa.Integer, nullable=False),
        sa.Column("reference", sa.String, nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("line_key", sa.String, nullable=False),
    )
    op.create_index("unknown_hand_overs_by_round", "unknown_hand_overs", ["round_uid", "row"])
    op.create_index("unknown_hand_overs_by_reference", "unknown_hand_overs", ["reference"])
    op.create_table(
        "notices",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("code", sa.String, nullable=False),
        sa.Column("parameters", sa.Text, nullable=False),
        sa.Column("seen_at", sa.String),
    )
    op.add_column("rounds", sa.Column("uid", sa.String, nullable=False, server_default=""))
    op.execute("UPDATE rounds SET uid = lower(hex(randomblob(16)))")
    op.create_index("rounds_by_uid", "rounds", ["uid"], unique=True)
    op.add_column("rounds", sa.Column("line_id", sa.Integer))
    op.execute(
        "UPDATE rounds SET line_id = (SELECT id FROM lines WHERE used_at IS NOT NULL ORDER BY used_at DESC, id DESC "
        "LIMIT 1) WHERE stage <> 'preparing'"
    )
    op.add_column("rounds", sa.Column("look_first", sa.Text, nullable=False, server_default=""))
    op.add_column("rounds", sa.Column("asks_first", sa.Boolean, nullable=False, server_default="0"))
    op.add_column("attempts", sa.Column("beyond_proof", sa.Boolean, nullable=False, server_default="0"))
    op.drop_table("senders")
    op.create_table(
        "senders",
        sa.Column("line_id", sa.Integer, primary_key=True),
        sa.Column("turn", sa.Integer, nullable=False),
        sa.Column("process", sa.String, nullable=False),
        sa.Column("settings", sa.String, nullable=False),
    )
    for table, steps, what in (("messages", MARKS, "mark"), ("trials", TRIALS, "trial")):
        name = "marks_step_only_as_allowed" if what == "mark" else "trials_step_only_as_allowed"
        op.execute(f"DROP TRIGGER {name}")
        allowed = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in steps)
        op.execute(
            f"CREATE TRIGGER {name} BEFORE UPDATE OF mark ON {table} WHEN OLD.mark <> NEW.mark AND NOT ({allowed}) "
            f"BEGIN SELECT RAISE(ABORT, 'a {what} cannot take this step'); END"
        )
    op.execute(
        "CREATE TRIGGER turns_only_grow BEFORE UPDATE OF turn ON senders WHEN NEW.turn < OLD.turn "
        "BEGIN SELECT RAISE(ABORT, 'a turn only grows'); END"
    )
    op.execute(
        "CREATE TRIGGER uids_stay BEFORE UPDATE OF uid ON rounds "
        "BEGIN SELECT RAISE(ABORT, 'the id of a round cannot change'); END"
    )
