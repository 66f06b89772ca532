"""Fit the weights of the signs of a downbeat.  Usage: python -m ear.accents_fit SET [--pieces N]   (SET made by ear.dataset)

Logistic regression on true beats, pieces weighing alike; prints what core/listen/places.py holds.
"""

import argparse
import pathlib
from fractions import Fraction

import numpy as np
from scipy.optimize import minimize

from evenseam.core.listen.beats.accents import BAR_SIGNS, SIGNS, bar_signs, beat_signs
from evenseam.core.listen.beats.ear import hear
from evenseam.core.listen.beats.places import downbeat_share
from evenseam.core.listen.features.spectra import Spectra, _rise

HOPS_PER_S = 22_050 / 220


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path)
    parser.add_argument("--pieces", type=int, default=150)
    args = parser.parse_args()
    signs, truth, weight = [], [], []
    for path in sorted(args.set.glob("*.npz"), key=lambda p: int(p.stem))[: args.pieces]:
        with np.load(path) as piece:
            if not int(piece["n_beats"]):
                continue
            bands = piece["bands"].astype(np.float32)
            spec = Spectra(bands, bands[:, :12], _rise(bands), piece["tones"].astype(np.float32), Fraction(220))
            at = piece["beats_s"] * HOPS_PER_S
            shared = beat_signs(spec, downbeat_share(hear(spec), at), at)
            found = np.concatenate([shared, bar_signs(spec, at, int(piece["n_beats"]))], axis=1)
            signs.append(found)
            truth.append(np.isin(piece["beats_s"], piece["downbeats_s"]))
            weight.append(np.full(len(found), 1 / len(found)))
    x, y, w = np.concatenate(signs), np.concatenate(truth).astype(float), np.concatenate(weight)
    x = np.concatenate([x, np.ones((len(x), 1))], axis=1)

    def loss(v: np.ndarray) -> tuple[float, np.ndarray]:
        z = x @ v
        p = 1 / (1 + np.exp(-z))
        return float((w * (np.logaddexp(0, z) - y * z)).sum() + 0.01 * (v**2).sum()), x.T @ (w * (p - y)) + 0.02 * v

    fitted = minimize(loss, np.zeros(x.shape[1]), jac=True, method="L-BFGS-B").x
    names = (*SIGNS, *(f"bar: {sign}" for sign in BAR_SIGNS), "bias")
    print({name: round(float(v), 2) for name, v in zip(names, fitted, strict=True)})


if __name__ == "__main__":
    main()
