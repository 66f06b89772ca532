"""Teach networks that say something of every key at a place: pieces to examples, examples to weights.

Needs what ear.dataset needs. Prints the area under the curve on pieces kept aside.
"""

import argparse
import pathlib
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
import onnxruntime
import torch
from sklearn.metrics import roc_auc_score
from torch import Tensor, nn

from ear.dataset import MAKERS
from ear.keys_network import Keys, Said
from ear.piece import Piece
from ear.render import Band, Heard, hear
from ear.steps import paced, take
from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.features.keys import Seen
from evenseam.core.listen.features.spectra import LOWEST_TONE

SHARES = {"free": 0.08, "scored": 0.42, "band": 0.5}
EVERY_ASIDE = 12  # one piece in so many is kept aside
BATCH, RATE, WEIGHT_DECAY = 192, 2e-3, 1e-3
MIXED_SHARE, MIXED_PLACES, MIXED_LEVEL = 0.5, 0.6, (0.4, 1.1)  # how often another piece sounds as well, and how loud
DISGUISED_SHARE, TONES_LOUDER, BANDS_TILTED = 0.5, 0.12, 0.2
_band: Band | None = None


@dataclass(frozen=True)
class Examples:
    """Places: what is `seen` of them in half precision, and what is `true` of every key, bool (places, 60, heads)."""

    tones: np.ndarray
    bands: np.ndarray
    true: np.ndarray

    @classmethod
    def of(cls, seen: Seen, true: list[np.ndarray]) -> "Examples":
        return cls(seen.tones.astype(np.float16), seen.bands.astype(np.float16), np.stack(true, axis=2))

    @classmethod
    def joined(cls, parts: list["Examples"]) -> "Examples":
        return cls(*(np.concatenate([getattr(p, name) for p in parts]) for name in ("tones", "bands", "true")))

    def batch(self, at: np.ndarray) -> tuple[Tensor, Tensor, Tensor]:
        tones, bands, true = (torch.from_numpy(v[at].astype(np.float32)) for v in (self.tones, self.bands, self.true))
        return tones, bands, true


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


def taught(examples: Examples, minutes: float, start: pathlib.Path | None) -> Keys:
    """The mean of the networks of the last steps, which does better than the last one."""
    rng = np.random.default_rng(0)
    keys = Keys(examples.tones.shape[1], examples.true.shape[2])
    if start:
        keys.load_state_dict(torch.load(start))
    average = torch.optim.swa_utils.AveragedModel(keys, multi_avg_fn=torch.optim.swa_utils.get_ema_multi_avg_fn(0.998))
    optimizer = torch.optim.AdamW(keys.parameters(), RATE, weight_decay=WEIGHT_DECAY)
    running = 0.0
    for step, share in enumerate(paced(optimizer, RATE, minutes), 1):
        tones, bands, true = disguised(*mixed(*examples.batch(rng.integers(0, len(examples.true), BATCH)), rng), rng)
        loss = loss_of(keys(tones, bands), true)
        take(optimizer, keys, loss)
        average.update_parameters(keys)
        running += float(loss.detach())
        if step % 500 == 0:
            print(f"{share:.0%} step {step} loss {running / 500:.4f}", flush=True)
            running = 0.0
    return average.module.eval()


def loss_of(out: Tensor, true: Tensor) -> Tensor:
    """Cross entropy; what is asked beside the first head only helps to learn it."""
    weight = torch.tensor([1.0] + [0.3] * (true.shape[2] - 1))
    each = nn.functional.binary_cross_entropy_with_logits(out, true, reduction="none")
    return (each.mean(dim=(0, 1)) * weight).sum()


def mixed(tones: Tensor, bands: Tensor, true: Tensor, rng: np.random.Generator) -> tuple[Tensor, Tensor, Tensor]:
    """At times another piece sounds along, at one of its own places: what is dense is heard too seldom otherwise."""
    if rng.random() >= MIXED_SHARE:
        return tones, bands, true
    other = torch.from_numpy(rng.permutation(BATCH))
    level = torch.from_numpy((rng.random(BATCH) < MIXED_PLACES).astype(np.float32))[:, None, None] * rng.uniform(*MIXED_LEVEL)
    as_loud = 1 / torch.sqrt(1 + level * level)

    def both(x: Tensor) -> Tensor:
        return torch.log1p(torch.sqrt(torch.expm1(x) ** 2 + (level * torch.expm1(x[other])) ** 2) * as_loud)

    return both(tones), both(bands), torch.where(level > 0, torch.maximum(true, true[other]), true)


def disguised(tones: Tensor, bands: Tensor, true: Tensor, rng: np.random.Generator) -> tuple[Tensor, Tensor, Tensor]:
    """At times at another level, through another tone control."""
    if rng.random() >= DISGUISED_SHARE:
        return tones, bands, true
    n = bands.shape[2]
    tilt = np.interp(np.arange(n), np.linspace(0, n - 1, 5), rng.normal(0, BANDS_TILTED, 5)).astype(np.float32)
    louder = float(rng.uniform(1 - TONES_LOUDER, 1 + TONES_LOUDER))
    return tones * louder, torch.clamp(bands + torch.from_numpy(tilt), min=0), true


def export(keys: Keys, rows: int, out: pathlib.Path) -> None:
    """Write the network as ONNX, any number of places in."""
    example = (torch.zeros(2, rows, N_TONES), torch.zeros(2, rows, 48))
    names = ["tones", "bands", "says"]
    torch.onnx.export(
        Said(keys),
        example,
        str(out),
        input_names=names[:2],
        output_names=names[2:],
        dynamo=False,
        dynamic_axes={name: {0: "places"} for name in names},
    )


def said(network: pathlib.Path, examples: Examples) -> np.ndarray:
    """What a network that was written says of examples, (examples, 60)."""
    session = onnxruntime.InferenceSession(network, providers=["CPUExecutionProvider"])
    parts = [slice(k, k + BATCH) for k in range(0, len(examples.true), BATCH)]
    given = [{"tones": examples.tones[p].astype(np.float32), "bands": examples.bands[p].astype(np.float32)} for p in parts]
    return np.concatenate([session.run(None, g)[0] for g in given])


def teach(examples_of: Callable[[int], Examples], about: str | None, first_seed: int) -> None:
    """The command of a teacher. `examples_of`: of the piece of a seed, what is seen and what is true."""
    parser = argparse.ArgumentParser(description=about)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--pieces", type=int, default=1230)
    parser.add_argument("--first", type=int, default=first_seed)
    parser.add_argument("--minutes", type=float, default=45)
    parser.add_argument("--start", type=pathlib.Path, help="go on from what was kept beside the network (.pt)")
    args = parser.parse_args()
    torch.manual_seed(0)
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(examples_of, range(args.first, args.first + args.pieces)))
    aside = Examples.joined(found[::EVERY_ASIDE])
    learned = Examples.joined([examples for k, examples in enumerate(found) if k % EVERY_ASIDE])
    keys = taught(learned, args.minutes, args.start)
    torch.save(keys.state_dict(), args.out.with_suffix(".pt"))
    export(keys, learned.tones.shape[1], args.out)
    area = roc_auc_score(aside.true[:, :, 0].ravel(), said(args.out, aside).ravel())
    print(f"{len(found)} pieces, one in {EVERY_ASIDE} of them kept aside: area under the curve {area:.4f}")
