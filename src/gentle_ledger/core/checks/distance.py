"""How far a figure is from the others."""

import math
import statistics
from collections.abc import Sequence

FAR = 3.5
"""From which modified z-score on a figure is an outlier (Iglewicz and Hoaglin, as below)."""

_OUTERMOST = 1e150
_OF_NORMAL = 0.6745
"""The median absolute deviation of a standard normal distribution, its 0.75 quantile."""
_OF_NORMAL_MEAN = 1.253314
"""The standard deviation of a normal distribution in mean absolute deviations: the square root of pi / 2."""


class Spread:
    """What a figure is compared with: the median of the figures, and how far they are from it.

    The modified z-score of x is 0.6745 (x - median) / MAD, where MAD is the median of the absolute deviations from the
    median (B. Iglewicz and D. Hoaglin, "How to Detect and Handle Outliers", ASQC 1993; NIST/SEMATECH e-Handbook of
    Statistical Methods, 1.3.5.17). Where more than half of the figures are the same MAD is 0: then their mean absolute
    deviation, 1.253314 times as large, stands in for it (common practice, no source).

    Raises ValueError where there are no figures.
    """

    def __init__(self, figures: Sequence[float]) -> None:
        if not figures:
            raise ValueError("There is no middle of no figures.")
        kept = [_within(figure) for figure in figures]
        self.median = statistics.median(kept)
        away = [abs(figure - self.median) for figure in kept]
        self._unit = statistics.median(away) / _OF_NORMAL or _OF_NORMAL_MEAN * math.fsum(away) / len(away)

    def score(self, figure: float) -> float:
        """The modified z-score of a figure; 0 where all figures are the same and this one as well."""
        away = _within(figure) - self.median
        if not away:
            return 0.0
        return away / self._unit if self._unit else float("inf") if away > 0 else float("-inf")


def _within(figure: float) -> float:
    """What is beyond all measure counts as the outermost figure there is: nothing can be told of infinities."""
    return max(-_OUTERMOST, min(_OUTERMOST, figure))
