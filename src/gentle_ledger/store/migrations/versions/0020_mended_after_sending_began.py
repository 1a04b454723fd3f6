"""A row that was not handed over can be mended after sending began: its text is another one then.

It is Held until it was looked at anew. Only of such a text may number and words change, and it must not have gone.
"""

from alembic import op

revision = "0020"
down_revision = "0019"

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
    ("Ready", "Unsure"),
    ("Left out", "Unsure"),
    ("Failed", "Unsure"),
    # The row was mended, and then looked at anew.
    ("Ready", "Held"),
    ("Left out", "Held"),
    ("To go", "Held"),
    ("Failed", "Held"),
    ("Held", "Ready"),
    ("Held", "Left out"),
)
_OPEN = (
    "OLD.mark IN ('Held', 'Ready') AND NEW.mark IN ('Held', 'Ready', 'Left out') AND OLD.uncertain = 0 AND NOT EXISTS "
    "(SELECT 1 FROM attempts WHERE message_id = OLD.id "
    "AND state NOT IN ('refused', 'not taken', 'said not to have gone'))"
)


def upgrade() -> None:
    for name in ("marks_step_only_as_allowed", "frozen_texts", "frozen_turns", "rows_stay_together"):
        op.execute(f"DROP TRIGGER {name}")
    allowed = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in MARKS)
    op.execute(
        "CREATE TRIGGER marks_step_only_as_allowed BEFORE UPDATE OF mark ON messages "
        f"WHEN OLD.mark <> NEW.mark AND NOT ({allowed}) BEGIN SELECT RAISE(ABORT, 'a mark cannot take this step'); END"
    )
    for name, columns, why in (
        ("frozen_texts", "address, text, parts", "a frozen text cannot change"),
        ("frozen_turns", "place, zones", "the turn of a text cannot change"),
        ("rows_stay_together", "with_row", "which rows go together cannot change"),
    ):
        op.execute(
            f"CREATE TRIGGER {name} BEFORE UPDATE OF {columns} ON messages WHEN NOT ({_OPEN}) "
            f"BEGIN SELECT RAISE(ABORT, '{why}'); END"
        )
    op.execute(
        "CREATE TRIGGER texts_keep_their_rows BEFORE UPDATE OF round_id, row ON messages "
        "BEGIN SELECT RAISE(ABORT, 'a text keeps its row'); END"
    )
