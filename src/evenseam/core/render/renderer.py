"""The renderer: any stretch of a plan's output, sample for sample the same however it is asked for."""

from collections.abc import Callable, Hashable, Iterator

import numpy as np

from evenseam.core.audio.sound import Sound, correlation
from evenseam.core.plan.model import Plan, Seam
from evenseam.core.render.crossfade import crossfade_gains
from evenseam.core.render.gains import apply_gains, falling, rising
from evenseam.core.render.making import InOrder, Made
from evenseam.core.render.run_edit import Edit
from evenseam.core.render.runs import runs_of
from evenseam.core.render.struck import Source
from evenseam.core.render.sweep import SWEEP_VERSION, Sweep
from evenseam.core.render.varispeed import varispeed

Make = Callable[[Hashable, Callable[[], Sweep]], Made]


def in_order(_key: Hashable, sweep: Callable[[], Sweep]) -> Made:
    """How a print makes its sweeps."""
    return InOrder(sweep())


class Renderer:
    """Renders one plan from the sound of its track, float32 (channels, samples) or a memory map of that shape.

    `make(key, sweep)` says how the sweeps of the plan are made and kept.
    """

    def __init__(self, plan: Plan, samples: Sound, make: Make = in_order) -> None:
        self._plan, self._samples, self._make = plan, samples, make
        self._runs = runs_of(plan)
        self._edits = [Edit(run, samples) for run in self._runs]
        self._maps = [run.time_map() for run in self._runs]
        self._seams = {s.out_samples: s for s in plan.seams}
        self._made: dict[int, Made] = {}

    @property
    def rate(self) -> int:
        """Samples a second."""
        return self._plan.rate

    @property
    def channels(self) -> int:
        """One or two."""
        return int(self._samples.shape[0])

    def block(self, start: int, stop: int) -> Sound:
        """Output samples [start, stop), float32 (channels, stop - start); silence outside the plan."""
        out = np.zeros((self.channels, stop - start), dtype=np.float32)
        for number in range(len(self._runs)):
            self._add_run(out, start, number)
        self._fade_at_rests(out, start)
        apply_gains(out, rising(self._plan.fade_in), -start)
        apply_gains(out, falling(self._plan.fade_out), self._plan.target_samples - self._plan.fade_out.n_samples - start)
        return out if self._plan.gain_db == 0 else out * np.float32(10 ** (self._plan.gain_db / 20))

    def sweeps_within(self, start: int, stop: int) -> Iterator[tuple[Made, int]]:
        """The sweeps that [start, stop) needs, and the last sample that is needed of each."""
        for number, run in enumerate(self._runs):
            half_in, half_out = self._halves(number)
            if run.way == "sweep" and start < run.out_out_samples + half_out and stop > run.out_in_samples - half_in:
                yield self._sweep(number), min(stop, run.out_out_samples + half_out)

    def _add_run(self, out: Sound, start: int, number: int) -> None:
        run, stop = self._runs[number], start + out.shape[1]
        half_in, half_out = self._halves(number)
        first, last = max(start, run.out_in_samples - half_in), min(stop, run.out_out_samples + half_out)
        if first >= last:
            return
        sound = self._run(number, first, last)
        for half, seam_number, side in ((half_in, number, 1), (half_out, number + 1, 0)):
            at = (run.out_out_samples if side == 0 else run.out_in_samples) - half
            if half and at < last and at + 2 * half > first:
                apply_gains(sound, crossfade_gains(2 * half, self._correlation(seam_number, half))[side], at - first)
        out[:, first - start : last - start] += sound

    def _halves(self, number: int) -> tuple[int, int]:
        """Half the fades of the seams at which a run begins and ends; 0 where it does not meet another one."""
        run = self._runs[number]
        at_start = self._seam_between(number - 1, run.out_in_samples) if number else None
        at_end = self._seam_between(number, run.out_out_samples) if number + 1 < len(self._runs) else None
        return (at_start.fade_samples // 2 if at_start else 0, at_end.fade_samples // 2 if at_end else 0)

    def _seam_between(self, number: int, at: int) -> Seam | None:
        return self._seams.get(at) if self._runs[number].out_out_samples == at else None

    def _correlation(self, number: int, half: int) -> float:
        """Of the two sides under the fade where run `number` follows the one before it: they are played in other ways."""
        at = self._runs[number].out_in_samples
        return correlation(self._run(number - 1, at - half, at + half), self._run(number, at - half, at + half))

    def _run(self, number: int, first: int, last: int) -> Sound:
        """Output [first, last) of a run, which may reach past its ends by half a fade."""
        run, edit = self._runs[number], self._edits[number]
        if run.way == "copy":
            return edit.read(first - run.out_in_samples, last - run.out_in_samples)
        if run.way == "varispeed":
            return varispeed(edit.read, self._maps[number], first, last)
        return self._sweep(number).read(first, last)

    def _sweep(self, number: int) -> Made:
        if number not in self._made:
            margin = max(self._halves(number))
            key = (SWEEP_VERSION, self._plan.rate, self.channels, self._runs[number].key, margin)
            source = Source(self._edits[number].read, self.channels, self._plan.rate)
            self._made[number] = self._make(key, lambda: Sweep(source, self._maps[number], margin))
        return self._made[number]

    def _fade_at_rests(self, out: Sound, start: int) -> None:
        for rest in self._plan.rests:
            apply_gains(out, falling(rest.fade_before), rest.out_in_samples - rest.fade_before.n_samples - start)
            apply_gains(out, rising(rest.fade_after), rest.out_out_samples - start)
