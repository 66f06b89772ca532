"""Teach the count and write its weights.  Usage: python -m ear.count_train SET FEATURES OUT.onnx [--steps N] [--voices N]

SET is made by ear.dataset, of pieces that the ear was not taught on: the count must learn how far the ear is to be
trusted. FEATURES is a folder for what is heard at the half beats of each piece, made once.

Run in bench/ with src/ on the path, after bench/ear/requirements.txt. Prints the loss on pieces kept aside.
"""

import argparse
import math
import pathlib
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction

import numpy as np
import torch
from torch import Tensor, nn

from ear.count_network import KINDS, METERS, Count, Counts
from evenseam.core.listen.beats.ear import hear
from evenseam.core.listen.beats.halves import GROUPS, N_FEATURES, half_beat_features, half_beat_hops
from evenseam.core.listen.beats.tracking import decode_beats
from evenseam.core.listen.features.spectra import Spectra, _rise

HOPS_PER_S = 22_050 / 220
N_HALVES = 384  # a training excerpt
KEPT_ASIDE = 60
NEAR_S, NEAR_SHARE = 0.07, 0.4  # a half beat is a true beat within so much, and so much of a half beat
FASTEST_DOUBLED_BPM = 130
# How often the music is counted on the beats that were decoded, on every second of them, on twice as many.
GRIDS = {"as": 1.0, "half": 0.25, "double": 0.25}
HIDDEN = {"ear": 0.4, "around": 0.35, "struck": 0.2, "tempo": 0.3}
HIDDEN_ELSE = 0.1


def make_features(job: tuple[pathlib.Path, pathlib.Path]) -> None:
    """What is heard at the half beats of one piece, on each grid, and what is true there (-1: nothing is asked)."""
    path, out = job
    if out.exists():
        return
    with np.load(path) as d:
        piece = {k: d[k] for k in d.files}
    if not int(piece["n_beats"]):
        return
    bands = piece["bands"].astype(np.float32)
    spec = Spectra(bands, bands[:, :12], _rise(bands), piece["tones"].astype(np.float32), Fraction(220))
    heard = hear(spec)
    at = decode_beats(heard, HOPS_PER_S, float(np.argmax(bands.mean(axis=1) > 0.3)))
    if at is None:
        return
    kept = {}
    for name, beats in _grids(at, int(path.stem)):
        hops = half_beat_hops(beats)
        kept[f"x_{name}"] = half_beat_features(spec, heard, hops, HOPS_PER_S).astype(np.float16)
        kept[f"y_{name}"] = _truth(hops / HOPS_PER_S, piece["beats_s"], piece["downbeats_s"])
    np.savez(out, meter=piece["n_beats"], **kept)


def _grids(at: np.ndarray, seed: int) -> Iterator[tuple[str, np.ndarray]]:
    yield "as", at
    if at.size > 40:
        yield "half", at[seed % 2 :: 2]
    if 60 * HOPS_PER_S / np.median(np.diff(at)) < FASTEST_DOUBLED_BPM:
        yield "double", half_beat_hops(at)


def _truth(at_s: np.ndarray, beats_s: np.ndarray, downbeats_s: np.ndarray) -> np.ndarray:
    k = np.clip(np.searchsorted(beats_s, at_s), 1, beats_s.size - 1)
    near = np.where(np.abs(beats_s[k] - at_s) < np.abs(beats_s[k - 1] - at_s), k, k - 1)
    is_beat = np.abs(beats_s[near] - at_s) < np.minimum(NEAR_S, NEAR_SHARE * np.gradient(at_s))
    is_down = np.isin(np.round(beats_s, 6), np.round(downbeats_s, 6))
    truth = np.where(is_beat, 1 + is_down[near], 0)
    met = np.zeros(beats_s.size, bool)
    met[near[is_beat]] = True
    asked = met[near] & (at_s > beats_s[0] - 0.1) & (at_s < beats_s[-1] + 0.1)
    return np.where(asked, truth, -1).astype(np.int8)


class Pieces:
    """Feature files in memory, cut into random excerpts."""

    def __init__(self, paths: list[pathlib.Path], seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.data = []
        for path in paths:
            with np.load(path) as d:
                grids = {name: (d[f"x_{name}"], d[f"y_{name}"]) for name in GRIDS if f"x_{name}" in d.files}
                self.data.append((METERS.index(int(d["meter"])), grids))

    def batch(self, n: int, *, disguised: bool = True) -> tuple[Tensor, Tensor, Tensor]:
        """(n, halves, features), (n, halves) kinds and (n, halves) metres; -1 where nothing is asked."""
        x = np.zeros((n, N_HALVES, N_FEATURES), np.float32)
        kind, meter = np.full((n, N_HALVES), -1, np.int64), np.full((n, N_HALVES), -1, np.int64)
        for k in range(n):
            index, grids = self.data[self.rng.integers(len(self.data))]
            weight = np.array([GRIDS[name] for name in grids])
            features, truth = grids[list(grids)[self.rng.choice(len(grids), p=weight / weight.sum())]]
            first = int(self.rng.integers(0, max(1, len(features) - N_HALVES + 1)))
            part, asked = features[first : first + N_HALVES].astype(np.float32), truth[first : first + N_HALVES]
            x[k, : len(part)] = self._disguised(part) if disguised else part
            kind[k, : len(asked)] = asked
            meter[k, : len(asked)] = np.where(asked >= 0, index, -1)
        return torch.from_numpy(x), torch.from_numpy(kind), torch.from_numpy(meter)

    def _disguised(self, x: np.ndarray) -> np.ndarray:
        """Another key, another tone, a surer or less sure ear, some noise, and now and then a kind of evidence left out."""
        rng = self.rng
        x[:, GROUPS["tones"]] = np.roll(x[:, GROUPS["tones"]], int(rng.integers(-4, 5)), axis=1)
        n_bands = GROUPS["bands"].stop - GROUPS["bands"].start
        x[:, GROUPS["bands"]] += np.interp(np.arange(n_bands), np.linspace(0, n_bands - 1, 5), rng.normal(0, 0.15, 5))
        x[:, GROUPS["ear"]] *= rng.uniform(0.6, 1.2)
        x += rng.normal(0, 0.05, x.shape).astype(np.float32)
        for name, group in GROUPS.items():
            if rng.random() < HIDDEN.get(name, HIDDEN_ELSE):
                x[:, group] = 0
        return x


def loss_of(out: Tensor, kind: Tensor, meter: Tensor) -> Tensor:
    """Cross entropy of what each half beat is; a little of the metre's."""
    entropy = nn.functional.cross_entropy
    kinds = entropy(out[..., : len(KINDS)].flatten(0, 1), kind.flatten(), ignore_index=-1)
    return kinds + 0.15 * entropy(out[..., len(KINDS) :].flatten(0, 1), meter.flatten(), ignore_index=-1)


def teach(pieces: Pieces, aside: Pieces, steps: int, seed: int) -> Count:
    """One network, taught from a seed: the mean of its last weights."""
    torch.manual_seed(seed)
    checks = [aside.batch(32, disguised=False) for _ in range(4)]
    net = Count()
    average = torch.optim.swa_utils.AveragedModel(
        net, multi_avg_fn=torch.optim.swa_utils.get_ema_multi_avg_fn(0.995), use_buffers=True
    )
    optimizer = torch.optim.AdamW(net.parameters(), lr=2e-3, weight_decay=0.02)
    running = 0.0
    for step in range(1, steps + 1):
        for group in optimizer.param_groups:
            group["lr"] = 2e-3 * min(1, step / 100) * 0.5 * (1 + math.cos(math.pi * step / steps))
        net.train()
        x, kind, meter = pieces.batch(12)
        loss = loss_of(net(x), kind, meter)
        optimizer.zero_grad()
        loss.backward()
        nn.utils.clip_grad_norm_(net.parameters(), 1.0)
        optimizer.step()
        average.update_parameters(net)
        running += float(loss.detach())
        if step % 200 == 0:
            average.module.eval()
            with torch.no_grad():
                kept = np.mean([float(loss_of(average.module(x), *y)) for x, *y in checks])
            print(f"seed {seed} step {step} loss {running / 200:.4f} aside {kept:.4f}", flush=True)
            running = 0.0
    return average.module.eval()


def export(counts: Counts, out: pathlib.Path) -> None:
    """Write the networks as one ONNX file, any length in."""
    torch.onnx.export(
        counts.eval(),
        (torch.zeros(1, 64, N_FEATURES),),
        str(out),
        input_names=["halves"],
        output_names=["counted"],
        dynamo=False,
        dynamic_axes={"halves": {1: "halves"}, "counted": {1: "halves"}},
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path)
    parser.add_argument("features", type=pathlib.Path)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--steps", type=int, default=3000)
    parser.add_argument("--voices", type=int, default=4, help="networks, each taught from a seed of its own, that vote")
    args = parser.parse_args()
    args.features.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        list(pool.map(make_features, ((p, args.features / p.name) for p in sorted(args.set.glob("*.npz"))), chunksize=4))
    paths = sorted(args.features.glob("*.npz"), key=lambda p: int(p.stem))
    # Every so manyeth, so that all that was written is among those kept aside.
    aside = set(paths[:: max(1, len(paths) // KEPT_ASIDE)])
    print(f"{len(paths)} pieces, {sum(p.numel() for p in Count().parameters())} weights each", flush=True)
    voices = [
        teach(Pieces([p for p in paths if p not in aside], seed), Pieces(sorted(aside), 0), args.steps, seed)
        for seed in range(1, args.voices + 1)
    ]
    export(Counts(voices), args.out)


if __name__ == "__main__":
    main()
