"""Alphabet and parts against worked cases and an independent library."""

import json
from pathlib import Path

import pytest

from gentle_ledger.core.sms.parts import measure

CASES = json.loads((Path(__file__).parent / "parts.json").read_text("utf-8"))["cases"]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["why"])
def test_worked_cases(case):
    """3GPP TS 23.038 and TS 23.040, recalled from memory; each agreed by at least one independent library."""
    size = measure(case["text"])
    assert (size.alphabet, size.characters, size.parts) == (case["alphabet"], case["units"], case["parts"])
