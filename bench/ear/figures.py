"""How well beats, bars and voices are heard, by kind of music.  Usage: python -m ear.figures SET   (SET made by ear.dataset)

Use seeds that were not taught (`ear.dataset OUT 120 --first 5000`). Beats count as found within 70 ms (F-measure);
`sure` is how likely there is a pulse. Voices count by the beats that are sung or spoken over, and the others.
"""

import argparse
import pathlib
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from fractions import Fraction

import mir_eval
import numpy as np

from evenseam.core.chart.chart import VOICE_FROM
from evenseam.core.listen.beats.bars import find_bars
from evenseam.core.listen.beats.ear import STEP_HOPS, Hearing, hear
from evenseam.core.listen.features.describe import mean_between
from evenseam.core.listen.features.spectra import Spectra, _rise

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
    voices = []
    paths = sorted(parser.parse_args().set.glob("*.npz"), key=lambda p: int(p.stem))
    with ProcessPoolExecutor(2) as pool:
        for label, ternary, row, sung in pool.map(_heard, paths):
            voices.append(sung)
            for kind in kinds(label, ternary):
                groups[kind].append(row)
    print(f"{'kind':22s} pieces  beat F  any octave  downbeat F  metre  sure")
    for kind, rows in sorted(groups.items()):
        beat, octave, down, meter, sure = np.nanmean(np.array(rows), axis=0)
        print(f"{kind:22s} {len(rows):6d}  {beat:6.3f}  {octave:10.3f}  {down:10.3f}  {meter:5.2f}  {sure:4.2f}")
    found, sung, wrong, others = np.sum(voices, axis=0)
    print(
        f"voices: {found / max(1, sung):.3f} of {sung} beats with one found, {wrong / max(1, others):.3f} of the others wrongly"
    )


def _heard(path: pathlib.Path) -> tuple[str, bool, tuple[float, ...], tuple[int, int, int, int]]:
    with np.load(path) as stored:
        piece = {name: stored[name] for name in stored.files}
    bands = piece["bands"].astype(np.float32)
    spec = Spectra(bands, bands[:, :12], _rise(bands), piece["tones"].astype(np.float32), Fraction(220))
    heard = hear(spec)
    return str(piece["label"]), bool(piece["ternary"]), _figures(piece, spec, heard), _voices(piece, heard)


def _voices(piece: dict[str, np.ndarray], heard: Hearing) -> tuple[int, int, int, int]:
    """Beats under a voice that are heard as such, all of these; beats that are not and are, all of those."""
    if not int(piece["n_beats"]):
        return 0, 0, 0, 0
    beats = piece["beats_s"]
    middle = (beats[1:] + beats[:-1]) / 2
    sung = np.zeros(middle.size, bool)
    for a, b in piece["voice_s"]:
        sung |= (middle >= a) & (middle < b)
    said = mean_between(heard.voice, beats * HOPS_PER_S / STEP_HOPS)[:-1] >= VOICE_FROM
    return int((said & sung).sum()), int(sung.sum()), int((said & ~sung).sum()), int((~sung).sum())


def _figures(piece: dict[str, np.ndarray], spec: Spectra, heard: Hearing) -> tuple[float, ...]:
    opening = int(np.argmax(spec.bands.mean(axis=1) > 0.3))
    track = find_bars(spec, heard, HOPS_PER_S, opening)
    if track is None:
        return (np.nan, np.nan, np.nan, np.nan, 0.0)
    sure = track.sure.pulse
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
