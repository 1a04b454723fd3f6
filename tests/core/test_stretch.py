"""A stretch of a wording for some rows only, and words that follow a count."""

import json

import pytest

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.core.wording.stretch import with_stretch

COLUMNS = ("Name", "Mobile", "Due", "Days late", "Since")
ROWS = [
    ("Ines", "902-555-0100", "5", "31", "2026-10-24"),
    ("Bo", "902-555-0101", "6", "0", ""),
    ("Ada", "902-555-0102", "7", "4", ""),
]
TEXT = 'Hello {Name}, {Due} to pay. That is "late" since {Since} by {Due}.\nThe office'
MARKED = ' That is "late" since {Since} by {Due}.'
RECIPE = f"""
wording = {json.dumps(TEXT)}
[columns."Due"]
role = "money"
[columns."Since"]
format = "date d MMMM"
"""


def stretched(text=TEXT, marked=MARKED, when="{Days late} > 3", recipe=RECIPE, name="", wording=None):
    recipe = recipe_from_toml(recipe)
    columns = Composer(Readings(Sheet(COLUMNS, ROWS)), recipe).columns
    start = text.index(marked)
    return with_stretch(recipe, columns, wording, start, start + len(marked), when, name)


def test_it_stands_where_it_applies_and_leaves_nothing_where_it_does_not():
    recipe, name = stretched()
    assert (name, recipe.wording) == ("Extra words", "Hello {Name}, {Due} to pay.{Extra words}\nThe office")
    assert recipe.setting(name).formula == (
        'IF({Days late} > 3; " That is ""late"" since " & NEEDED({Since}) & " by " & NEEDED({Due}) & "."; "")'
    )
    assert recipe_from_toml(recipe_to_toml(recipe)) == recipe
    found = compute_round(Sheet(COLUMNS, ROWS), recipe)
    assert found.texts[:2] == [
        'Hello Ines, $5.00 to pay. That is "late" since 24 October by $5.00.\nThe office',
        "Hello Bo, $6.00 to pay.\nThe office",
    ]
    assert (found.marks, found.reason(2)) == (
        ["Ready", "Ready", "Held"],
        "Extra words: Since is blank, and is needed here",
    )


def test_words_set_for_a_blank_stand_in_the_stretch_as_well():
    recipe, _ = stretched(recipe=RECIPE + 'fallback = "last year"')
    found = compute_round(Sheet(COLUMNS, ROWS), recipe)
    assert found.texts[2].startswith('Hello Ada, $7.00 to pay. That is "late" since last year by')


def test_a_stretch_of_a_wording_with_a_condition():
    recipe, name = stretched(
        text="Dear {Name}, hurry.",
        marked=" hurry",
        name="Hurry",
        wording="Late",
        recipe=RECIPE + '[[wordings]]\nname = "Late"\nwhen = "TRUE"\ntext = "Dear {Name}, hurry."',
    )
    assert (name, recipe.wordings[0].text, recipe.wording) == ("Hurry", "Dear {Name},{Hurry}.", TEXT)


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"marked": " "}, "Nothing is marked"),
        ({"marked": "e}, {Du"}, "cut through a field"),
        ({"when": "{Days late} >"}, "The condition cannot be used"),
    ],
)
def test_what_cannot_be_a_stretch_is_refused(more, said):
    with pytest.raises(RecipeError, match=said):
        stretched(**more)


def test_a_name_that_is_taken_gets_a_number():
    assert stretched(name="due")[1] == "due 2"
