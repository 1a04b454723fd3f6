"""Several wordings in one round, and what is left around a field that comes to no text."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.errors import RecipeError
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.toml import recipe_from_toml, recipe_to_toml
from gentle_ledger.core.rounds.compute import Computed, compute_round
from gentle_ledger.core.rounds.fit import refuse_misfit
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.core.wording.renaming import renamed, uses_of
from gentle_ledger.core.wording.seams import closed_up

RECIPE = """
wording = "Hello {Name}, {Due} by {Day}."
[[wordings]]
name = "Final reminder"
when = "{Days late} > 30"
text = "{Name}: {Due} is {Days late} days late."
[[wordings]]
name = "Paid"
when = '{Paid} = "yes"'
text = "Thank you, {Name}."
[columns."Due"]
role = "money"
"""
COLUMNS = ("Name", "Mobile", "Due", "Day", "Days late", "Paid")
ROWS = [
    ("Ines", "902-555-0100", "5", "2026-11-30", "31", "no"),
    ("Bo", "902-555-0101", "6", "2026-11-30", "30", "yes"),
    ("Ada", "902-555-0102", "7", "2026-11-30", "", "no"),
    ("Kofi", "902-555-0103", "8", "", "45", "yes"),
    ("Ruta", "902-555-0104", "9", "2026-11-30", "oops", "yes"),
]


def computed(rows=ROWS, recipe=RECIPE, **more):
    return compute_round(Sheet(COLUMNS, rows), recipe_from_toml(recipe), **more)


def test_each_row_reads_the_first_wording_whose_condition_is_true():
    found = computed()
    assert found.texts == [
        "Ines: $5.00 is 31 days late.",
        "Thank you, Bo.",
        "Hello Ada, $7.00 by Nov 30, 2026.",
        "Kofi: $8.00 is 45 days late.",
        "",
    ]
    assert [found.wording_name(row) for row in range(5)] == ["Final reminder", "Paid", None, "Final reminder", ""]
    assert found.marks == ["Ready"] * 4 + ["Held"], "a blank of another wording holds nothing"
    assert found.reason(4) == (
        "the condition of the wording \"Final reminder\" cannot be decided: Days late is 'oops', not a number"
    )


def test_a_field_of_the_rows_own_wording_holds_it():
    rows = [(name, mobile, due, "", "1", "no") for name, mobile, due, *_ in ROWS[:1]] + ROWS[3:4]
    assert computed(rows).marks == ["Held", "Ready"]


def test_all_texts_at_once_are_the_texts_one_by_one():
    composer = Composer(Readings(Sheet(COLUMNS, ROWS)), recipe_from_toml(RECIPE))
    assert composer.texts() == [composer.text(row) for row in range(5)]
    for row in range(5):
        runs = composer.runs(row)
        assert any(run.gap for run in runs) or "".join(run.text for run in runs) == composer.text(row)


def test_combined_rows_have_one_wording():
    rows = [ROWS[2], (*ROWS[2][:2], *ROWS[0][2:])]
    combine = '[combine]\nby = "Mobile"\n[combine.columns]\n"Due" = "sum"\n"Days late" = "largest"\n"Name" = "first"'
    found = computed(rows, RECIPE + combine)
    assert found.texts == ["Ada: $12.00 is 31 days late.", ""]
    assert [found.wording_name(row) for row in (0, 1)] == ["Final reminder"] * 2


@pytest.mark.parametrize(
    ("extra", "said"),
    [
        ('[[wordings]]\nname = "Late"\nwhen = "{Late} > 3"', 'The condition of the wording "Late" cannot be used'),
        ('[[wordings]]\nname = "A"\nwhen = "TRUE"\ntext = "{Oops}"', 'The wording "A" cannot be used: No column'),
    ],
)
def test_what_cannot_be_used_is_said_before_anything_is_computed(extra, said):
    composer = Composer(Readings(Sheet(COLUMNS, ROWS)), recipe_from_toml(extra))
    with pytest.raises(RecipeError, match=said):
        refuse_misfit(composer)


@pytest.mark.parametrize(
    ("wordings", "said"),
    [
        ('[[wordings]]\nname = "A"\nwhen = "1"\n[[wordings]]\nname = "a"\nwhen = "1"', "same name"),
        ('[[wordings]]\nname = "Main wording"\nwhen = "1"', "what the wording for all other rows is called"),
        ('[[wordings]]\nname = " "\nwhen = "1"', "needs a name"),
        ('[[wordings]]\nname = "A"\nwhen = "1"\nwording = "x"', "Write wording above the first line in square"),
    ],
)
def test_names_that_cannot_be_told_apart_are_refused(wordings, said):
    with pytest.raises(RecipeError, match=said):
        recipe_from_toml(wordings)


def test_the_settings_file_is_read_back_as_the_same():
    recipe = recipe_from_toml(RECIPE + '[checks]\n"unusual" = "holds"')
    assert recipe_from_toml(recipe_to_toml(recipe)) == recipe


def test_a_renamed_column_is_renamed_in_every_wording_and_condition():
    recipe = renamed(recipe_from_toml(RECIPE), "days late", "Late by")
    assert [(each.when, each.text) for each in recipe.wordings] == [
        ("{Late by} > 30", "{Name}: {Due} is {Late by} days late."),
        ('{Paid} = "yes"', "Thank you, {Name}."),
    ]
    assert uses_of(recipe, "Paid") == ["the wording “Paid”"]


SEAMS = [
    (["a ", "", " b"], "a b"),
    (["a ", "", "  b"], "a  b"),
    (["a", "", " b"], "a b"),
    (["a ", "", ""], "a"),
    (["", " b"], "b"),
    (["a ", "", "\nb"], "a\nb"),
    (["a\n", "", " b"], "a\nb"),
    (["a\n", "", "\nb"], "a\nb"),
    (["a\n\n", "", "\n\nb"], "a\n\nb"),
    (["a\n\n", "", "\nb"], "a\n\nb"),
    (["a\n", "", "\n\nb"], "a\n\nb"),
    (["a\n\n", ""], "a"),
    (["", "\n\nb"], "b"),
    (["a\n", "", " ", "", "\nb"], "a\nb"),
    (["a ", "", " ", "", " b"], "a b"),
    (["Hello ", "", ", b"], "Hello , b"),
    (["a  b ", "", " c"], "a  b c"),
    (["", ""], ""),
]


@pytest.mark.parametrize(("pieces", "text"), SEAMS)
def test_what_stood_around_nothing_is_drawn_together(pieces, text):
    assert "".join(closed_up(pieces)) == text


@given(st.lists(st.text("ab \n", max_size=4), max_size=6))
def test_only_spaces_and_line_ends_go_and_each_piece_keeps_its_words(pieces):
    found = closed_up(pieces)
    assert len(found) == len(pieces)
    for before, after in zip(pieces, found, strict=True):
        assert after in before
        assert [c for c in before if c.isalpha()] == [c for c in after if c.isalpha()]


@given(st.lists(st.sampled_from(["", "late", "late "]), min_size=1, max_size=4))
def test_a_stretch_that_is_blank_leaves_the_text_as_if_it_had_never_been_there(values):
    rows = [(value, f"902-555-01{n:02}") for n, value in enumerate(values)]
    recipe = recipe_from_toml(
        'wording = "Dues {Stretch} today.\\n{Stretch}\\nThe office"\n'
        '[columns.Stretch]\nformula = \'IF({Late} = ""; ""; "is late")\''
    )
    composer = Composer(Readings(Sheet(("Late", "Mobile"), rows)), recipe)
    with_it, without = "Dues is late today.\nis late\nThe office", "Dues today.\nThe office"
    assert composer.texts() == [with_it if value else without for value in values]
    assert Computed(composer).marks.count("Held") == 0
