"""What is heard of a plan at once, anywhere in it: the print as far as it is made, a draft of what is not.

A sweep has to be made in order. Where playing starts far from what was made of it, a draft is heard: pieces of two
seconds, each begun anew, with a crossfade between them. Its attacks and downbeats lie where those of the print do, to the
sample; only phases differ. `make_more` makes the print meanwhile, and from then on it is what is heard.
"""

from collections.abc import Callable, Hashable, Iterator
from threading import RLock

import numpy as np
from cachetools import LRUCache

from evenseam.core.audio.sound import Sound, correlation
from evenseam.core.plan.model import Plan
from evenseam.core.render.crossfade import crossfade_gains
from evenseam.core.render.gains import apply_gains
from evenseam.core.render.making import Kept, Made, Shelf, joined
from evenseam.core.render.mixdown import RESAMPLED_AT_ONCE_S, Mixdown
from evenseam.core.render.programme import alone
from evenseam.core.render.renderer import Renderer
from evenseam.core.render.sweep import Sweep

_NEAR_S = 8.0  # what is so near is made now: some tenths of a second of work
_PIECE_S, _FADE_S = 2.0, 0.024
_MOST_PIECES = 32


class Preview:
    """Plays one plan, at its own rate or another one, from one of its samples on. `recording` names its track on the shelf.

    The shelf is shared with other plans; all places are samples at `rate`, counted from `from_samples` of the plan.
    """

    def __init__(
        self, plan: Plan, samples: Sound, recording: Hashable, shelf: Shelf, rate: int | None = None, from_samples: int = 0
    ) -> None:
        self._recording, self._shelf = recording, shelf
        self._kept: list[Kept] = []
        self._plan = plan
        self._rendered = Renderer(plan, samples, self._keep)
        self.rate, self.channels = rate or plan.rate, self._rendered.channels
        self._from_samples = from_samples
        self.n_samples = -(-(plan.target_samples - from_samples) * self.rate // plan.rate)
        programme = alone("fit", self.rate, self.channels, self.n_samples, from_samples)
        self._print = Mixdown(programme, {"fit": self._rendered})
        self._draft = Mixdown(programme, {"fit": Renderer(plan, samples, lambda _key, sweep: Draft(sweep()))})
        self._fade = round(_FADE_S * self.rate)

    def block(self, start: int, stop: int, after_draft: bool = False) -> tuple[Sound, bool]:
        """Output [start, stop), and whether it is that of the print. `after_draft`: what was heard before it was a draft.

        From a draft to the print it goes over in a short crossfade.
        """
        if not self._is_at_hand(start, stop):
            return self._draft.block(start, stop), False
        sound = self._print.block(start, stop)
        if after_draft and any(True for _ in self._sweeps(start, start + 1)):
            n = min(self._fade, stop - start)
            draft = self._draft.block(start, start + n)
            gains = crossfade_gains(n, correlation(draft, sound[:, :n]))
            sound[:, :n] = draft * gains[0] + sound[:, :n] * gains[1]
        return sound, True

    def make_more(self) -> bool:
        """Make some more of the print, what was asked for first. Returns: whether there is more to make."""
        for _ in self._sweeps(0, self.n_samples):
            pass  # begins those that nobody has asked for yet
        return any(kept.make_more() for kept in self._kept)

    def _is_at_hand(self, start: int, stop: int) -> bool:
        near = round(_NEAR_S * self._plan.rate)
        return all(isinstance(made, Kept) and last - made.made_to <= near for made, last in self._sweeps(start, stop))

    def _sweeps(self, start: int, stop: int) -> Iterator[tuple[Made, int]]:
        """The sweeps that [start, stop) needs, and the last sample of the plan that is needed of each."""
        around = 0 if self.rate == self._plan.rate else round(RESAMPLED_AT_ONCE_S * self._plan.rate)
        low, high = (self._from_samples + k * self._plan.rate // self.rate for k in (start, stop))
        return self._rendered.sweeps_within(low - around, high + around)

    def _keep(self, key: Hashable, sweep: Callable[[], Sweep]) -> Made:
        try:
            kept = self._shelf.get((self._recording, key), sweep)
        except OSError:  # no room to keep it: drafts are heard, and the print is made when it is asked for
            return Draft(sweep())
        self._kept.append(kept)
        return kept


class Draft:
    """A sweep read at any place without what comes before it: each piece begins in the phases of the source.

    Safe for several threads.
    """

    def __init__(self, sweep: Sweep) -> None:
        self._sweep = sweep
        self._piece, self._half = round(_PIECE_S * sweep.rate), round(_FADE_S * sweep.rate / 2)
        self._pieces: LRUCache[int, Sound] = LRUCache(_MOST_PIECES)
        self._lock = RLock()

    def read(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop)."""
        out = np.zeros((self._sweep.channels, stop - start), dtype=np.float32)
        for number in range((start - self._half) // self._piece, (stop + self._half) // self._piece + 1):
            low = max(start, number * self._piece - self._half)
            high = min(stop, (number + 1) * self._piece + self._half)
            if low >= high:
                continue
            with self._lock:
                sound = self._part(number, low, high)
                gains = {edge: self._gains(edge) for edge in (number, number + 1) if self._meets(edge, low, high)}
            for edge, side in ((number, 1), (number + 1, 0)):
                if edge in gains:
                    apply_gains(sound, gains[edge][side], edge * self._piece - self._half - low)
            out[:, low - start : high - start] += sound
        return out

    def _meets(self, edge: int, low: int, high: int) -> bool:
        return edge * self._piece - self._half < high and edge * self._piece + self._half > low

    def _gains(self, edge: int) -> tuple[Sound, Sound]:
        at = edge * self._piece
        sides = [self._part(number, at - self._half, at + self._half) for number in (edge - 1, edge)]
        return crossfade_gains(2 * self._half, correlation(*sides))

    def _part(self, number: int, low: int, high: int) -> Sound:
        """[low, high) of a piece, which reaches half a fade past either end. A copy."""
        first = number * self._piece - self._half
        piece = self._pieces.get(number, np.zeros((self._sweep.channels, 0), dtype=np.float32))
        if piece.shape[1] < high - first:
            playing, parts = self._sweep.begin(first), []
            while playing.at < high:
                at = playing.at
                parts.append((at, playing.make()))
            piece = joined(parts, first, high, self._sweep.channels)
            self._pieces[number] = piece
        return piece[:, low - first : high - first].copy()
