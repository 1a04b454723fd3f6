"""Parts: joined they give the text back, none is too long, no pair is torn."""

from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.rounds.slip import runs_by_part
from gentle_ledger.core.sms.alphabet import BASIC, EXTENSION, Alphabet, first_beyond, septets, utf16_units
from gentle_ledger.core.sms.parts import ALONE, JOINED, measure, tear
from gentle_ledger.core.wording.composer import Run

gsm = st.text(st.sampled_from(BASIC + EXTENSION), max_size=700)
wide = st.text(st.characters(exclude_categories=("Cs",)), max_size=400)


@given(gsm | wide)
def test_parts_joined_give_the_text_back(text):
    size, parts = measure(text), tear(text)
    assert "".join(parts) == text
    assert len(parts) == size.parts
    units = septets if size.alphabet is Alphabet.GSM_7 else utf16_units
    room = ALONE if size.parts == 1 else JOINED
    assert all(units(part) <= room[size.alphabet] for part in parts)
    assert sum(units(part) for part in parts) == size.characters


@given(gsm)
def test_the_alphabet_has_128_places_and_no_more(text):
    assert measure(text).alphabet is Alphabet.GSM_7
    assert len(set(BASIC)) == 127
    assert first_beyond(text + "ё") == len(text)


@given(st.lists(st.tuples(gsm, st.sampled_from([None, "Due"])), max_size=8))
def test_runs_are_cut_where_parts_end(pieces):
    runs = [Run(text, column) for text, column in pieces]
    parts = tear("".join(text for text, _ in pieces))
    cut = runs_by_part(runs, parts)
    assert ["".join(run.text for run in part) for part in cut] == parts
