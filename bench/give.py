"""What a changed speed does to sound, for every way of changing it that was thought of. Prints one table.

Usage: give.py [--seconds S] [--way NAME]

A steady chord of six sines in stereo: energy outside its partials (worst window), steps of level, the stereo image; the
same beside clicks, in windows without one. Clicks alone and a demo track: attacks against the map, how much of a click's
energy leaves its place, what sounds before it. For the ways that can, a curve of speeds to the asked one in steps of two
seconds, and one as bending makes it: from beat to beat, smoothly to the asked speed and back to the track's own.
"""

import argparse
import time
from collections.abc import Callable, Iterator
from itertools import pairwise

import numpy as np
import python_stretch
import scipy.signal

from evenseam.core.audio.decode import decode
from evenseam.core.audio.sound import correlation
from evenseam.core.render.crossfade import crossfade_gains
from evenseam.core.render.struck import Source, clear_attacks
from evenseam.core.render.sweep import Sweep
from evenseam.core.render.varispeed import varispeed
from evenseam.core.timebase import Knot, TimeMap
from evenseam.demo.load import MUSIC

RATE = 48_000
PARTIALS_HZ = (196.0, 246.94, 293.66, 392.0, 493.88, 587.33)
SPEEDS = (1.001, 1.003, 1.004, 0.985, 1.02, 1.035, 0.96, 1.04, 0.9, 1.1)
WINDOW_S, CLICK_EVERY_S = 0.17, 0.6
CLEAR_RISE = 1.0  # attacks ten times what was before: of weaker ones no measure says to a millisecond where they lie
Sound = np.ndarray
Way = Callable[[Sound, TimeMap, int], Sound]


def piece(sound: Sound, start: int, stop: int) -> Sound:
    """[start, stop) of a sound, zeros outside it."""
    out = np.zeros((sound.shape[0], stop - start), dtype=np.float32)
    low, high = max(0, start), min(sound.shape[1], stop)
    if high > low:
        out[:, low - start : high - start] = sound[:, low:high]
    return out


def in_sweep(sound: Sound, time_map: TimeMap, rate: int) -> Sound:
    """What the product does above 0.3 %."""
    sweep = Sweep(Source(lambda a, b: piece(sound, a, b), sound.shape[0], rate), time_map)
    playing, parts = sweep.begin(), []
    first = -playing.at
    while playing.at < sweep.ends_at:
        parts.append(playing.make())
    return np.concatenate(parts, axis=1)[:, first : first + sweep.ends_at]


def resampled(sound: Sound, time_map: TimeMap, _rate: int) -> Sound:
    """What the product does up to 0.3 %: the pitch goes along."""
    return varispeed(lambda a, b: piece(sound, a, b), time_map, 0, time_map.knots[-1].out_samples)


def _engine(sound: Sound, rate: int, source: tuple[int, int], n_out: int, margin: int) -> Sound:
    """One call of Signalsmith Stretch with a quarter of a second of context."""
    speed = (source[1] - source[0]) / n_out
    context = round(0.25 * rate) + int(margin * max(speed, 1.0)) + 1
    stretcher = python_stretch.Signalsmith.Stretch()
    stretcher.preset(sound.shape[0], float(rate))
    stretcher.setTimeFactor(speed)
    made = np.asarray(stretcher.process(piece(sound, source[0] - context, source[1] + context)), dtype=np.float32)
    first = round(context / speed) - margin
    return piece(made, first, first + n_out + 2 * margin)


def in_one_call(sound: Sound, time_map: TimeMap, rate: int) -> Sound:
    """The engine over the whole at its mean speed: it can follow no curve."""
    return _engine(sound, rate, (0, time_map.knots[-1].source_samples), time_map.knots[-1].out_samples, 0)


def in_spans(sound: Sound, time_map: TimeMap, rate: int) -> Sound:
    """How it was done before: spans of 8 s from the engine, joined by crossfades that follow the correlation."""
    n_out, half = time_map.knots[-1].out_samples, round(0.012 * rate)
    edges = [*range(0, n_out - 4 * rate, 8 * rate), n_out]
    places = np.rint(time_map.source_at(np.array(edges))).astype(int).tolist()
    out = np.zeros((sound.shape[0], n_out + 2 * half), dtype=np.float32)
    made = [_engine(sound, rate, src, b - a, half) for (a, b), src in zip(pairwise(edges), pairwise(places), strict=True)]
    for number, ((a, _), part) in enumerate(zip(pairwise(edges), made, strict=True)):
        part = part.copy()
        if number:
            there = correlation(made[number - 1][:, -2 * half :], part[:, : 2 * half])
            part[:, : 2 * half] *= crossfade_gains(2 * half, there)[1]
        if number + 1 < len(made):
            after = made[number + 1][:, : 2 * half]
            part[:, -2 * half :] *= crossfade_gains(2 * half, correlation(part[:, -2 * half :], after))[0]
        out[:, a : a + part.shape[1]] += part
    return out[:, half:-half]


def in_splices(sound: Sound, time_map: TimeMap, rate: int) -> Sound:
    """Copies, moved by up to 20 ms at calm moments where the waveforms agree best (after Verhelst and Roelands 1993)."""
    n_out, half, reach = time_map.knots[-1].out_samples, round(0.010 * rate), round(0.020 * rate)
    out, at, source = np.zeros((sound.shape[0], n_out), dtype=np.float32), 0, 0
    mono = sound.mean(axis=0)
    while at < n_out:
        late = abs(float(time_map.source_at(np.array([at]))[0]) - source)
        step = max(round(0.05 * rate), round(0.25 * rate) if late < 0.004 * rate else round(0.1 * rate))
        power = np.convolve(np.square(piece(mono[None], source + step // 2, source + step)[0]), np.ones(2 * half), "valid")
        go_on = step // 2 + (int(power.argmin()) if power.size > 0 else step // 2)
        stop = min(n_out, at + go_on)
        out[:, at:stop] += piece(sound, source, source + stop - at)
        at, source = stop, source + stop - at
        if at >= n_out - 2 * half:
            out[:, at:] += piece(sound, source, source + n_out - at)
            break
        wanted = round(float(time_map.source_at(np.array([at]))[0]))
        fixed = piece(mono[None], source, source + 2 * half)[0]
        moving = piece(mono[None], wanted - reach, wanted + reach + 2 * half)[0]
        energy = np.convolve(np.square(moving), np.ones(2 * half), "valid") * np.square(fixed).sum()
        near = 0.02 * np.abs(np.arange(-reach, reach + 1)) / reach  # where all is silent, where it should be
        to = wanted - reach + int((np.correlate(moving, fixed, "valid") / np.sqrt(energy + 1e-9) - near).argmax())
        old, new = piece(sound, source, source + 2 * half), piece(sound, to, to + 2 * half)
        gains = crossfade_gains(2 * half, correlation(old, new))
        out[:, at : at + 2 * half] += old * gains[0] + new * gains[1]
        at, source = at + 2 * half, to + 2 * half
    return out


WAYS: dict[str, Way] = {
    "spans of 8 s (before)": in_spans, "one call a passage": in_one_call, "splices": in_splices,
    "resampling": resampled, "sweep": in_sweep,
}  # fmt: skip


def chord(n: int) -> Sound:
    """Six sines of fixed phases, other ones on the right."""
    t = np.arange(n) / RATE
    sides = [sum(np.sin(2 * np.pi * f * t + (1 + side) * k + side) for k, f in enumerate(PARTIALS_HZ)) for side in (0, 1)]
    return (0.1 * np.stack(sides)).astype(np.float32)


def clicks(n: int) -> tuple[Sound, np.ndarray]:
    """Short bursts of noise at uneven distances, and where they start."""
    rng = np.random.default_rng(2)
    at = np.cumsum(rng.uniform(0.5, 1.5, int(n / RATE / CLICK_EVERY_S)) * CLICK_EVERY_S * RATE).astype(int)
    at = at[(at > RATE // 2) & (at < n - RATE // 2)]
    burst = rng.normal(0, 1, 240) * np.exp(-np.arange(240) / 60)
    out = np.zeros((2, n), dtype=np.float32)
    for a in at:
        out[:, a : a + 240] += (0.4 * burst).astype(np.float32)
    return out, at


def outside_db(sound: Sound, cents: float, avoid: np.ndarray) -> float:
    """The worst window's energy outside the six partials, in dB of its whole energy. `avoid`: places of clicks."""
    n, worst = round(WINDOW_S * RATE), -200.0
    for start in range(RATE // 2, sound.shape[1] - RATE // 2 - n, n // 2):
        if np.any((avoid > start - 0.1 * RATE) & (avoid < start + n + 0.02 * RATE)):
            continue
        t = np.arange(start, start + n) / RATE
        waves = [w(2 * np.pi * f * 2 ** (cents / 1200) * t) for f in PARTIALS_HZ for w in (np.cos, np.sin)]
        basis, given = np.stack(waves, axis=1), sound[:, start : start + n].astype(np.float64)
        rest = given - (basis @ np.linalg.lstsq(basis, given.T, rcond=None)[0]).T
        worst = max(worst, 10 * np.log10(np.square(rest).sum() / np.square(given).sum() + 1e-20))
    return worst


def level_step_db(sound: Sound) -> float:
    """How far the level of any tenth of a second of the chord is from the usual one, in dB."""
    n = RATE // 10
    starts = range(RATE // 2, sound.shape[1] - RATE // 2 - n, n // 4)
    level = 10 * np.log10([np.square(sound[:, k : k + n], dtype=np.float64).mean() for k in starts])
    return float(np.abs(level - np.median(level)).max())


def image_db(sound: Sound, source: Sound, time_map: TimeMap) -> float:
    """How far the side signal's share moves from the source's, in dB, worst half second."""
    n, worst = RATE // 2, 0.0
    for start in range(n, sound.shape[1] - 2 * n, n):
        there = round(float(time_map.source_at(np.array([start]))[0]))
        sides = (sound[:, start : start + n], source[:, there : there + n])
        shares = [np.square(x[0] - x[1]).sum() / np.square(x).sum() for x in sides]
        worst = max(worst, abs(10 * np.log10(shares[0] / shares[1])))
    return worst


def attack_errors_ms(sound: Sound, source: Sound, at: np.ndarray, time_map: TimeMap, rate: int) -> np.ndarray:
    """By how much each attack lies away from where the map puts it: where its waveform fits best."""
    near, reach, errors = round(0.012 * rate), round(0.012 * rate), []
    for a, out in zip(at, np.rint(time_map.out_at(at)).astype(int), strict=True):
        # Highs only: the phase of a bass note says nothing of where the attack lies.
        given = np.diff(piece(source, a - near // 2, a + near).mean(axis=0))
        there = np.diff(piece(sound, out - near // 2 - reach, out + near + reach).mean(axis=0))
        match = np.abs(scipy.signal.hilbert(np.correlate(there, given, "valid")))
        errors.append((int(match.argmax()) - reach) * 1000 / rate)
    return np.abs(np.array(errors))


def smear_db(sound: Sound, at: np.ndarray) -> float:
    """Median of the energy of a click that is not within 5 ms after its start and 1 ms before, in dB."""
    shares = []
    for a in at:
        whole = np.square(piece(sound, a - RATE // 8, a + RATE // 8)).sum()
        own = np.square(piece(sound, a - RATE // 1000, a + RATE // 200)).sum()
        shares.append(10 * np.log10(max(whole - own, 1e-12) / whole))
    return float(np.median(shares))


def before_db(sound: Sound, at: np.ndarray) -> float:
    """Median of the energy from 60 to 2 ms before a click, in dB of the click."""
    shares = []
    for a in at:
        early = np.square(piece(sound, a - round(0.06 * RATE), a - round(0.002 * RATE))).sum()
        shares.append(10 * np.log10(max(early, 1e-12) / np.square(piece(sound, a, a + RATE // 100)).sum()))
    return float(np.median(shares))


def maps(n: int, speed: float) -> Iterator[tuple[str, TimeMap]]:
    """A steady speed, and a curve to it in steps of two seconds that ends at the same mean."""
    n_out = round(n / speed)
    yield f"{100 * (speed - 1):+.1f} %", TimeMap((Knot(0, 0), Knot(n_out, n)))
    if abs(speed - 1) > 0.01:
        outs = np.linspace(0, n_out, max(3, n_out // (2 * RATE)))
        away = (speed - 1) * np.sin(np.linspace(0, 2 * np.pi, outs.size - 1))
        places = np.concatenate([[0], np.cumsum(np.diff(outs) * (speed + 0.5 * away))])
        knots = zip(np.rint(outs).astype(int).tolist(), np.rint(places * n / places[-1]).astype(int).tolist(), strict=True)
        yield f"{100 * (speed - 1):+.1f} % curve", TimeMap(tuple(Knot(a, b) for a, b in knots))
        beats = np.arange(0, n, round(0.51 * RATE))
        there = 1 + (speed - 1) * np.sin(np.pi * (np.arange(beats.size - 1) + 0.5) / (beats.size - 1))
        lands = np.rint(np.concatenate([[0], np.cumsum(np.diff(beats) / there)])).astype(int)
        yield (
            f"{100 * (speed - 1):+.1f} % bent",
            TimeMap(tuple(Knot(a, b) for a, b in zip(lands.tolist(), beats.tolist(), strict=True))),
        )


def row(way: Way, time_map: TimeMap, n: int, follows_pitch: bool) -> str:
    """All figures of one way at one speed."""
    speed = float(np.max(np.abs(time_map.speeds() - 1))) * np.sign(time_map.speeds()[0] - 1) + 1
    cents = 1200 * np.log2(speed) if follows_pitch else 0.0
    steady, (struck, at) = chord(n), clicks(n)
    on_map = np.rint(time_map.out_at(at)).astype(int)
    began = time.perf_counter()
    made = way(steady, time_map, RATE)
    times = n / RATE / (time.perf_counter() - began)
    both, alone = way(steady + struck, time_map, RATE), way(struck, time_map, RATE)
    music = decode(MUSIC / "night_shift.ogg")
    sound = music.samples[:, : round(n / RATE * music.rate)]
    knots = [Knot(k.out_samples * music.rate // RATE, k.source_samples * music.rate // RATE) for k in time_map.knots]
    music_map = TimeMap(tuple(knots))
    places = clear_attacks(sound, music.rate, CLEAR_RISE)
    places = places[(places > music.rate) & (places < sound.shape[1] - music.rate)]
    errors = attack_errors_ms(way(sound, music_map, music.rate), sound, places, music_map, music.rate)
    return (
        f"{outside_db(made, cents, at[:0]):7.1f} {outside_db(both, cents, on_map):7.1f} {level_step_db(made):6.2f} "
        f"{image_db(made, steady, time_map):6.2f} {attack_errors_ms(alone, struck, at, time_map, RATE).max():7.2f} "
        f"{np.percentile(errors, 95):7.2f} {smear_db(alone, on_map):7.1f} {before_db(alone, on_map):7.1f} {times:6.0f}"
    )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=40)
    parser.add_argument("--way", default="")
    args = parser.parse_args()
    n = round(args.seconds * RATE)
    for way in WAYS.values():
        way(chord(2 * RATE), TimeMap((Knot(0, 0), Knot(2 * RATE - 99, 2 * RATE))), RATE)
    print(f"{'':38s} outside outside  level  image  clicks   music   smear  before  times")
    print(f"{'':38s}      dB +clicks     dB     dB  max ms  p95 ms      dB      dB   real")
    for name, way in WAYS.items():
        if args.way not in name:
            continue
        for speed in SPEEDS:
            for words, time_map in maps(n, speed):
                follows_curves, is_small = name in ("sweep", "resampling"), abs(speed - 1) < 0.0035
                if ("curve" in words and not follows_curves) or (name == "resampling" and not is_small):
                    continue
                print(f"{name:24s}{words:>14s} {row(way, time_map, n, name == 'resampling')}", flush=True)


if __name__ == "__main__":
    main()
