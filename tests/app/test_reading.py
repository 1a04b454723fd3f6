"""Nothing that comes in ends the program: files are read apart, with limits, and every end is a sentence."""

import os
import pickle
import time
import zipfile

import pytest

from gentle_ledger.app import reading
from gentle_ledger.app.reading import Limits, bring_in_apart, glance_apart
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.bring_in import bring_in
from tests.app.hostile import BILLION_LAUGHS, ods, repeated, xlsx

LINE = b"Name,Mobile\nInes,902-555-0101\n"
VALUE = '<row r="{1}"><c r="{0}{1}"><v>1</v></c></row>'
FORMAT = '<row r="{1}"><c r="{0}{1}" s="0"/></row>'
MEMORY = "more memory than any sheet"

REFUSED = [
    ("a value in the last cell there is", xlsx(VALUE.format("XFD", 1_048_576)), "a.xlsx", "cell XFD1048576"),
    ("a value in the last column", xlsx(VALUE.format("XFD", 3)), "a.xlsx", "far to the right"),
    ("a cell that cannot be", xlsx(VALUE.format("ZZZZZZZZZZ", 2)), "a.xlsx", "ZZZZZZZZZZ2, far to the right"),
    ("a row that cannot be", xlsx(VALUE.format("A", 99_999_999_999)), "a.xlsx", ""),
    ("a value far below", xlsx(VALUE.format("A", 1_048_576)), "a.xlsx", "1,048,575 rows"),
    ("far below and to the right", xlsx(VALUE.format("ZZ", 1_048_576)), "a.xlsx", MEMORY),
    ("entities in entities", xlsx(prolog=BILLION_LAUGHS, more=VALUE.format("A", "3&a9;")), "a.xlsx", "damaged"),
    ("entities and an error", xlsx(prolog=BILLION_LAUGHS, more='<row r="3"><c t="e"/></row>'), "a.xlsx", ""),
    ("half a workbook", xlsx()[:-300], "a.xlsx", "damaged"),
    ("a zip bomb", xlsx(padding=b"\0" * 30_000_000), "a.xlsx", "would unpack to"),
    ("a table repeated without end", ods(repeated(1_048_576, 16_384, "1")), "a.ods", "damaged"),
    ("repeated past 32 bits", ods(repeated(2**33, 2**33, "1")), "a.ods", "damaged"),
    ("100,000 columns", ",".join(f"c{i}" for i in range(100_000)).encode() + b"\n1\n", "a.csv", "100,000 columns"),
    ("a giant cell", b"Name,Mobile\n" + b"x" * 20_000_000 + b",1\n", "a.csv", "Line 2"),
    ("a quote that never closes", b'Name,Mobile\n"' + b"x,1\n" * 1_000_000, "a.csv", "never closed"),
    ("4 million blank lines between", LINE + b"\n" * 4_000_000 + b"Bo,1\n", "a.csv", "blank lines below row 1"),
    ("zeros", b"\0" * 1_000_000, "a.csv", "not a text file"),
    ("nothing", b"  \n ", "a.csv", "is empty"),
    ("a workbook of before 2007, cut", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "a.xls", "damaged"),
]


@pytest.mark.parametrize(("what", "data", "name", "said"), REFUSED, ids=[case[0] for case in REFUSED])
def test_a_file_that_cannot_be_read_is_a_sentence(what, data, name, said):
    began = time.monotonic()
    with pytest.raises(SheetError) as refused:
        bring_in_apart(data, name, limits=Limits(2 * 1024**3, 20))
    assert said in refused.value.sentence
    assert refused.value.remedy
    assert time.monotonic() - began < 15


READ = [
    ("as it is", xlsx(), "a.xlsx"),
    ("a format in the last cell there is", xlsx(FORMAT.format("XFD", 1_048_576)), "a.xlsx"),
    ("stored, not packed", xlsx(packed=zipfile.ZIP_STORED), "a.xlsx"),
    ("blank rows to the end", ods(repeated(1_048_570, 16_384)), "a.ods"),
    ("4 million blank lines below", LINE + b"\n" * 4_000_000, "a.csv"),
    ("as many lines of commas", LINE + b",\r\n" * 2_000_000, "a.csv"),
    ("spaces at the end", LINE[:-1] + b"  ", "a.csv"),
]


@pytest.mark.parametrize(("what", "data", "name"), READ, ids=[case[0] for case in READ])
def test_what_is_only_odd_is_read(what, data, name):
    brought = bring_in_apart(data, name)
    assert brought.sheet.columns == ("Name", "Mobile")
    assert [cell.strip() for cell in brought.sheet.rows[0]] == ["Ines", "902-555-0101"]
    assert len(brought.sheet.rows) == 1
    assert brought.reading.blank == 0


def test_a_text_that_speaks_of_a_far_cell_is_none():
    more = '<row r="3"><c r="A3" t="inlineStr"><is><t>see r="XFD9" &lt;c r="XFD9"&gt;</t></is></c></row>'
    assert bring_in_apart(xlsx(more), "a.xlsx").sheet.rows[1] == ('see r="XFD9" <c r="XFD9">', None)


def test_apart_reads_as_the_core_does():
    from importlib import resources

    for file in (resources.files("gentle_ledger.demo") / "sheets").iterdir():
        data = file.read_bytes()
        assert bring_in_apart(data, file.name) == bring_in(data, file.name)


def test_a_glance_shows_lines_of_a_file_that_cannot_be_brought_in_as_it_is():
    seen = glance_apart(b"Name,Name\nInes,902-555-0101\n", "a.csv", least=15, after=7)
    assert seen.glance.lines == (("Name", "Name"), ("Ines", "902-555-0101"))
    assert seen.brought is None
    assert "both called" in seen.trouble.sentence
    with pytest.raises(SheetError, match="damaged"):
        glance_apart(xlsx()[:-300], "a.xlsx", least=15, after=7)


def test_the_limit_of_time_is_kept():
    rows = "".join(f'<row r="{i}"><c r="A{i}"><v>{i}</v></c></row>' for i in range(3, 180_000))
    with pytest.raises(SheetError, match="within 1 second,"):
        bring_in_apart(xlsx(rows), "a.xlsx", limits=Limits(seconds=1))


def test_the_answer_can_only_be_cells():
    class Hostile:
        def __reduce__(self):
            return os.getcwd, ()

    with pytest.raises(pickle.UnpicklingError, match="no cell"):
        reading._Cells(__import__("io").BytesIO(pickle.dumps(Hostile()))).load()
