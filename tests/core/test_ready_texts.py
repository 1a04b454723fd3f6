"""Columns that hold whole texts are recognised, and others that only look so are not."""

import pytest

from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.columns.ready_texts import ready_texts
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet

NUMBERS = [f"902-555-01{n:02}" for n in range(10)]
TEXTS = [f"Hello P{n}, your berth dues of ${n}.50 are open since Friday." for n in range(10)]


def found(cells, name="Message"):
    readings = Readings(Sheet(("Mobile", name), list(zip(NUMBERS, cells, strict=True))))
    return ready_texts(readings, readings.roles(Recipe()))


def test_a_column_of_long_different_texts_is_one_and_its_texts_go_as_they_stand():
    assert found(TEXTS) == "Message"
    sheet = Sheet(("Mobile", "Message"), list(zip(NUMBERS, TEXTS, strict=True)))
    assert compute_round(sheet, Recipe(wording="{Message}")).texts == TEXTS


@pytest.mark.parametrize(
    "cells",
    [
        [TEXTS[0]] * 10,
        ["call back", *[""] * 9],
        [*TEXTS[:7], "", "", ""],
        [f"https://pay.saltmarsh.example/berths/2026/november/{n}" for n in range(10)],
        [f"Berth C{n}" for n in range(10)],
        [f"{n} Quay Road, Saltmarsh" for n in range(10)],
    ],
    ids=["all the same", "a note", "too few", "links", "short", "addresses"],
)
def test_what_only_looks_like_texts_is_none(cells):
    assert found(cells) is None
