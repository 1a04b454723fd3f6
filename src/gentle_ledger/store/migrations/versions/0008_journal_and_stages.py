"""One journal for every change of a round, in the place of the corrections of its cells; stages step as marks do.

What was corrected before is carried over, so that it can still be undone. `earlier_sheets` and `earlier_rows` keep what
a newer version of a sheet took the place of.
"""

import json
from itertools import groupby

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"

STAGES = (
    ("preparing", "sending"),
    ("sending", "paused"),
    ("sending", "stopped"),
    ("sending", "finished"),
    ("paused", "sending"),
    ("paused", "stopped"),
    ("stopped", "sending"),
    ("finished", "sending"),
)


def upgrade() -> None:
    op.create_table(
        "changes",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), nullable=False),
        sa.Column("at", sa.String, nullable=False),
        sa.Column("until", sa.String, nullable=False),
        sa.Column("by", sa.String, nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("parameters", sa.Text, nullable=False),
        sa.Column("effects", sa.Text, nullable=False),
        sa.Column("undoable", sa.Boolean, nullable=False),
        sa.Column("undone_at", sa.String),
        sa.Column("undone_by", sa.String),
        sa.Column("dropped", sa.Boolean, nullable=False),
        sqlite_autoincrement=True,
    )
    op.create_index("changes_by_round", "changes", ["round_id", "id"])
    op.create_table(
        "earlier_sheets",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("round_id", sa.Integer, sa.ForeignKey("rounds.id", ondelete="CASCADE"), nullable=False),
        sa.Column("columns", sa.Text, nullable=False),
        sa.Column("file_name", sa.String, nullable=False),
        sa.Column("reading", sa.Text, nullable=False),
    )
    op.create_index("earlier_sheets_by_round", "earlier_sheets", ["round_id"])
    op.create_table(
        "earlier_rows",
        sa.Column("sheet_id", sa.Integer, sa.ForeignKey("earlier_sheets.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("cells", sa.Text, nullable=False),
        sa.Column("left_out", sa.Boolean, nullable=False),
        sa.Column("released", sa.Boolean, nullable=False),
        sa.Column("original", sa.Text),
        sa.Column("added", sa.Boolean, nullable=False),
        sa.Column("hidden", sa.Boolean, nullable=False),
        sqlite_with_rowid=False,
    )
    _carry_over()
    op.drop_table("corrections")
    steps = " OR ".join(f"(OLD.stage = '{before}' AND NEW.stage = '{after}')" for before, after in STAGES)
    op.execute(
        "CREATE TRIGGER stages_step_only_as_allowed BEFORE UPDATE OF stage ON rounds "
        f"WHEN OLD.stage <> NEW.stage AND NOT ({steps}) "
        "BEGIN SELECT RAISE(ABORT, 'a round cannot take this step'); END"
    )


def _carry_over() -> None:
    connection = op.get_bind()
    wanted = sa.text(
        'SELECT c.round_id, c.step, c.row, c."column", c.before, c.after, c.undone, r.created_at, r.columns '
        "FROM corrections c JOIN rounds r ON r.id = c.round_id ORDER BY c.round_id, c.step, c.id"
    )
    put = sa.text(
        'INSERT INTO changes (round_id, at, until, "by", kind, parameters, effects, undoable, undone_at, dropped) '
        "VALUES (:round, :at, :at, 'this machine', :kind, :parameters, :effects, 1, :undone, 0)"
    )
    rows = connection.execute(wanted).all()
    for (round_id, _), each in groupby(rows, key=lambda row: (row.round_id, row.step)):
        step = list(each)
        kind, parameters, effects = _as_change(step)
        first = step[0]
        connection.execute(
            put,
            {
                "round": round_id,
                "at": first.created_at,
                "kind": kind,
                "parameters": json.dumps(parameters, ensure_ascii=False),
                "effects": json.dumps(effects, ensure_ascii=False),
                "undone": first.created_at if first.undone else None,
            },
        )


def _as_change(step: list[sa.Row]) -> tuple[str, dict[str, object], list[dict[str, object]]]:  # type: ignore[type-arg]
    first = step[0]
    if first.column is None and first.after is None:
        return "row added", {"row": first.row}, [{"kind": "row", "number": first.row}]
    if first.column is None:
        out = json.loads(first.after)
        numbers = [row.row for row in step]
        parameters = {"row": first.row, "rows": len(numbers)}
        effect = {"kind": "flag", "name": "left_out", "rows": numbers, "after": out}
        return ("rows left out" if out else "rows taken back"), parameters, [effect]
    cells = [
        [row.row, row.column, json.dumps([json.loads(row.before)[0], json.loads(row.after)[0]], ensure_ascii=False)]
        for row in step
    ]
    after = json.loads(first.after)[0]
    shown = next(iter(after.values())) if isinstance(after, dict) else after
    names = json.loads(first.columns)
    column = names[first.column] if first.column < len(names) else ""
    typed = "" if shown is None else str(shown)
    parameters = {"typed": typed, "row": first.row, "column": column, "cells": len(cells)}
    return "cells mended", parameters, [{"kind": "cells", "cells": cells}]
