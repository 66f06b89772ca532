"""How well beats and bars are heard, by kind of music.  Usage: python -m ear.figures SET   (SET made by ear.dataset)

Use seeds that were not taught (`ear.dataset OUT 120 --first 5000`). Beats count as found within 70 ms (F-measure).
"""

import argparse
import pathlib
from collections import defaultdict
from fractions import Fraction

import mir_eval
import numpy as np

from evenseam.core.listen.bars import find_bars
from evenseam.core.listen.ear import hear
from evenseam.core.listen.spectra import Spectra, _rise

HOPS_PER_S = 22_050 / 220


def kinds(label: str, ternary: bool) -> list[str]:
    """The groups a piece belongs to, from the label its score was given."""
    if label == "beatless":
        return ["without a beat"]
    meter, sub, mode, *rest = label.split("/")
    out = ["all with a beat", f"{meter} beats to the bar", "with drums" if rest else "without drums", mode]
    if ternary:
        out.append("compound")
    elif sub == "3":
        out.append("swung or shuffled")
    return out


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("set", type=pathlib.Path)
    groups: dict[str, list[tuple[float, ...]]] = defaultdict(list)
    for path in sorted(parser.parse_args().set.glob("*.npz"), key=lambda p: int(p.stem)):
        with np.load(path) as piece:
            row = _figures({name: piece[name] for name in piece.files})
            for kind in kinds(str(piece["label"]), bool(piece["ternary"])):
                groups[kind].append(row)
    print(f"{'kind':22s} pieces  beat F  any octave  downbeat F  metre  sure")
    for kind, rows in sorted(groups.items()):
        beat, octave, down, meter, sure = np.nanmean(np.array(rows), axis=0)
        print(f"{kind:22s} {len(rows):6d}  {beat:6.3f}  {octave:10.3f}  {down:10.3f}  {meter:5.2f}  {sure:4.2f}")


def _figures(piece: dict[str, np.ndarray]) -> tuple[float, ...]:
    bands = piece["bands"].astype(np.float32)
    spec = Spectra(bands, bands[:, :12], _rise(bands), piece["tones"].astype(np.float32), Fraction(220))
    heard = hear(spec)
    opening = int(np.argmax(bands.mean(axis=1) > 0.3))
    track = find_bars(spec, heard, HOPS_PER_S, opening)
    if track is None:
        return (np.nan,) * 5
    sure = track.heard_sure
    if not int(piece["n_beats"]):
        return (np.nan, np.nan, np.nan, np.nan, sure)
    score, beats, found = mir_eval.beat.f_measure, piece["beats_s"][4:], track.hops / HOPS_PER_S
    found = found[(found > beats[0] - 0.2) & (found < beats[-1] + 0.2)]
    downs = (track.hops / HOPS_PER_S)[track.place == 0]
    truth = piece["downbeats_s"][piece["downbeats_s"] >= beats[0] - 0.01]
    downs = downs[(downs > beats[0] - 0.2) & (downs < beats[-1] + 0.2)]
    doubled = np.sort(np.concatenate([beats, (beats[1:] + beats[:-1]) / 2]))
    beat = score(beats, found)
    octave = max(beat, score(beats[::2], found), score(beats[1::2], found), score(doubled, found))
    return beat, octave, score(truth, downs), float(track.beats_per_bar == int(piece["n_beats"])), sure


if __name__ == "__main__":
    main()
