"""The edit of a run: its passages joined at their seams, at the track's own speed, nothing else changed."""

import numpy as np

from evenseam.core.audio.sound import Sound
from evenseam.core.render.crossfade import crossfade_gains
from evenseam.core.render.gains import apply_gains, with_silence
from evenseam.core.render.runs import Run


class Edit:
    """Reads any stretch of an edit from the sound of the track, float32 (channels, samples) or a memory map of that shape.

    Before its start and after its end the track goes on as it does there, so that a fade has something to fade.
    """

    def __init__(self, run: Run, samples: Sound) -> None:
        self._run, self._samples, self._starts = run, samples, run.edit_starts()

    def read(self, start: int, stop: int) -> Sound:
        """Edit samples [start, stop); a copy."""
        last = len(self._run.passages) - 1
        out = np.zeros((self._samples.shape[0], stop - start), dtype=np.float32)
        for number, passage in enumerate(self._run.passages):
            half_in = self._run.seams[number - 1].fade_samples // 2 if number else None
            half_out = self._run.seams[number].fade_samples // 2 if number < last else None
            first = start if half_in is None else max(start, self._starts[number] - half_in)
            end = stop if half_out is None else min(stop, self._starts[number + 1] + half_out)
            if first >= end:
                continue
            away = passage.source_in_samples - self._starts[number]
            sound = with_silence(self._samples, first + away, end + away)
            if half_in:
                self._fade(sound, number - 1, self._starts[number] - half_in - first, incoming=True)
            if half_out:
                self._fade(sound, number, self._starts[number + 1] - half_out - first, incoming=False)
            out[:, first - start : end - start] += sound
        return out

    def _fade(self, sound: Sound, seam: int, at: int, incoming: bool) -> None:
        fade = self._run.seams[seam]
        gains = crossfade_gains(fade.fade_samples // 2 * 2, fade.correlation)
        apply_gains(sound, gains[1 if incoming else 0], at)
