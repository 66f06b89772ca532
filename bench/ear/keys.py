"""Networks that say something of one key at a time: a multilayer perceptron over what is seen around it, taught and written."""

import argparse
import pathlib
import warnings
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import onnx
import onnxruntime
from onnx import TensorProto, helper, numpy_helper
from sklearn.exceptions import ConvergenceWarning
from sklearn.metrics import roc_auc_score
from sklearn.neural_network import MLPClassifier

from ear.dataset import MAKERS
from ear.piece import Piece
from ear.render import Band, Heard, hear
from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.spectra import LOWEST_TONE

SHARES = {"free": 0.08, "scored": 0.42, "band": 0.5}
EVERY_ASIDE = 12  # one piece in so many is kept aside
HIDDEN, ROUNDS, BATCH = (64, 32), 8, 1024
Examples = tuple[np.ndarray, np.ndarray]
_band: Band | None = None


def piece_of(seed: int) -> tuple[Piece, Heard, np.random.Generator]:
    """The piece of a seed as it was heard, and what is left of its random numbers."""
    global _band
    if _band is None:
        _band = Band()
    rng = np.random.default_rng([seed, 1])
    piece = MAKERS[str(rng.choice(list(SHARES), p=list(SHARES.values())))](seed)
    return piece, hear(piece, _band, rng, []), rng


def where_notes(piece: Piece, tells: Callable[[float, float], np.ndarray], places: int) -> np.ndarray:
    """At which places a note of each key is as `tells`, given where it begins and ends in seconds, says: bool (places, 60)."""
    found = np.zeros((places, N_TONES), dtype=bool)
    for part in (p for p in piece.parts if p.program is not None):
        for on, length, key, _ in part.notes:
            if LOWEST_TONE <= key < LOWEST_TONE + N_TONES:
                begins, ends = piece.seconds(on) + part.late_s, piece.seconds(on + length) + part.late_s
                found[:, int(key) - LOWEST_TONE] |= tells(begins, ends)
    return found


def taught(seen: np.ndarray, true: np.ndarray) -> list[tuple[np.ndarray, np.ndarray]]:
    """The weights and offsets of every layer, from what is seen as it is."""
    mean, spread = seen.mean(axis=0), seen.std(axis=0) + 1e-3
    model = MLPClassifier(HIDDEN, batch_size=BATCH, learning_rate_init=1.5e-3, max_iter=ROUNDS, random_state=0)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", ConvergenceWarning)  # more rounds do worse on other pieces
        model.fit((seen - mean) / spread, true)
    (first, offset), *others = zip(model.coefs_, model.intercepts_, strict=True)
    return [(first / spread[:, None], offset - (mean / spread) @ first), *others]


def write(layers: list[tuple[np.ndarray, np.ndarray]], out: pathlib.Path, says: str) -> None:
    """The network: `around` (examples, seen) in, what it `says` (examples, 1) out, how likely it is of each."""
    nodes, weights, value = [], [], "around"
    for k, (matrix, offset) in enumerate(layers):
        weights += [numpy_helper.from_array(v.astype(np.float32), f"{n}{k}") for n, v in (("w", matrix), ("b", offset))]
        nodes.append(helper.make_node("Gemm", [value, f"w{k}", f"b{k}"], [f"sum{k}"]))
        value = says if k == len(layers) - 1 else f"out{k}"
        nodes.append(helper.make_node("Sigmoid" if value == says else "Relu", [f"sum{k}"], [value]))
    given, told = (
        helper.make_tensor_value_info(name, TensorProto.FLOAT, ["examples", n])
        for name, n in (("around", layers[0][0].shape[0]), (says, 1))
    )
    graph = helper.make_graph(nodes, says, [given], [told], weights)
    onnx.save(helper.make_model(graph, ir_version=9, opset_imports=[helper.make_opsetid("", 17)]), out)


def said(network: pathlib.Path, seen: np.ndarray) -> np.ndarray:
    """What a network that was written says of what is seen, (examples,)."""
    session = onnxruntime.InferenceSession(network, providers=["CPUExecutionProvider"])
    return np.asarray(session.run(None, {"around": seen})[0]).ravel()


def teach(examples_of: Callable[[int], Examples], says: str, about: str | None, first_seed: int) -> None:
    """The command of a teacher. `examples_of`: of the piece of a seed, what is seen and what is true."""
    parser = argparse.ArgumentParser(description=about)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--pieces", type=int, default=480)
    parser.add_argument("--first", type=int, default=first_seed)
    args = parser.parse_args()
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(examples_of, range(args.first, args.first + args.pieces)))
    aside = found[::EVERY_ASIDE]
    taught_on = [examples for k, examples in enumerate(found) if k % EVERY_ASIDE]
    seen, true = (np.concatenate(part) for part in zip(*taught_on, strict=True))
    write(taught(seen.astype(np.float32), true), args.out, says)
    seen, true = (np.concatenate(part) for part in zip(*aside, strict=True))
    area = roc_auc_score(true, said(args.out, seen.astype(np.float32)))
    print(f"{len(found)} pieces, {len(aside)} of them kept aside: area under the curve {area:.4f}")
