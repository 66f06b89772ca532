"""A tempo map on a picture: tempi and metres by ticks, as a Standard MIDI File has them, and the beats that they make."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import SpotError
from evenseam.core.tempo.map_beats import MapBeats

TICKS_PER_QUARTER = 9600
USUAL_TEMPO_US, USUAL_METER = 500_000, (4, 4)  # where nothing else is said: 120 bpm in four
_MOST_BEATS = 500_000
_MOST_EVENTS = 100_000
_MOST_PER_QUARTER = 0x7FFF
_MOST_NUMERATOR, _MOST_DENOMINATOR = 64, 64
_FASTEST_LEAD_BPM = 300.0
_SOONEST_S = 0.0001  # a bar that leads up is no shorter, so that its tempo is one

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class TempoMap:
    """`tempi`: ticks and microseconds a quarter note; `metres`: ticks, numerator and denominator. Both from tick 0, in order.

    Its time starts with the picture. `per_quarter`: ticks. `bar_one_tick`: what comes before only leads up to bar one.
    `held`: ticks after bar one that stay at their moments whatever is changed by hand, in order.
    """

    per_quarter: int
    tempi: tuple[tuple[int, int], ...]
    metres: tuple[tuple[int, int, int], ...]
    bar_one_tick: int = 0
    held: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if not 0 < self.per_quarter <= _MOST_PER_QUARTER:
            raise SpotError("The tempo map counts frames in the place of beats. Export it with ticks for each quarter note.")
        if max(len(self.tempi), len(self.metres)) > _MOST_EVENTS:
            raise SpotError("The tempo map changes more often than any music. Check the file.")
        for events in (self.tempi, self.metres):
            if not events or events[0][0] != 0 or any(b[0] <= a[0] for a, b in pairwise(events)):
                raise SpotError("The tempo map is out of order. Export it again.")
        if any(tempo <= 0 for _, tempo in self.tempi):
            raise SpotError("The tempo map has a tempo without end. Export it again.")
        for _, numerator, denominator in self.metres:
            if not (1 <= numerator <= _MOST_NUMERATOR and 1 <= denominator <= _MOST_DENOMINATOR):
                raise SpotError(f"The tempo map has a metre of {numerator}/{denominator}, which is none. Export it again.")

    @classmethod
    def steady(cls, bpm: float, meter: int, starts_s: float) -> Self:
        """One tempo of quarter notes from bar one on; whole bars of another lead up to it. `starts_s`: of bar one."""
        lead, tempi = lead_up(TICKS_PER_QUARTER, meter * TICKS_PER_QUARTER, meter * 60 / bpm, starts_s)
        return cls(TICKS_PER_QUARTER, (*tempi, (lead, round(6e7 / bpm))), ((0, meter, 4),), lead)

    def tick_at(self, seconds: float) -> int:
        """The tick at a moment."""
        ticks, begins, a_tick_s = self._clock()
        last = max(0, int(np.searchsorted(begins, seconds, side="right")) - 1)
        return max(0, round(float(ticks[last] + (seconds - begins[last]) / a_tick_s[last])))

    def seconds_at(self, ticks: NDArray[np.int64] | Floats) -> Floats:
        """When some ticks are; (ticks,)."""
        changes, begins, a_tick_s = self._clock()
        here = np.searchsorted(changes, ticks, side="right") - 1
        return np.asarray(begins[here] + (ticks - changes[here]) * a_tick_s[here], dtype=np.float64)

    def beats(self, until_s: float) -> MapBeats:
        """The beats from bar one up to a moment, and the one after it. A beat is felt: three eighths in 6/8, 9/8 and 12/8.

        A metre that begins inside a bar cuts that bar short. Raises: SpotError.
        """
        ticks, seconds, a_tick_s = self._clock()
        tempo = int(np.searchsorted(seconds, until_s, side="right")) - 1
        until = float(ticks[tempo] + (until_s - seconds[tempo]) / a_tick_s[tempo])
        at, in_bar, unit, total = [], [], [], 0
        for metre, after in pairwise([*self.metres, None]):
            assert metre is not None
            beat, per_bar = self._beat(metre[1], metre[2])
            end = until + beat if after is None else min(float(after[0]), until + beat)
            count = max(0, int(np.ceil((end - metre[0]) / beat - 1e-9)))
            total += count
            if total > _MOST_BEATS:
                raise SpotError("The tempo map has more beats than any picture. Check its tempi.")
            numbers = np.arange(count)
            at.append(metre[0] + numbers * beat)
            in_bar.append(numbers % per_bar)
            unit.append(np.full(count, beat))
        places = np.concatenate(at)
        counts = places >= self.bar_one_tick - 1e-6
        places, bars, beat_ticks = places[counts], np.concatenate(in_bar)[counts], np.concatenate(unit)[counts]
        here = np.searchsorted(ticks, places, side="right") - 1
        return MapBeats(self.seconds_at(places), bars.astype(np.int16), 60 / (beat_ticks * a_tick_s[here]), places)

    def bar_lines(self, count: int) -> NDArray[np.int64]:
        """The ticks of the first bar lines from bar one on; (count,)."""
        lines: list[int] = []
        for metre, after in pairwise([*self.metres, None]):
            assert metre is not None
            begins, per_bar = max(metre[0], self.bar_one_tick), self.bar_ticks(*metre[1:])
            ends = begins + per_bar * count if after is None else after[0]
            lines += range(begins, ends, per_bar)[: count - len(lines)]
        return np.array(lines, dtype=np.int64)

    def bar_ticks(self, numerator: int, denominator: int) -> int:
        """How long a bar is."""
        return max(1, self.per_quarter * 4 * numerator // denominator)

    def metre_at(self, tick: int) -> tuple[int, int]:
        """The metre that rules from a tick on."""
        return next((n, d) for begins, n, d in reversed(self.metres) if begins <= tick)

    def tempo_at(self, tick: int) -> int:
        """Microseconds a quarter note from a tick on."""
        return next((tempo for begins, tempo in reversed(self.tempi) if begins <= tick), USUAL_TEMPO_US)

    def beat_quarters(self, numerator: int, denominator: int) -> float:
        """How many quarter notes a beat of a metre is, as it is felt."""
        return self._beat(numerator, denominator)[0] / self.per_quarter

    def _beat(self, numerator: int, denominator: int) -> tuple[float, int]:
        """Ticks of a beat, and how many a bar has."""
        note = self.per_quarter * 4 / denominator
        return (3 * note, numerator // 3) if denominator == 8 and numerator % 3 == 0 else (note, numerator)

    def _clock(self) -> tuple[Floats, Floats, Floats]:
        """Ticks at which the tempo changes, when those are, and how long a tick lasts from each on."""
        ticks = np.array([tick for tick, _ in self.tempi], dtype=np.float64)
        a_tick_s = np.array([tempo for _, tempo in self.tempi]) / (1e6 * self.per_quarter)
        return ticks, np.concatenate([[0.0], np.cumsum(np.diff(ticks) * a_tick_s[:-1])]), a_tick_s


def lead_up(per_quarter: int, bar_ticks: int, bar_s: float, starts_s: float) -> tuple[int, tuple[tuple[int, int], ...]]:
    """Whole bars from the first frame to bar one, as long as its own if that can be: their ticks, and their tempi."""
    if starts_s <= _SOONEST_S:
        return 0, ()
    bars = max(1, round(starts_s / bar_s))
    while bars > 1 and 60 * bars * bar_ticks / per_quarter / starts_s > _FASTEST_LEAD_BPM:
        bars -= 1
    lead = bars * bar_ticks
    usual = round(1e6 * starts_s * per_quarter / lead)
    last = lead - per_quarter
    if last <= 0:
        return lead, ((0, usual),)
    rest_us = 1e6 * starts_s - usual * last / per_quarter  # makes up for what whole microseconds are off by
    return lead, ((0, usual), (last, round(rest_us)))
