"""Teach the ear and write its weights.  Usage: python -m ear.train SET OUT.onnx [--minutes M] [--start EAR.onnx [--only voice]]

SET is made by ear.dataset; with --start, teaching goes on from weights that are there.

Prints the loss on pieces kept aside. Run in bench/ with src/ on the path, after bench/ear/requirements.txt.
"""

import argparse
import math
import pathlib
import time

import numpy as np
import torch
from torch import nn

from ear import weights
from ear.network import HEADS, Ear
from ear.steps import paced, take

STEP_S = 440 / 22_050
N_STEPS = 2048  # a training excerpt: 41 s
KEPT_ASIDE = 40
OTHER_TEMPO_SHARE, OTHER_TEMPO = 0.6, 0.28  # how often an excerpt is played faster or slower, and by how much, in log2


class Pieces:
    """Feature files in memory, cut into random excerpts."""

    def __init__(self, paths: list[pathlib.Path], seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.data = [_load(p) for p in paths]

    def batch(self, n: int) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
        """(n, 2 steps, bands), (n, steps / 2, tones), (n, steps, heads); -1 where nothing is asked."""
        bands = np.zeros((n, 2 * N_STEPS, 48), np.float32)
        tones = np.zeros((n, N_STEPS // 2, 60), np.float32)
        truth = np.full((n, N_STEPS, len(HEADS)), -1, np.float32)
        for k in range(n):
            b, t, y = self.data[self.rng.integers(len(self.data))]
            faster = 2 ** self.rng.uniform(-OTHER_TEMPO, OTHER_TEMPO) if self.rng.random() < OTHER_TEMPO_SHARE else 1.0
            taken = math.ceil(N_STEPS * faster / 2) * 2
            first = 2 * int(self.rng.integers(0, max(1, (y.shape[0] - taken) // 2 + 60)))
            b, t, y = b[2 * first : 2 * (first + taken)], t[first // 2 : (first + taken) // 2], y[first : first + taken]
            if faster != 1.0:
                b, t, y = _played(b, faster), _played(t, faster), _marks_played(y, faster)
            b, t, y = b[: 2 * N_STEPS], t[: N_STEPS // 2], y[:N_STEPS]
            bands[k, : len(b)], tones[k, : len(t)], truth[k, : len(y)] = b, t, y
            self._disguise(bands[k], tones[k], len(b), len(t))
        return torch.from_numpy(bands), torch.from_numpy(tones), torch.from_numpy(truth)

    def _disguise(self, bands: np.ndarray, tones: np.ndarray, n: int, m: int) -> None:
        """Another level, another tone control, a band left out, another key."""
        rng = self.rng
        curve = np.interp(np.arange(48), np.linspace(0, 47, 5), rng.normal(0, 0.25, 5)) + rng.normal(0, 0.15)
        bands[:n] = np.maximum(bands[:n] + curve.astype(np.float32) * (bands[:n] > 0.3), 0)
        if rng.random() < 0.3:
            low = rng.integers(0, 44)
            bands[:n, low : low + rng.integers(2, 8)] = 0
        tones[:m] = np.roll(tones[:m], int(rng.integers(-5, 6)), axis=1) * np.float32(rng.uniform(0.85, 1.15))
        if rng.random() < 0.1:
            tones[:m] = 0


def _played(rows: np.ndarray, faster: float) -> np.ndarray:
    """Spectra of the same music at another tempo."""
    at = np.arange(int((len(rows) - 1) / faster) + 1) * faster
    low = np.minimum(at.astype(int), len(rows) - 1)
    high, part = np.minimum(low + 1, len(rows) - 1), (at - low)[:, None].astype(np.float32)
    return rows[low].astype(np.float32) * (1 - part) + rows[high].astype(np.float32) * part


def _marks_played(y: np.ndarray, faster: float) -> np.ndarray:
    """What was true of every step, at another tempo: beats stay as short as they were."""
    n = int((len(y) - 1) / faster) + 1
    out = y[np.minimum(np.round(np.arange(n) * faster).astype(int), len(y) - 1)]
    for head in range(2):
        out[:, head] = 0
        at = np.round(np.flatnonzero(y[:, head] == 1) / faster).astype(int)
        _mark(out[:, head], at)
    return out


def _mark(column: np.ndarray, at: np.ndarray) -> None:
    """Beats at these steps, and a little beside them."""
    for shift, value in ((-1, 0.4), (1, 0.4), (0, 1.0)):
        k = at + shift
        column[k[(k >= 0) & (k < column.size)]] = value


def _load(path: pathlib.Path) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    with np.load(path) as d:
        bands, tones = d["bands"], d["tones"]
        n = bands.shape[0] // 4 * 2
        y = np.zeros((n, len(HEADS)), np.float16)
        for head in ("beat", "downbeat"):
            _mark(y[:, HEADS.index(head)], np.round(d[f"{head}s_s"] / STEP_S).astype(int))
        for head in ("lead", "voice"):
            for a, b in d[f"{head}_s"]:
                y[max(0, int(a / STEP_S)) : int(b / STEP_S) + 1, HEADS.index(head)] = 1
        y[:, HEADS.index("ternary")] = d["ternary"]
        if int(d["n_beats"]):
            y[:, HEADS.index(f"m{int(d['n_beats'])}")] = 1
            ended = int(d["beats_s"][-1] / STEP_S) + 40
            y[ended:, 4:] = -1
        else:
            y[:, 4:] = -1
    return bands[: 2 * n], tones[: n // 2], y


def loss_of(out: torch.Tensor, truth: torch.Tensor) -> torch.Tensor:
    """Weighted cross entropy of all heads; beats count most."""
    weight = torch.tensor([1.0, 1.0, 0.15, 0.3, 0.05] + [0.05] * 6)
    positive = torch.tensor([4.0, 8.0, 1.0, 2.0, 1.0] + [1.0] * 6)
    each = nn.functional.binary_cross_entropy_with_logits(out, truth.clamp(min=0), reduction="none", pos_weight=positive)
    return (each * weight * (truth >= 0)).mean() * 10


def export(ear: Ear, out: pathlib.Path) -> None:
    """Write the trained network as ONNX, any length in."""
    ear.eval()
    example = (torch.zeros(1, 512, 48), torch.zeros(1, 128, 60))
    torch.onnx.export(
        ear,
        example,
        str(out),
        input_names=["bands", "tones"],
        output_names=["heard"],
        dynamo=False,
        dynamic_axes={"bands": {1: "hops"}, "tones": {1: "quarters"}, "heard": {1: "steps"}},
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--minutes", type=float, default=40)
    parser.add_argument("--batch", type=int, default=8)
    parser.add_argument("--rate", type=float, default=2e-3)
    parser.add_argument("--only", choices=["voice"], help="teach nothing else; everything else is heard as before")
    parser.add_argument("--start", type=pathlib.Path, help="go on from these weights (.onnx)")
    args = parser.parse_args()
    torch.manual_seed(1)
    paths = sorted(args.set.glob("*.npz"), key=lambda p: int(p.stem))
    aside, pieces = Pieces(paths[:KEPT_ASIDE], 0), Pieces(paths[KEPT_ASIDE:], 1)
    checks = [aside.batch(16) for _ in range(4)]
    ear = Ear()
    if args.start:
        weights.load(ear, args.start)
    if args.only:
        ear.requires_grad_(False)
        ear.voice.requires_grad_(True)
    print(f"{len(paths)} pieces, {sum(p.numel() for p in ear.parameters())} weights", flush=True)
    average = torch.optim.swa_utils.AveragedModel(
        ear, multi_avg_fn=torch.optim.swa_utils.get_ema_multi_avg_fn(0.995), use_buffers=True
    )
    taught = list((ear.voice if args.only else ear).parameters())
    optimizer = torch.optim.AdamW(taught, lr=args.rate, weight_decay=0.01)
    began, step, running = time.monotonic(), 0, 0.0
    for share in paced(optimizer, args.rate, args.minutes):
        ear.train(mode=args.only is None)
        if args.start:
            weights.keep_norms(ear)
        bands, tones, truth = pieces.batch(args.batch)
        loss = loss_of(ear(bands, tones), truth)
        take(optimizer, ear, loss)
        average.update_parameters(ear)
        running, step = running + float(loss.detach()), step + 1
        if step % 200 == 0:
            average.module.eval()
            with torch.no_grad():
                aside_loss = np.mean([float(loss_of(average.module(b, t), y)) for b, t, y in checks])
            print(
                f"{share:.0%} step {step} loss {running / 200:.4f} aside {aside_loss:.4f}, "
                f"{(time.monotonic() - began) / step:.2f} s a step",
                flush=True,
            )
            running = 0.0
            export(average.module, args.out)
    export(average.module, args.out)


if __name__ == "__main__":
    main()
