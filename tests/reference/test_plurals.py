"""Words that follow a count, against CLDR's own samples (supplemental plurals.xml, typed in from memory)."""

from decimal import Decimal

import pytest

from gentle_ledger.core.formulas.functions.plurals import plural_case

SAMPLES = {
    "en-CA": {"one": "1", "other": "0 2~16 100 1000 10000 100000 0.1~0.9 1.5 10.5"},
    "fr-CA": {"one": "0 1 0.1~0.9 1.5", "other": "2~17 100 1000 2.5 10.5"},
    "pl-PL": {"one": "1", "few": "2~4 22~24 32~34 102 1002", "many": "0 5~19 100 1000", "other": "0.5 1.5 10.5"},
    "ru-RU": {"one": "1 21 31 41 101 1001", "few": "2~4 22~24 102 1002", "many": "0 5~19 100 1000", "other": "1.5"},
    "cy-GB": {"zero": "0", "one": "1", "two": "2", "few": "3", "many": "6", "other": "4 5 7~20 100 0.1~0.9"},
    "ar-EG": {"zero": "0", "one": "1", "two": "2", "few": "3~10 103~110", "many": "11~26 111", "other": "100~102 0.5"},
    "ja-JP": {"other": "0 1 2 15 100 1.5"},
}


def _counts(samples):
    for sample in samples.split():
        low, _, high = sample.partition("~")
        count, step = Decimal(low), Decimal("0.1") if "." in low else Decimal(1)
        while count <= Decimal(high or low):
            yield count
            count += step


@pytest.mark.parametrize("locale", SAMPLES)
def test_each_sample_has_its_case(locale):
    for case, samples in SAMPLES[locale].items():
        for count in _counts(samples):
            assert plural_case(count, locale) == case, count


def test_a_count_is_taken_as_it_is_written():
    assert [plural_case(Decimal(count), "en-CA") for count in ("1.00", "-1", "1E+2", "-3")] == [
        "one",
        "one",
        "other",
        "other",
    ]
