"""A block of cells from the clipboard: how it is read, and where its cells go."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.block import Place, cells_of_block, covered, lay
from gentle_ledger.core.sheets.model import Sheet

SHEET = Sheet(("Name", "Mobile", "Due"), [("Ines", "902-555-0101", "5"), ("Bo", None, "6"), ("Cal", None, None)])

BLOCKS = [
    ("a\tb\r\nc\td\r\n", [["a", "b"], ["c", "d"]]),
    ("a\n\nb\n", [["a"], [""], ["b"]]),
    ('"two\nlines"\t"say ""so"""', [["two\nlines", 'say "so"']]),
    ('12" pipe\tx', [['12" pipe', "x"]]),
    ('"never closed\tx\ny\tz', [['"never closed', "x"], ["y", "z"]]),
    ("one;two,three", [["one;two,three"]]),
    ("", [[""]]),
]


@pytest.mark.parametrize(("text", "cells"), BLOCKS)
def test_what_the_clipboard_holds(text, cells):
    assert cells_of_block(text) == cells


@given(st.lists(st.lists(st.text(), min_size=2, max_size=2), min_size=1))
def test_what_another_writer_quotes_comes_back(rows):
    """Against Python's own writer of delimited text."""
    out = io.StringIO()
    csv.writer(out, delimiter="\t", quoting=csv.QUOTE_ALL, lineterminator="\n").writerows(rows)
    plain = [[cell.replace("\r\n", "\n").replace("\r", "\n") for cell in row] for row in rows]
    assert cells_of_block(out.getvalue()) == plain


LAID = [
    # the block, where it goes, and what becomes of which cells
    ("7", Place([1], ["Due"]), {(1, 2): "7"}),
    ("7", Place([1, 2, 3], ["Name", "Due"], chosen=2), {(1, 0): "7", (1, 2): "7", (2, 0): "7", (2, 2): "7"}),
    ("x\ty", Place([2, 3], ["Name"]), {(2, 0): "x", (2, 1): "y"}),
    ("x\ny", Place([3], ["Name"]), {(3, 0): "x", (4, 0): "y"}),
    ("x\ty\tz", Place([1], ["Due"], below=True), {(4, 0): "x", (4, 1): "y", (4, 2): "z"}),
    ("due\tNAME\n7\tDi", Place([3], ["Mobile"]), {(3, 2): "7", (3, 0): "Di"}),
    ("Due\n7", Place([2, 3], ["Name"]), {(2, 0): "Due", (3, 0): "7"}),
    ("x\ty\nz", Place([1, 2], ["Name"]), {(1, 0): "x", (1, 1): "y", (2, 0): "z"}),
]


@pytest.mark.parametrize(("text", "place", "cells"), LAID)
def test_where_a_block_goes(text, place, cells):
    assert lay(SHEET, cells_of_block(text), place).cells == cells


REFUSED = [
    ("x\ty", Place([1], ["Due"]), "2 columns wide, and from Due on the sheet has 1"),
    ("x\ny", Place([3], ["Name"], may_add=False), "only 1 of those shown are left"),
    ("x", Place([1], ["Late"]), "Late is worked out"),
    ("x" * 40_000, Place([1], ["Due"]), "at most 32,767 characters"),
]


@pytest.mark.parametrize(("text", "place", "said"), REFUSED)
def test_what_does_not_fit_is_refused_whole(text, place, said):
    with pytest.raises(SheetError, match=said):
        lay(SHEET, cells_of_block(text), place)


def test_only_what_is_there_and_another_is_covered():
    laid = lay(SHEET, cells_of_block("Ines\tnew\nnew\tnew"), Place([1, 2], ["Name"]))
    assert covered(SHEET, laid) == [(1, 1), (2, 0)]
