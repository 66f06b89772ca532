"""Teach which notes are held and write the weights.  Usage: python -m ear.held_train OUT.onnx [--pieces N] [--first SEED]

A multilayer perceptron over what is seen of one key around one place (core/listen/ringing.py), taught at beats, between them
and at free times of pieces that neither the ear nor the count was taught on. A note is held across a place that it began well
before and ends well after.

Needs what ear.dataset needs. Run in bench/ with src/ on the path. Prints the area under the curve on pieces kept aside.
"""

import argparse
import pathlib
import warnings
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction

import numpy as np
import onnx
import onnxruntime
from onnx import TensorProto, helper, numpy_helper
from sklearn.exceptions import ConvergenceWarning
from sklearn.metrics import roc_auc_score
from sklearn.neural_network import MLPClassifier

from ear.dataset import MAKERS
from ear.piece import Piece
from ear.render import RATE_HZ, Band, hear
from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.ringing import N_SEEN, around
from evenseam.core.listen.spectra import HOP_SAMPLES, LOWEST_TONE, TONE_HOPS, spectra

HELD_BEFORE_S, HELD_AFTER_S = 0.07, 0.06  # so long a note sounds on either side of what it is held across
SHARES = {"free": 0.08, "scored": 0.42, "band": 0.5}
PLACES, JITTER_S = 100, 0.01  # of one piece, and how far off a beat it may be heard
EVERY_ASIDE = 12  # one piece in so many is kept aside
HIDDEN, ROUNDS, BATCH = (64, 32), 8, 1024
Examples = tuple[np.ndarray, np.ndarray]
_band: Band | None = None


def examples_of(seed: int) -> Examples:
    """What is seen of every key at some places of the piece of a seed, (examples, N_SEEN), and whether it is held."""
    global _band
    if _band is None:
        _band = Band()
    rng = np.random.default_rng([seed, 1])
    piece = MAKERS[str(rng.choice(list(SHARES), p=list(SHARES.values())))](seed)
    heard = hear(piece, _band, rng, [])
    tones = spectra(heard.sound, Fraction(1)).tones
    at_s = places_s(heard.beats_s, heard.sound.size / RATE_HZ - 3, rng)
    rows = np.rint(at_s * RATE_HZ / (TONE_HOPS * HOP_SAMPLES)).astype(np.int64)
    return around(tones, rows).reshape(-1, N_SEEN).astype(np.float16), held_at(piece, at_s).ravel()


def places_s(beats_s: np.ndarray, end_s: float, rng: np.random.Generator) -> np.ndarray:
    """Some of the beats, half beats and quarter beats before the end, as nearly as they are heard; any times without beats."""
    if beats_s.size > 1:
        steps = np.diff(beats_s)
        at = np.concatenate([beats_s, beats_s[:-1] + steps / 2, beats_s[:-1] + steps / 4])
    else:
        at = rng.uniform(0.5, end_s, 3 * PLACES)
    at = at[(at > 0.5) & (at < end_s)]
    return rng.choice(at, min(PLACES, at.size), replace=False) + rng.normal(0, JITTER_S, min(PLACES, at.size))


def held_at(piece: Piece, at_s: np.ndarray) -> np.ndarray:
    """Whether a note of each key is held across each place, bool (places, 60)."""
    held = np.zeros((at_s.size, N_TONES), dtype=bool)
    for part in (p for p in piece.parts if p.program is not None):
        for on, length, key, _ in part.notes:
            begins, ends = piece.seconds(on) + part.late_s, piece.seconds(on + length) + part.late_s
            if LOWEST_TONE <= key < LOWEST_TONE + N_TONES:
                held[:, int(key) - LOWEST_TONE] |= (at_s > begins + HELD_BEFORE_S) & (at_s < ends - HELD_AFTER_S)
    return held


def taught(seen: np.ndarray, held: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """The weights and offsets of every layer, from what is seen as it is."""
    mean, spread = seen.mean(axis=0), seen.std(axis=0) + 1e-3
    model = MLPClassifier(HIDDEN, batch_size=BATCH, learning_rate_init=1.5e-3, max_iter=ROUNDS, random_state=0)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", ConvergenceWarning)  # more rounds do worse on other pieces
        model.fit((seen - mean) / spread, held)
    (first, offset), *others = zip(model.coefs_, model.intercepts_, strict=True)
    return [(first / spread[:, None], offset - (mean / spread) @ first), *others]


def write(layers: list[tuple[np.ndarray, np.ndarray]], out: pathlib.Path) -> None:
    """The network: `around` (examples, N_SEEN) in, `held` (examples, 1) out, how likely each is held."""
    nodes, weights, value = [], [], "around"
    for k, (matrix, offset) in enumerate(layers):
        weights += [numpy_helper.from_array(v.astype(np.float32), f"{n}{k}") for n, v in (("w", matrix), ("b", offset))]
        nodes.append(helper.make_node("Gemm", [value, f"w{k}", f"b{k}"], [f"sum{k}"]))
        value = "held" if k == len(layers) - 1 else f"out{k}"
        nodes.append(helper.make_node("Sigmoid" if value == "held" else "Relu", [f"sum{k}"], [value]))
    given, told = (
        helper.make_tensor_value_info(name, TensorProto.FLOAT, ["examples", n]) for name, n in (("around", N_SEEN), ("held", 1))
    )
    graph = helper.make_graph(nodes, "held", [given], [told], weights)
    onnx.save(helper.make_model(graph, ir_version=9, opset_imports=[helper.make_opsetid("", 17)]), out)


def said(network: pathlib.Path, seen: np.ndarray) -> np.ndarray:
    """What a network that was written says of what is seen, (examples,)."""
    session = onnxruntime.InferenceSession(network, providers=["CPUExecutionProvider"])
    return np.asarray(session.run(None, {"around": seen})[0]).ravel()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--pieces", type=int, default=480)
    parser.add_argument("--first", type=int, default=400_000)
    args = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(examples_of, range(args.first, args.first + args.pieces)))
    aside = found[::EVERY_ASIDE]
    taught_on = [examples for k, examples in enumerate(found) if k % EVERY_ASIDE]
    seen, held = (np.concatenate(part) for part in zip(*taught_on, strict=True))
    write(taught(seen.astype(np.float32), held), args.out)
    seen, held = (np.concatenate(part) for part in zip(*aside, strict=True))
    area = roc_auc_score(held, said(args.out, seen.astype(np.float32)))
    print(f"{len(found)} pieces, {len(aside)} of them kept aside: area under the curve {area:.4f}")


if __name__ == "__main__":
    main()
