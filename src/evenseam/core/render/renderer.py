"""The renderer: any stretch of a plan's output, sample for sample the same however it is asked for.

Passages overlap by half a fade on either side of a seam. Unstretched passages are copied; stretched ones are made span
by span between anchors. Two spans of the same music come out of the stretcher with different phases (measured: their
correlation is anything between -0.9 and 0.9), so where they join the fade's law follows the correlation that is there.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterator
from itertools import pairwise
from threading import Lock

import numpy as np

from evenseam.core.audio.decode import Sound
from evenseam.core.audio.levels import correlation
from evenseam.core.plan.plan import Anchor, Passage, Plan
from evenseam.core.render.crossfade import crossfade_gains
from evenseam.core.render.stretch import stretch_span, with_silence

_SPAN_FADE_S = 0.024
_HEAD_FADE_S, _TAIL_FADE_S = 0.002, 0.010
_BLOCK_S = 4.0

SpanKey = tuple[int, int, int]


class SpanCache:
    """Stretched spans of one track, the latest used kept up to a number of bytes. Safe for several threads."""

    def __init__(self, most_bytes: int = 64 << 20) -> None:
        self._most_bytes = most_bytes
        self._spans: OrderedDict[SpanKey, Sound] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def get(self, key: SpanKey, make: Callable[[], Sound]) -> Sound:
        """The span of a key, made now if it is not there."""
        with self._lock:
            if key in self._spans:
                self._spans.move_to_end(key)
                return self._spans[key]
        span = make()
        with self._lock:
            if key not in self._spans:
                self._spans[key] = span
                self._bytes += span.nbytes
            while self._bytes > self._most_bytes and len(self._spans) > 1:
                self._bytes -= self._spans.popitem(last=False)[1].nbytes
        return span


class Renderer:
    """Renders one plan from the sound of its track, float32 (channels, samples) or a memory map of that shape."""

    def __init__(self, plan: Plan, samples: Sound, cache: SpanCache | None = None) -> None:
        self._plan = plan
        self._samples = samples
        self._cache = cache or SpanCache()
        self._span_margin = round(_SPAN_FADE_S * plan.rate / 2)
        self._longest_margin = max([s.fade_samples for s in plan.seams], default=0) // 2 + self._span_margin

    def block(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop), float32 (channels, stop - start); silence outside the plan."""
        out = np.zeros((self._samples.shape[0], stop - start), dtype=np.float32)
        for number, passage in enumerate(self._plan.passages):
            half_in = self._plan.seams[number - 1].fade_samples // 2 if number else 0
            half_out = self._plan.seams[number].fade_samples // 2 if number < len(self._plan.seams) else 0
            first = max(start, passage.out_in_samples - half_in)
            last = min(stop, passage.out_out_samples + half_out)
            if first < last:
                sound = self._passage(passage, first, last)
                self._fade(sound, number, first, (half_in, half_out))
                out[:, first - start : last - start] += sound
        self._fade_ends(out, start)
        return out

    def _fade(self, sound: Sound, number: int, first: int, halves: tuple[int, int]) -> None:
        """Apply the gains of the seams at either end of a passage, where `sound` (from output `first`) meets them."""
        for seam_number, half, incoming in ((number - 1, halves[0], True), (number, halves[1], False)):
            seam = self._plan.seams[seam_number] if half else None
            if seam is None or not seam.out_samples - half < first + sound.shape[1] or not seam.out_samples + half > first:
                continue
            gains = crossfade_gains(2 * half, self._seam_correlation(seam_number))[1 if incoming else 0]
            self._gain(sound, gains, seam.out_samples - half - first)

    def _seam_correlation(self, number: int) -> float:
        """Of the two sides under a seam's fade: known for copied sound, measured where either side is stretched."""
        seam = self._plan.seams[number]
        before, after = self._plan.passages[number], self._plan.passages[number + 1]
        left, right = (before.anchors[-2], before.anchors[-1]), (after.anchors[0], after.anchors[1])
        if not (_is_stretched(left) or _is_stretched(right)):
            return seam.correlation
        half = seam.fade_samples // 2
        under = (seam.out_samples - half, seam.out_samples + half)
        return correlation(self._span(*left, *under), self._span(*right, *under))

    def _fade_ends(self, out: Sound, start: int) -> None:
        """A few milliseconds at the very start and end, so that a cut ring-out or hiss does not tick."""
        head, tail = round(_HEAD_FADE_S * self._plan.rate), round(_TAIL_FADE_S * self._plan.rate)
        rise = np.linspace(0, 1, head, endpoint=False, dtype=np.float32)
        if self._plan.passages[0].source_in_samples > 0:
            self._gain(out, rise, -start)
        fall = np.linspace(1, 0, tail, dtype=np.float32)
        self._gain(out, fall, self._plan.target_samples - tail - start)

    @staticmethod
    def _gain(sound: Sound, gains: Sound, at: int) -> None:
        first, last = max(0, at), min(sound.shape[1], at + gains.size)
        if first < last:
            sound[:, first:last] *= gains[first - at : last - at]

    def _passage(self, passage: Passage, first: int, last: int) -> Sound:
        """Output [first, last) of a passage, which may reach past its ends by half a fade."""
        spans = list(pairwise(passage.anchors))
        out = np.zeros((self._samples.shape[0], last - first), dtype=np.float32)
        for number, (a, b) in enumerate(spans):
            is_first, is_last = number == 0, number == len(spans) - 1
            begin = max(first, -(1 << 62) if is_first else a.out - self._span_margin)
            end = min(last, (1 << 62) if is_last else b.out + self._span_margin)
            if begin >= end:
                continue
            sound = self._span(a, b, begin, end)
            if not is_first and begin < a.out + self._span_margin:
                self._gain(sound, self._span_gains(spans[number - 1], (a, b))[1], a.out - self._span_margin - begin)
            if not is_last and end > b.out - self._span_margin:
                self._gain(sound, self._span_gains((a, b), spans[number + 1])[0], b.out - self._span_margin - begin)
            out[:, begin - first : end - first] += sound
        return out

    def _span_gains(self, before: tuple[Anchor, Anchor], after: tuple[Anchor, Anchor]) -> tuple[Sound, Sound]:
        """Gains across the join of two spans of one passage."""
        under = (after[0].out - self._span_margin, after[0].out + self._span_margin)
        there = correlation(self._span(*before, *under), self._span(*after, *under))
        return crossfade_gains(2 * self._span_margin, there)

    def _span(self, a: Anchor, b: Anchor, begin: int, end: int) -> Sound:
        """Output [begin, end) of the span between two anchors, reaching past it by at most the longest margin."""
        if not _is_stretched((a, b)):
            return with_silence(self._samples, a.source + begin - a.out, a.source + end - a.out)
        margin = self._longest_margin
        key = (a.source, b.source, b.out - a.out)
        whole = self._cache.get(
            key, lambda: stretch_span(self._samples, self._plan.rate, (a.source, b.source), b.out - a.out, margin)
        )
        return whole[:, begin - a.out + margin : end - a.out + margin].copy()


def _is_stretched(span: tuple[Anchor, Anchor]) -> bool:
    return span[1].source - span[0].source != span[1].out - span[0].out


def render_blocks(plan: Plan, samples: Sound) -> Iterator[Sound]:
    """The whole output in blocks of some seconds, in order."""
    renderer = Renderer(plan, samples)
    block = round(_BLOCK_S * plan.rate)
    for start in range(0, plan.target_samples, block):
        yield renderer.block(start, min(start + block, plan.target_samples))
