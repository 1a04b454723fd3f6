"""How far a figure is from the others, against published figures and the standard library."""

import statistics

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.checks.distance import FAR, Spread
from gentle_ledger.core.rounds.oddness import ODD, surprise, surprises


def test_the_worked_example_of_the_rule():
    """B. Iglewicz and D. Hoaglin, "How to Detect and Handle Outliers" (1993), 3.3; the figures from memory.

    Of these ten 8.2 and 8.3 are outliers, at 25.9 and 26.3; none of the others comes near 3.5.
    """
    figures = [2.1, 2.6, 2.4, 2.5, 2.3, 2.1, 2.3, 2.6, 8.2, 8.3]
    scores = [Spread(figures).score(figure) for figure in figures]
    assert [figure for figure, score in zip(figures, scores, strict=True) if abs(score) > FAR] == [8.2, 8.3]
    assert scores[-2:] == pytest.approx([25.86, 26.31], abs=0.01)
    assert max(abs(score) for score in scores[:-2]) < 1.6


@given(st.lists(st.integers(-10_000, 10_000), min_size=1, max_size=60), st.integers(-20_000, 20_000))
def test_the_score_is_that_of_medians_of_the_standard_library(figures, figure):
    median = statistics.median(figures)
    away = [abs(one - median) for one in figures]
    mad, mean = statistics.median(away), statistics.fmean(away)
    unit = mad / 0.6745 if mad else mean * 1.253314
    score = Spread([float(one) for one in figures]).score(float(figure))
    if unit:
        assert score == pytest.approx((figure - median) / unit)
    else:
        assert score == (0 if figure == median else float("inf") if figure > median else float("-inf"))


def test_what_one_row_in_seven_has_is_three_bits_and_what_all_have_is_next_to_nothing():
    """-log2(1/8) is 3 bits (Shannon, 1948), one row being added to the seven."""
    assert surprise(1, 7) == 3
    assert surprise(4, 7) == ODD
    assert surprise(5, 7) < ODD
    assert 0 < surprise(1000, 1000) < 0.002
    assert surprises([(0, "a"), (0, "a"), (0, "b"), (1, "b")], 7) == {0: 5.0, 1: 2.0}
