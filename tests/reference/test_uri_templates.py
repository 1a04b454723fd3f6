"""The examples of RFC 6570 (URI Template), section by section, as the sdist of `uritemplate` 4.2.0 carries them.

A row's cells are single texts, so the examples with lists and maps have no counterpart here.
"""

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from uritemplate import URITemplate, variables

from gentle_ledger.core.columns.links import link_template

SECTIONS = json.loads((Path(__file__).parent / "uri_templates.json").read_text())
CASES = [
    (template, expected, {name: v for name, v in section["variables"].items() if v is None or isinstance(v, str)})
    for section in SECTIONS.values()
    for template, expected in section["testcases"]
]
SINGLE = [case for case in CASES if set(variables(case[0])) <= set(case[2])]


@pytest.mark.parametrize(("template", "expected", "values"), SINGLE, ids=[case[0] for case in SINGLE])
def test_the_examples_of_the_standard(template, expected, values):
    found = link_template(template, list(values)).expand(values.get)
    assert found in (expected if isinstance(expected, list) else [expected])


def test_enough_of_them_are_left():
    assert len(SINGLE) > 60


CELLS = st.text(st.characters(exclude_categories=("Cs",)), min_size=1, max_size=12)


@given(
    CELLS,
    CELLS,
    st.sampled_from(["https://a.example/{Berth}{?Due,Slip no}", "{/Due}{;Berth}{&Slip no}", "{Berth}%{Due}"]),
)
def test_links_made_at_a_stroke_are_those_of_the_package(one, other, template):
    """For plain templates the package expands once, and each row's values are put in its place."""
    values = {"Berth": one, "Due": other, "Slip no": f"{one}{{0}}%"}
    bound = link_template(template, list(values))
    names = {name: values[column] for name, column in bound._names}
    assert bound.expand(values.get) == str(URITemplate(bound._template.uri).expand(names))
