"""Listening: from sound to chart."""

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.decode import Audio, Sound
from evenseam.core.audio.levels import loudness_lufs, sounding_span
from evenseam.core.errors import ListenError
from evenseam.core.listen.attacks import snap_to_attacks
from evenseam.core.listen.bars import BarTrack, find_bars
from evenseam.core.listen.beats import attack_strength, beat_confidence, even_grid, find_pulses
from evenseam.core.listen.chart import Chart
from evenseam.core.listen.describe import beat_features
from evenseam.core.listen.ending import find_ending
from evenseam.core.listen.key import find_key
from evenseam.core.listen.sections import bar_features, find_loops, find_sections, likeness
from evenseam.core.listen.spectra import Spectra, spectra

SHORTEST_S = 1.0


def listen(audio: Audio) -> Chart:
    """Hear a recording: beats, bars, sections, opening and ending.

    Same sound, same chart: nothing here is random, and the order of the channels does not matter.
    Raises: ListenError when it is shorter than a second or silent throughout.
    """
    if audio.n_samples < SHORTEST_S * audio.rate:
        raise ListenError("The track is shorter than a second; there is nothing to fit. Choose a longer one.")
    mono = mix_to_mono(audio.samples)
    start, end = sounding_span(mono, audio.rate)
    if end - start < audio.rate // 10:
        raise ListenError("The track is silent throughout. Check the export and add it again.")
    spec = spectra(mono, audio.rate)
    hops_per_s = audio.rate / float(spec.samples_per_hop)
    music = _only_music(spec, start, end)
    strength = attack_strength(music)
    bars = find_bars(music, find_pulses(strength, hops_per_s), hops_per_s) or _no_bars(music, hops_per_s)
    beats, place = _on_attacks(bars, start // spec.samples_per_hop, mono, audio.rate, spec, (start, end))
    beat_hops = beats / float(spec.samples_per_hop)
    features = beat_features(spec, beat_hops)
    last_hit, ring_out_end = find_ending(mono, audio.rate, start, end)
    per_bar, bar_beats = bar_features(features, place, bars.meter)
    alike, bar_samples = likeness(per_bar), beats[bar_beats]
    return Chart(
        rate=audio.rate,
        n_samples=audio.n_samples,
        meter=(bars.meter, 4),
        tempo_bpm=_tempo_bpm(beats, audio.rate),
        key=find_key(spec.chroma),
        loudness_lufs=loudness_lufs(audio),
        beat_confidence=beat_confidence(strength, bars.hops),
        bar_confidence=bars.confidence,
        music_start_samples=start,
        music_end_samples=end,
        last_hit_samples=last_hit,
        ring_out_end_samples=ring_out_end,
        beats=beats,
        beat_in_bar=place,
        features=features,
        sections=find_sections(alike, bar_samples, ring_out_end),
        loops=find_loops(alike, bar_samples, ring_out_end),
    )


def mix_to_mono(samples: Sound) -> Sound:
    """Mean of the channels; summed in a fixed way, so that swapping them gives the same bits."""
    return samples[0] if samples.shape[0] == 1 else (samples[0] + samples[1]) * np.float32(0.5)


def _no_bars(spec: Spectra, hops_per_s: float) -> BarTrack:
    """For a recording in which no pulse was found: a plain grid, without any confidence."""
    grid = even_grid(spec.n_hops, hops_per_s)
    return BarTrack(grid, np.arange(grid.size, dtype=np.int64) % 4, 4, 0.0)


def _on_attacks(
    bars: BarTrack, first_hop: int, mono: Sound, rate: int, spec: Spectra, music: tuple[int, int]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Beats moved on to their attacks, with their places in the bar; those outside the music are left out."""
    beats = snap_to_attacks((bars.hops + first_hop) * float(spec.samples_per_hop), mono, rate)
    inside = (beats >= music[0] - rate // 20) & (beats < music[1])
    return beats[inside], bars.place[inside]


def _only_music(spec: Spectra, start: int, end: int) -> Spectra:
    first, last = start // spec.samples_per_hop, end // spec.samples_per_hop + 1
    part = slice(int(first), int(last))
    return Spectra(spec.bands[part], spec.chroma[part], spec.flux[part], spec.samples_per_hop)


def _tempo_bpm(beats: NDArray[np.int64], rate: int) -> float:
    if beats.size < 2:
        return 0.0
    return float(60 * rate / np.median(np.diff(beats)))
