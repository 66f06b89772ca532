"""Fit the weights of how sure a chart can be of itself.  Usage: python -m ear.sure_fit SIGNS.npz...   (from hearing.py --signs)

Logistic regression, every set weighing alike; prints what core/listen/sureness.py holds, and how likely the charts were to
be right by how likely they called themselves, each judged by weights fitted without it.
"""

import sys
from itertools import pairwise

import numpy as np
from scipy.optimize import minimize

from evenseam.core.listen.beats.sureness import SIGNS

RIDGE = 0.02
BINS = (0.0, 0.5, 0.7, 0.8, 0.9, 0.95, 1.01)
FOLDS = 8


def fit(x: np.ndarray, y: np.ndarray, w: np.ndarray) -> np.ndarray:
    """Weights of the columns of x, the last one the bias."""

    def loss(v: np.ndarray) -> tuple[float, np.ndarray]:
        z = x @ v
        p = 1 / (1 + np.exp(-z))
        free = np.append(np.ones(v.size - 1), 0.0)
        return float((w * (np.logaddexp(0, z) - y * z)).sum() + RIDGE * (free * v**2).sum()), x.T @ (
            w * (p - y)
        ) + 2 * RIDGE * free * v

    return np.asarray(minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B").x)


def main() -> None:
    sets = [np.load(path) for path in sys.argv[1:]]
    x = np.concatenate([s["signs"] for s in sets])
    x = np.concatenate([x, np.ones((len(x), 1))], axis=1)
    w = np.concatenate([np.full(len(s["beats"]), 1 / len(s["beats"])) for s in sets])
    truths = {what: np.concatenate([s[what] for s in sets]) for what in ("pulse", "beats", "bars")}
    for what, of_all in truths.items():
        asked = np.ones(len(x), bool) if what == "pulse" else truths["pulse"]
        report(what, x[asked], of_all[asked].astype(float), w[asked])


def report(what: str, x: np.ndarray, y: np.ndarray, w: np.ndarray) -> None:
    """Print the weights of one likelihood, and how it holds."""
    fold = np.arange(len(x)) % FOLDS
    print(what, dict(zip((*SIGNS, "bias"), np.round(fit(x, y, w), 2).tolist(), strict=True)))
    said = np.zeros(len(x))
    for k in range(FOLDS):
        said[fold == k] = 1 / (1 + np.exp(-x[fold == k] @ fit(x[fold != k], y[fold != k], w[fold != k])))
    for low, high in pairwise(BINS):
        some = (said >= low) & (said < high)
        if some.any():
            print(f"  said {low:.2f} to {min(high, 1):.2f}: {some.sum():3d} charts, {y[some].mean():.2f} right")


if __name__ == "__main__":
    main()
