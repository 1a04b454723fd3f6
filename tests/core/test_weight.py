"""What the texts weigh, and plain characters for special ones."""

from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.weight import weight_of
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sms.alphabet import first_beyond
from gentle_ledger.core.sms.parts import measure
from gentle_ledger.core.sms.plain import PLAIN_SIGNS, plain_for, plain_letter, replaced


def weighed(*names, wording="Hello {Name}"):
    rows = [(name, f"902-555-01{n:02}") for n, name in enumerate(names)]
    return weight_of(compute_round(Sheet(("Name", "Mobile"), rows), Recipe(wording=wording)))


def test_texts_by_their_parts_and_those_that_are_one_character_too_long():
    found = weighed("a" * 154, "b" * 155, "c" * 301, "d" * 302, "e")
    assert found.texts == [(1, 2), (2, 1), (3, 2)]
    assert found.one_less == 2, "161 characters, and 307"


def test_each_character_that_costs_parts_with_what_could_stand_for_it():
    found = weighed("D’Arcy" + "x" * 80, "Zoë" + "y" * 80, "plain", "Zoë’s" + "z" * 80, wording="Hello {Name} –")
    told = {each.character: (each.plain, each.letter, each.texts, each.parts_less) for each in found.costly}
    assert told == {"–": ("-", False, 4, 0), "’": ("'", False, 2, 0), "ë": ("e", True, 2, 0)}
    assert found.signs_less == 1, "the dash and the apostrophe together, in the one text that has no other"
    assert [each.character for each in found.costly] == ["–", "’", "ë"], "letters last"
    where = {each.character: (each.columns, each.in_wording) for each in found.costly}
    assert where == {"–": ((), True), "’": (("Name",), False), "ë": (("Name",), False)}


def test_what_the_alphabet_has_is_left_alone():
    assert not weighed("Écrit à Måns, 5 € ñ ß").costly
    assert [plain_letter(c) for c in "éàñüÅøß"] == [None] * 7
    assert [plain_letter(c) for c in "ëçőŻ"] == ["e", "c", "o", "Z"]
    assert [plain_for(c) for c in "日😀Ж"] == [None] * 3


@given(st.text(max_size=60))
def test_signs_replaced_never_change_what_a_text_says(text):
    """Letters, digits and signs of the 7-bit alphabet stay as they are, in their order."""
    signs = "".join(PLAIN_SIGNS)
    found = replaced(text, signs)
    assert [c for c in found if c.isalnum()] == [c for c in text.replace("\u00d7", "x") if c.isalnum()]
    kept = [c for c in text if c not in PLAIN_SIGNS]
    assert _stand_in(kept, found)
    assert replaced(found, signs) == found
    assert measure(found).parts <= max(1, measure(text).parts) or "\u2026" in text


def _stand_in(wanted, text):
    """Whether the characters stand in the text in their order."""
    there = iter(text)
    return all(character in there for character in wanted)


def test_every_plain_sign_is_one_that_the_alphabet_has():
    assert all(first_beyond(plain) is None for plain in PLAIN_SIGNS.values())
