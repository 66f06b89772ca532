"""Listening: from sound to chart."""

from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from evenseam.core.audio.attacks import Attacks, find_attacks, snap_to_attacks
from evenseam.core.audio.decode import Audio, open_stream
from evenseam.core.audio.levels import sounding_span
from evenseam.core.chart.chart import Chart, Confidence
from evenseam.core.errors import ListenError
from evenseam.core.listen.beats.bars import BarTrack, find_bars
from evenseam.core.listen.beats.ear import STEP_HOPS, Hearing, hear
from evenseam.core.listen.features.describe import beat_features, beat_intensity, mean_between
from evenseam.core.listen.features.intake import Intake, TakingIn, take_in
from evenseam.core.listen.features.spectra import Spectra, spectra
from evenseam.core.listen.form.count_in import end_of_count_in
from evenseam.core.listen.form.ending import find_ending
from evenseam.core.listen.form.phrases import find_breaths
from evenseam.core.listen.form.sections import parts_of
from evenseam.core.listen.harmony.key import find_key
from evenseam.core.listen.harmony.pitches import pitches
from evenseam.core.listen.harmony.ringing import ringing
from evenseam.core.listen.heard import Heard

SHORTEST_S = 1.0


def listen(audio: Audio) -> Chart:
    """Hear a recording: beats, bars, sections, opening and ending.

    Same sound, same chart: nothing here is random, and the order of the channels does not matter.
    Raises: ListenError when it is shorter than a second or silent throughout.
    """
    return chart_of(take_in(audio.samples, audio.rate))


def listen_to_file(path: Path) -> Chart:
    """Hear an audio file as it is read, so that hours of it need no more memory than their mono mix.

    Raises: AudioUnreadableError, ListenError.
    """
    stream = open_stream(path)
    taking = TakingIn(stream.rate, stream.channels)
    for block in stream.blocks:
        taking.push(block)
    return chart_of(taking.finish())


@dataclass(frozen=True, slots=True, eq=False)
class _Rhythm:
    """Beats, or breaths in free time: `at` in samples of the mono mix, `place` in the bar, how `sure` each is."""

    at: NDArray[np.float64]
    place: NDArray[np.int64]
    sure: NDArray[np.float32]
    meter: tuple[int, int]
    beats_per_bar: int
    confidence: Confidence
    is_free: bool
    other_tempo: float = 0.0  # how many times as fast one might count as well


def chart_of(intake: Intake) -> Chart:
    """The chart of a recording that was taken in. Raises: as `listen`."""
    return hear_and_chart(intake)[1]


def hear_and_chart(intake: Intake) -> tuple[Heard, Chart]:
    """What was heard in a recording that was taken in, and its chart. Raises: as `listen`."""
    if intake.n_samples < SHORTEST_S * intake.rate:
        raise ListenError("The track is shorter than a second; there is nothing to fit. Choose a longer one.")
    start, end = sounding_span(intake.mono, intake.mono_rate_hz)
    if end - start < intake.mono_rate_hz / 10:
        raise ListenError("The track is silent throughout. Check the export and add it again.")
    attacks = find_attacks(intake.mono, intake.mono_rate_hz)
    spec = spectra(intake.mono, intake.samples_per_mono)
    heard = hear(spec)
    last_hit, ring_out_end = find_ending(intake.mono, attacks, start, end)
    rhythm = _rhythm(intake, spec, heard, attacks, (start, end, last_hit, ring_out_end))
    key, kept = find_key(spec.tones), Heard.of(spec, heard, attacks, intake.samples_per_mono)
    spec = replace(spec, tones=spec.tones[:0].copy())  # kept in half precision: hours of music have room to save
    trim_start = max(start, end_of_count_in(intake.mono, intake.mono_rate_hz, rhythm.at, start))
    music_start, music_end, trim, hit, ring = (
        int(_as_samples(np.array([v]), intake)[0]) for v in (start, end, trim_start, last_hit, ring_out_end)
    )
    beats = _as_samples(rhythm.at, intake)
    downbeats = beats[rhythm.place == 0]
    beat_hops = beats / float(spec.samples_per_hop)
    features = beat_features(spec.bands, spec.chroma, kept.tones, beat_hops)
    sections, loops = parts_of(features, beats, rhythm.place, rhythm.beats_per_bar, ring)
    chart = Chart(
        rate=intake.rate,
        n_samples=intake.n_samples,
        free_time=rhythm.is_free,
        meter=rhythm.meter,
        tempo_bpm=0.0 if rhythm.is_free else _tempo_bpm(beats, intake.rate),
        other_tempo_bpm=rhythm.other_tempo * _tempo_bpm(beats, intake.rate),
        key=key,
        loudness_lufs=intake.loudness_lufs,
        true_peak_dbtp=intake.true_peak_dbtp,
        confidence=rhythm.confidence,
        music_start_samples=music_start,
        music_end_samples=music_end,
        trim_start_samples=trim,
        trim_end_samples=ring,
        opening_samples=next((int(d) for d in downbeats if d >= trim - intake.rate // 20), trim),
        last_hit_samples=hit,
        ring_out_end_samples=ring,
        beats=beats,
        beat_in_bar=rhythm.place,
        features=features,
        beat_sure=_as_stored(rhythm.sure),
        intensity=_as_stored(beat_intensity(spec.bands, spec.rise, beat_hops)),
        voice=_as_stored(mean_between(heard.voice, beat_hops / STEP_HOPS)),
        lead=_as_stored(mean_between(heard.lead, beat_hops / STEP_HOPS)),
        rings=_as_stored(ringing(kept.tones, kept.bands, beat_hops)),
        pitches=_as_stored(pitches(kept.tones, kept.bands, beat_hops)),
        sections=sections,
        loops=loops,
    )
    return kept, chart


def _rhythm(intake: Intake, spec: Spectra, heard: Hearing, attacks: Attacks, ends: tuple[int, int, int, int]) -> _Rhythm:
    """Beats and bars; breaths where no steady beat is heard. `ends`: start, end, last hit and ring-out, in the mono mix."""
    start, end, last_hit, ring_out_end = ends
    mono_per_hop = float(spec.samples_per_hop / intake.samples_per_mono)
    hops_per_s = intake.rate / float(spec.samples_per_hop)
    track = find_bars(spec, heard, hops_per_s, start / mono_per_hop)
    confidence = _confidence(track, heard) if track else Confidence(0.0, 0.0, 0.0, 0.0)
    if track is None or track.sure.is_free_time:
        hops, sure = find_breaths(spec, start / mono_per_hop, ring_out_end / mono_per_hop, hops_per_s)
        return _Rhythm(hops * mono_per_hop, np.zeros(hops.size, dtype=np.int64), sure, (1, 4), 1, confidence, is_free=True)
    counted = track.from_to(start / mono_per_hop, last_hit / mono_per_hop)
    at, place, sure = _on_attacks(counted, attacks, mono_per_hop, (start, end))
    return _Rhythm(at, place, sure, track.meter, track.beats_per_bar, confidence, False, track.other_tempo)


def _confidence(track: BarTrack, heard: Hearing) -> Confidence:
    """Of beats, half and double tempo forgiven; of tempo against half and double; of metre; of beats and bars together."""
    at = np.clip(track.hops / STEP_HOPS, 0, heard.beat.size - 1)
    meters = heard.meter[at.astype(int)].mean(axis=0)
    meter = float(meters[track.beats_per_bar - 2] / max(1e-6, meters.sum()))
    sure = track.sure
    return Confidence(sure.beat, sure.beat * track.grid.share, meter, sure.bar)


def _on_attacks(
    track: BarTrack, attacks: Attacks, mono_per_hop: float, music: tuple[int, int]
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float32]]:
    """Beats moved on to their attacks (samples of the mono mix), their places in the bar and how sure they are.

    Those outside the music are left out, as is one of two that were drawn on to the same attack.
    """
    at = snap_to_attacks(track.hops * mono_per_hop, attacks)
    inside = (at >= music[0] - attacks.rate / 20) & (at < music[1]) & (np.diff(at, prepend=-1e9) > attacks.rate / 50)
    return at[inside], track.place[inside], track.beat_sure[inside]


def _as_stored(values: NDArray[np.float32]) -> NDArray[np.float32]:
    """To the half precision in which charts are stored, so that a chart is the same before and after."""
    return values.astype(np.float16).astype(np.float32)


def _as_samples(at: NDArray[np.float64], intake: Intake) -> NDArray[np.int64]:
    """From samples of the mono mix to samples of the recording."""
    samples = np.rint(np.asarray(at, dtype=np.float64) * float(intake.samples_per_mono)).astype(np.int64)
    return np.clip(samples, 0, intake.n_samples - 1 if samples.size > 1 else intake.n_samples)


def _tempo_bpm(beats: NDArray[np.int64], rate: int) -> float:
    if beats.size < 2:
        return 0.0
    return float(60 * rate / np.median(np.diff(beats)))
