"""Whether a difference is more than luck. Documents are the sampling unit; every draw has a fixed seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr, ndtri, stdtrit

Floats = npt.NDArray[np.float64]

LEVEL = 0.05
DRAWS = 5000
# Up to so many documents all sign changes are tried; beyond it random ones are.
EXACT = 12
_SEED = 20


@dataclass(frozen=True, slots=True)
class Interval:
    """A mean and the interval that holds the true one in 95 of 100 such samples; None with one document."""

    mean: float
    low: float | None
    high: float | None


def mean_interval(scores: Sequence[float]) -> Interval:
    """Return the mean of scores by document, and its 95 % bootstrap interval.

    Bias-corrected and accelerated bootstrap over documents (Efron 1987), which follows skewed scores, with
    quantiles that widen it for few documents as Student's t does (Hesterberg 2015).
    """
    x = np.asarray(scores, dtype=float)
    if not len(x):
        return Interval(float("nan"), None, None)
    mean = float(x.mean())
    if len(x) < 2:
        return Interval(mean, None, None)
    rng = np.random.default_rng(_SEED)
    means = x[rng.integers(0, len(x), (DRAWS, len(x)))].mean(axis=1)
    below = ((means < mean).mean() + (means <= mean).mean()) / 2
    bias = float(ndtri(np.clip(below, 1 / DRAWS, 1 - 1 / DRAWS)))
    # The mean without each document in turn tells how skewed the mean is.
    apart = (x - mean) / (len(x) - 1)
    spread = float((apart**2).sum())
    skew = float((apart**3).sum()) / (6 * spread**1.5) if spread > 1e-18 else 0.0
    reach = np.sqrt(len(x) / (len(x) - 1)) * stdtrit(len(x) - 1, 1 - LEVEL / 2)
    tails = [ndtr(bias + (bias + z) / (1 - skew * (bias + z))) for z in (-reach, reach)]
    low, high = np.quantile(means, tails)
    return Interval(mean, float(low), float(high))


@dataclass(frozen=True, slots=True)
class Comparison:
    """Two methods over the same documents: mean difference first - second with its interval, the chance `p`
    of one as large without a true difference (corrected for the number of comparisons), and the effect size:
    mean over standard deviation of the differences by document (None where they do not vary).
    """

    first: str
    second: str
    difference: Interval
    p: float
    effect: float | None

    @property
    def separable(self) -> bool:
        """Whether the difference is more than luck at the 5 % level."""
        return self.p < LEVEL


def paired_p(differences: Sequence[float]) -> float:
    """Chance, two-sided, of a mean difference at least as large if the two were alike.

    Paired permutation test: under that hypothesis the sign of each document's difference is a toss. Exact
    for up to EXACT documents, else DRAWS random tosses with the observed one among them.
    """
    d = np.asarray(differences, dtype=float)
    d = d[d != 0]
    if not len(d):
        return 1.0
    seen = abs(float(d.sum())) - 1e-12
    if len(d) <= EXACT:
        tosses = 1 - 2 * ((np.arange(2 ** len(d))[:, None] >> np.arange(len(d))) & 1)
        return float((np.abs(tosses @ d) >= seen).mean())
    rng = np.random.default_rng(_SEED)
    signs = rng.integers(0, 2, (DRAWS, len(d)), dtype=np.int8) * 2 - 1
    return float((1 + (np.abs(signs @ d) >= seen).sum()) / (1 + DRAWS))


def holm(chances: Sequence[float]) -> list[float]:
    """Correct the p of several tests at once (Holm 1979); order is kept.

    >>> holm([0.01, 0.04, 0.03])
    [0.03, 0.06, 0.06]
    """
    order = sorted(range(len(chances)), key=lambda i: chances[i])
    out, worst = [0.0] * len(chances), 0.0
    for k, i in enumerate(order):
        worst = max(worst, min(1.0, chances[i] * (len(chances) - k)))
        out[i] = worst
    return out


def compare_all(names: Sequence[str], scores: dict[str, list[float]]) -> list[Comparison]:
    """Compare every two methods over the same documents, with Holm's correction over all pairs."""
    return _compare([(a, b) for k, a in enumerate(names) for b in names[k + 1 :]], scores)


def _compare(pairs: Sequence[tuple[str, str]], scores: dict[str, list[float]]) -> list[Comparison]:
    """Compare pairs of methods, with Holm's correction over these tests."""
    differences = [np.subtract(scores[a], scores[b]) for a, b in pairs]
    chances = holm([paired_p(d.tolist()) for d in differences])
    return [comparison_of(*pair, d, p) for pair, d, p in zip(pairs, differences, chances, strict=True)]


def comparison_of(first: str, second: str, d: Floats, p: float) -> Comparison:
    """Return a comparison by the differences first - second of each document."""
    deviation = float(d.std(ddof=1)) if len(d) > 1 else 0.0
    effect = float(d.mean()) / deviation if deviation > 1e-12 else None
    return Comparison(first, second, mean_interval(d.tolist()), p, effect)


def compare_with(leader: str, names: Sequence[str], scores: dict[str, list[float]]) -> list[Comparison]:
    """Compare one method with each of some others, with Holm's correction over these tests only: the family
    of the question which methods are as good as this one.
    """
    return _compare([(leader, name) for name in names], scores)


def ranks(names: Sequence[str], scores: dict[str, list[float]]) -> dict[str, int]:
    """Rank methods by their mean over documents, from 1. Those next to the best that cannot be told from it
    share its rank; the first that can leads the next rank, and so on.
    """
    left = sorted(names, key=lambda n: (-float(np.mean(scores[n])), n))
    out: dict[str, int] = {}
    while left:
        leader, others = left[0], left[1:]
        rank = len(out) + 1
        apart = {c.second for c in compare_with(leader, others, scores) if c.separable}
        first = next((k for k, name in enumerate(left) if name in apart), len(left))
        out |= dict.fromkeys(left[:first], rank)
        left = left[first:]
    return out
