"""Worked examples of OpenFormula (OASIS ODF 1.3 part 4); openformula.json says of each where it comes from."""

import json
from decimal import Decimal
from pathlib import Path

import pytest

from gentle_ledger.core.formulas.bind import bind
from gentle_ledger.core.formulas.parse import parse_formula
from gentle_ledger.core.formulas.registry import FormulaContext
from gentle_ledger.core.formulas.values import ERRORS, wrong_of

DATA = json.loads((Path(__file__).parent / "openformula.json").read_text(), parse_float=Decimal, parse_int=Decimal)


@pytest.mark.parametrize("case", DATA["cases"], ids=lambda case: case["expr"])
def test_worked_examples(case):
    evaluate = bind(parse_formula(case["expr"]), lambda node: lambda _row: DATA["row"][node.name], FormulaContext())
    expected = case["expected"]
    if isinstance(expected, str) and expected.startswith("ERR#"):
        with pytest.raises(ERRORS) as refused:
            evaluate(0)
        assert expected in {"ERR#VALUE!", f"ERR{wrong_of(refused.value).code}"}
        return
    found = evaluate(0)
    assert type(found) is type(expected)
    # The expected figures are those of binary floats where they have a fraction.
    assert found == expected or abs(found - expected) < Decimal("1e-12")
