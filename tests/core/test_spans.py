"""Where fields stand: the same pattern for whoever draws them as for whoever reads them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.fields import Where, fields_between
from gentle_ledger.core.columns.column_set import column_set
from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.recipe.model import ColumnSettings, Recipe
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.wording.parse import parse_wording
from gentle_ledger.core.wording.renaming import in_formula
from gentle_ledger.core.wording.spans import spans_in

RECIPE = Recipe(columns={"Late": ColumnSettings(formula="1")})
COLUMNS = column_set(Readings(Sheet(("First name", "Due, total", "Berth"), [("a", "1", "C")])), RECIPE)

CASES = [
    # where, text, from, up to, the column, computed, known
    (Where.WORDING, "Hi { first  NAME }!", [(3, 18, "First name", False, True)]),
    (Where.WORDING, "{Late}{Debt}", [(0, 6, "Late", True, True), (6, 12, None, False, False)]),
    (Where.WORDING, "{{Berth}} {Ber\nth} {Berth", []),
    (Where.FORMULA, '"{Berth}" & {Berth} + (', [(12, 19, "Berth", False, True)]),
    (Where.FORMULA, '{Berth} & "open {Late}', [(0, 7, "Berth", False, True)]),
    (
        Where.LINK,
        "https://x.example/{Berth}{?Late,Due}",
        [(18, 25, "Berth", False, True), (25, 36, None, False, False)],
    ),
    (Where.LINK, "{?Late,Berth}{Due, total}", [(0, 13, None, False, True), (13, 25, "Due, total", False, True)]),
]


@pytest.mark.parametrize(("where", "text", "wanted"), CASES, ids=[text for _, text, _ in CASES])
def test_fields_stand_where_they_are_drawn(where, text, wanted):
    found = [(s.start, s.end, s.column, s.computed, s.known) for s in spans_in(text, where, COLUMNS)]
    assert found == wanted


@given(st.text('ab{}" \n+', max_size=30))
def test_who_draws_a_field_sees_what_who_reads_it_sees(text):
    drawn = [(start, end) for inside, start, end in fields_between(text, Where.WORDING) if inside.strip()]
    assert drawn == [(field.start, field.end) for field in parse_wording(text).fields]
    read = [(start - 1, end + 1) for _, start, end in in_formula(text)]
    assert not read or read == [(start, end) for _, start, end in fields_between(text, Where.FORMULA)]
