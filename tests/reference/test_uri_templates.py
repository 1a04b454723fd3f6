"""The examples of RFC 6570 (URI Template), section by section, as the sdist of `uritemplate` 4.2.0 carries them.

A row's cells are single texts, so the examples with lists and maps have no counterpart here.
"""

import json
from pathlib import Path

import pytest
from uritemplate import variables

from gentle_ledger.core.wording.links import link_template

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
