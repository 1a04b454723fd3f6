"""CSV against the rules of RFC 4180, section 2, with its own examples (from memory)."""

import pytest

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.delimited import read_delimited, separator_of

ABC = [["aaa", "bbb", "ccc"], ["zzz", "yyy", "xxx"]]

RULES = [
    ("aaa,bbb,ccc\r\nzzz,yyy,xxx\r\n", ABC, "1: a record a line"),
    ("aaa,bbb,ccc\r\nzzz,yyy,xxx", ABC, "2: the last line may lack its end"),
    ("aaa, bbb ,ccc\r\n", [["aaa", " bbb ", "ccc"]], "4: spaces belong to the field"),
    ('"aaa","bbb","ccc"\r\nzzz,yyy,xxx\r\n', ABC, "5: fields may be quoted"),
    ('"aaa","b\r\nbb","ccc"\r\nzzz,yyy,xxx\r\n', [["aaa", "b\r\nbb", "ccc"], ABC[1]], "6: line ends in quotes"),
    ('"aaa","b,bb","ccc"\r\n', [["aaa", "b,bb", "ccc"]], "6: commas in quotes"),
    ('"aaa","b""bb","ccc"\r\n', [["aaa", 'b"bb', "ccc"]], "7: a quote is doubled"),
    (",,\r\n", [[None, None, None]], "empty fields are blank cells"),
]


@pytest.mark.parametrize(("text", "rows", "rule"), RULES, ids=[rule[2] for rule in RULES])
def test_rules(text, rows, rule):
    assert list(read_delimited(text).lines) == rows


@pytest.mark.parametrize(
    ("text", "separator"),
    [
        ("a,b", ","),
        ("a;b,5;c", ";"),
        ("a\tb;c\td", "\t"),
        ('"a;b;c",d', ","),
        ("alone", ","),
        ('"a\r\nb,c";d\r\n1,5;2', ";"),
        ("Saltmarsh Quay, November\n\na|b|c\n1,5|2|3\n", "|"),
        ("Dues; Nova Scotia\na,b;b,c\n1,2,3\n4,5,6\n", ","),
        ("a;b,CAD\n1;2,50\n", ";"),
    ],
)
def test_the_separator_is_the_one_that_makes_a_table(text, separator):
    assert separator_of(text)[0] == separator


@pytest.mark.parametrize("text", ['a,"b\r\n', 'a,"b"c\r\n'])
def test_broken_quotes_are_refused(text):
    with pytest.raises(SheetError, match="double quote"):
        list(read_delimited(text).lines)
