"""The last rehearsal of a round: when, of which texts, at which pace, and what came of it. It is not on record."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    op.create_table(
        "rehearsals",
        sa.Column(
            "round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), primary_key=True, nullable=False
        ),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("seal", sa.String, nullable=False),
        sa.Column("pace", sa.Text, nullable=False),
        sa.Column("outcome", sa.Text, nullable=False),
        sa.Column("whole", sa.Boolean, nullable=False),
    )
