"""A round may start with some of its rows: the others stay Ready, and can be sent later."""

from alembic import op

revision = "0013"
down_revision = "0012"

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
    ("Ready", "To go"),
    ("Ready", "Left out"),
)


def upgrade() -> None:
    op.execute("DROP TRIGGER marks_step_only_as_allowed")
    steps = " OR ".join(f"(OLD.mark = '{before}' AND NEW.mark = '{after}')" for before, after in STEPS)
    op.execute(
        "CREATE TRIGGER marks_step_only_as_allowed BEFORE UPDATE OF mark ON messages "
        f"WHEN OLD.mark <> NEW.mark AND NOT ({steps}) "
        "BEGIN SELECT RAISE(ABORT, 'a mark cannot take this step'); END"
    )
