"""Files in and out."""

import struct
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile as sf

from evenseam.core.audio.decode import decode
from evenseam.core.audio.encode import write_wav
from evenseam.core.audio.levels import loudness_lufs, sounding_span
from evenseam.core.audio.peaks import peaks_dat
from evenseam.core.errors import AudioUnreadableError


def tone(rate: int = 44_100, seconds: float = 1.0, channels: int = 2) -> np.ndarray:
    t = np.arange(round(rate * seconds)) / rate
    return np.stack([0.4 * np.sin(2 * np.pi * (300 + 50 * c) * t) for c in range(channels)]).astype(np.float32)


@pytest.mark.parametrize(("sample_format", "tolerance"), [("int16", 2.5 / 32768), ("int24", 2.5 / 2**23), ("float32", 0)])
def test_wav_comes_back_the_same(tmp_path: Path, sample_format: str, tolerance: float) -> None:
    sound = tone()
    write_wav(tmp_path / "a.wav", sound, 44_100, sample_format)  # type: ignore[arg-type]
    back = decode(tmp_path / "a.wav")
    assert back.rate == 44_100
    assert back.samples.shape == sound.shape
    assert np.abs(back.samples - sound).max() <= tolerance


def test_full_scale_and_silence_survive_16_bit(tmp_path: Path) -> None:
    sound = np.array([[0.0] * 5000 + [1.5] * 5000 + [-1.5] * 5000], dtype=np.float32)
    write_wav(tmp_path / "a.wav", sound, 44_100, "int16")
    back = sf.read(tmp_path / "a.wav", dtype="int16")[0]
    assert set(back[:5000]) == {0}
    assert set(back[5000:10_000]) == {32767}
    assert back[10_000:].max() <= -32766


@pytest.mark.parametrize("kind", [("flac", "FLAC"), ("ogg", "OGG"), ("mp3", "MP3"), ("aiff", "AIFF")])
@pytest.mark.parametrize("channels", [1, 2])
def test_reads_the_usual_formats(tmp_path: Path, kind: tuple[str, str], channels: int) -> None:
    path = tmp_path / f"a.{kind[0]}"
    sf.write(path, tone(channels=channels).T, 44_100, format=kind[1])
    audio = decode(path)
    assert audio.samples.shape[0] == channels
    assert abs(audio.n_samples - 44_100) < 3000  # MP3 may carry padding


CODED = {"a.m4a": "aac", "lossless.m4a": "alac", "a.opus": "libopus", "a.wma": "wmav2"}


@pytest.mark.parametrize("name", CODED)
def test_reads_what_is_coded(tmp_path: Path, name: str) -> None:
    path, rate = tmp_path / name, 48_000 if name == "a.opus" else 44_100
    with av.open(str(path), "w", format="asf" if name == "a.wma" else None) as out:
        stream = out.add_stream(CODED[name], rate=rate, layout="stereo")
        stream.bit_rate = 128_000
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(tone()), format="fltp", layout="stereo")
        frame.sample_rate = 44_100
        for part in [*av.AudioResampler(stream.format, "stereo", rate).resample(frame)]:
            for packet in stream.encode(part):
                out.mux(packet)
        for packet in stream.encode(None):
            out.mux(packet)
    audio = decode(path)
    assert audio.n_samples / audio.rate == pytest.approx(1.0, abs=0.1)
    spectrum = np.abs(np.fft.rfft(audio.samples[0]))
    assert spectrum.argmax() * audio.rate / audio.n_samples == pytest.approx(300, abs=5)


def test_reads_a_broadcast_wave_with_its_extra_chunk(tmp_path: Path) -> None:
    sf.write(tmp_path / "a.wav", tone().T, 48_000, subtype="PCM_24")
    data = (tmp_path / "a.wav").read_bytes()
    bext = b"bext" + struct.pack("<I", 602) + b"Open Night".ljust(602, b"\0")
    whole = b"RIFF" + struct.pack("<I", len(data) - 8 + len(bext)) + data[8:12] + bext + data[12:]
    (tmp_path / "b.wav").write_bytes(whole)
    assert np.array_equal(decode(tmp_path / "b.wav").samples, decode(tmp_path / "a.wav").samples)


# Front left and right, centre, low frequency, then the surrounds: what each gives to left and right (ITU-R BS.775).
MIXED = {
    1: [(1, 0)],
    3: [(1, 0), (0, 1), (0.707, 0.707)],
    4: [(1, 0), (0, 1), (0.707, 0), (0, 0.707)],
    6: [(1, 0), (0, 1), (0.707, 0.707), (0, 0), (0.707, 0), (0, 0.707)],
    8: [(1, 0), (0, 1), (0.707, 0.707), (0, 0), (0.707, 0), (0, 0.707), (0.707, 0), (0, 0.707)],
}


@pytest.mark.parametrize("channels", MIXED)
def test_mixes_any_number_of_channels_by_the_usual_coefficients(tmp_path: Path, channels: int) -> None:
    for place, (left, right) in enumerate(MIXED[channels]):
        sound = np.zeros((4_800, channels), dtype=np.float32)
        sound[:, place] = 0.5
        sf.write(tmp_path / "a.wav", sound, 48_000, subtype="FLOAT")
        mixed = decode(tmp_path / "a.wav").samples
        if channels == 1:
            assert mixed.shape[0] == 1
            continue
        full = max(sum(pair[side] for pair in MIXED[channels]) for side in (0, 1))
        np.testing.assert_allclose(mixed[:, 100], np.array([left, right]) * 0.5 / full, atol=1e-3)


def _header_that_lies(path: Path) -> None:
    path.write_bytes(b"RIFF" + struct.pack("<I", 0xFFFFFFF0) + b"WAVEfmt " + struct.pack("<IHHIIHH", 16, 1, 2, 44100, 176400, 4, 16)
                     + b"data" + struct.pack("<I", 0xFFFFFF00))  # fmt: skip


def _not_a_number(path: Path) -> None:
    sf.write(path, np.full((44_100, 1), np.nan, dtype=np.float32), 44_100, subtype="FLOAT")


def _too_fast(path: Path) -> None:
    sf.write(path, np.zeros((400_000, 1), dtype=np.float32), 400_000)


HOSTILE = {
    "empty": lambda p: p.write_bytes(b""),
    "text": lambda p: p.write_text("not music " * 500),
    "noise": lambda p: p.write_bytes(np.random.default_rng(3).bytes(20_000)),
    "header only": _header_that_lies,
    "NaN": _not_a_number,
    "rate": _too_fast,
    "longer than three hours": lambda p: sf.write(p, np.zeros(8_000 * (3 * 3600 + 5), dtype=np.int16), 8_000, format="FLAC"),
    "too short": lambda p: sf.write(p, np.zeros((100, 2)), 44_100),
}


@pytest.mark.parametrize("kind", HOSTILE)
def test_refuses_what_is_not_sound_with_a_reason(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "a.wav"
    HOSTILE[kind](path)
    with pytest.raises(AudioUnreadableError) as refused:
        decode(path)
    assert len(refused.value.detail) > 20


def test_a_truncated_file_gives_what_is_there(tmp_path: Path) -> None:
    sf.write(tmp_path / "a.wav", tone(seconds=2).T, 44_100)
    data = (tmp_path / "a.wav").read_bytes()
    (tmp_path / "a.wav").write_bytes(data[: len(data) // 2])
    assert 40_000 < decode(tmp_path / "a.wav").n_samples < 45_000


def test_loudness_of_the_reference_tone() -> None:
    t = np.arange(48_000 * 5) / 48_000
    sound = (0.1 * np.sin(2 * np.pi * 997 * t)).astype(np.float32)
    assert loudness_lufs(sound[None], 48_000) == pytest.approx(-23.0, abs=0.2)


def test_finds_the_sound_between_silence_and_hiss() -> None:
    rate = 44_100
    sound = np.random.default_rng(1).normal(0, 1e-4, rate * 6).astype(np.float32)
    sound[2 * rate : 4 * rate] += tone(seconds=2.0)[0]
    start, end = sounding_span(sound, rate)
    assert start / rate == pytest.approx(2.0, abs=0.03)
    assert end / rate == pytest.approx(4.0, abs=0.03)
    assert sounding_span(np.zeros(rate, dtype=np.float32), rate) == (0, 0)


def test_peaks_hold_every_extreme() -> None:
    sound = np.zeros((2, 1000), dtype=np.float32)
    sound[0, 130], sound[1, 700] = 1.0, -0.5
    data = peaks_dat(sound, 44_100, 64)
    version, flags, rate, per_point, count, channels = struct.unpack("<iIiiIi", data[:24])
    assert (version, flags, rate, per_point, count, channels) == (2, 0, 44_100, 64, 16, 1)
    pairs = np.frombuffer(data[24:], "<i2").reshape(16, 2)
    assert pairs[2, 1] == 32767
    assert pairs[10, 0] == round(-0.5 * 32767)
    assert np.count_nonzero(pairs) == 2
