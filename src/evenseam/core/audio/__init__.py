"""Sound in and out: decoding, encoding, levels, silence, drawing peaks."""

from evenseam.core.audio.decode import Audio, Sound, Stream, decode, mapped, open_stream
from evenseam.core.audio.encode import SAMPLE_FORMATS, WavWriter, write_wav

__all__ = ["SAMPLE_FORMATS", "Audio", "Sound", "Stream", "WavWriter", "decode", "mapped", "open_stream", "write_wav"]
