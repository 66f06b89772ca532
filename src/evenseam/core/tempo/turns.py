"""Where the tempo of a map changes, in whole ticks and exact seconds: what changes by hand are made of."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import SpotError
from evenseam.core.tempo.tempo_map import TempoMap, lead_up

SLOWEST_BPM, FASTEST_BPM = 10.0, 600.0  # of quarter notes
_EXACT_US = 40.0  # moments are met as exactly as this, though tempi are whole microseconds
_UNMOVED_S = 1e-7
_FINEST = 16  # parts of a quarter note that are whole ticks
_MOST_PER_QUARTER = 0x7FFF

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, eq=False)
class Turns:
    """`ticks`, int64, rising from bar one, and `seconds`, float64, rising, (turns,) each: between two of them the tempo is one.

    `after_us`: microseconds a quarter note from the last of them on.
    """

    ticks: Ints
    seconds: Floats
    after_us: float

    @classmethod
    def of(cls, tempo_map: TempoMap) -> Self:
        """Those of a map."""
        first = tempo_map.bar_one_tick
        ticks = np.union1d([first], [tick for tick, _ in tempo_map.tempi if tick > first])
        return cls(ticks, tempo_map.seconds_at(ticks), float(tempo_map.tempi[-1][1]))

    def through(self, moments: Mapping[int, float], per_quarter: int) -> Self:
        """The same with some ticks at other moments: each stretch between two of them is played faster or slower as a whole."""
        held = np.array(sorted(moments), dtype=np.int64)
        to_s = np.array([moments[int(tick)] for tick in held])
        ticks = np.union1d(self.ticks, held)
        own, own_held = self._seconds_at(ticks, per_quarter), self._seconds_at(held, per_quarter)
        seconds = np.where(ticks <= held[-1], np.interp(own, own_held, to_s), own + (to_s[-1] - own_held[-1]))
        return type(self)(ticks, seconds, self.after_us)

    def _seconds_at(self, ticks: Ints, per_quarter: int) -> Floats:
        after = np.maximum(0, ticks - self.ticks[-1]) * self.after_us / (1e6 * per_quarter)
        return np.asarray(np.interp(ticks, self.ticks, self.seconds) + after, dtype=np.float64)


def fine(tempo_map: TempoMap) -> TempoMap:
    """The same map with ticks so fine that every beat is whole ones."""
    if tempo_map.per_quarter % _FINEST == 0 or tempo_map.per_quarter * _FINEST > _MOST_PER_QUARTER:
        return tempo_map
    return TempoMap(
        tempo_map.per_quarter * _FINEST,
        tuple((tick * _FINEST, tempo) for tick, tempo in tempo_map.tempi),
        tuple((tick * _FINEST, n, d) for tick, n, d in tempo_map.metres),
        tempo_map.bar_one_tick * _FINEST,
        tuple(tick * _FINEST for tick in tempo_map.held),
    )


def laid(tempo_map: TempoMap, turns: Turns) -> TempoMap:
    """A map with other tempi from bar one on, which may begin elsewhere; all moments are met to some microseconds.

    Raises: SpotError where that is no tempo any more.
    """
    first = tempo_map.bar_one_tick
    starts_s = float(turns.seconds[0])
    before = tuple((tick, tempo) for tick, tempo in tempo_map.tempi if tick < first)
    tempi, lead = _in_whole_microseconds(turns, tempo_map.per_quarter), first
    if abs(starts_s - float(tempo_map.seconds_at(np.array([first]))[0])) > _UNMOVED_S:
        per_bar = tempo_map.bar_ticks(*tempo_map.metre_at(first))
        bar_s = tempi[0][1] * per_bar / (1e6 * tempo_map.per_quarter)
        lead, before = lead_up(tempo_map.per_quarter, per_bar, bar_s, starts_s)
    by = lead - first
    metres = {0: tempo_map.metre_at(first if by else 0)}
    metres |= {tick + by: (n, d) for tick, n, d in tempo_map.metres if tick >= first or not by}
    return replace(
        tempo_map,
        tempi=before + tuple((tick + by, tempo) for tick, tempo in tempi),
        metres=tuple((tick, *metre) for tick, metre in sorted(metres.items())),
        bar_one_tick=lead,
        held=tuple(tick + by for tick in tempo_map.held),
    )


def _in_whole_microseconds(turns: Turns, per_quarter: int) -> list[tuple[int, int]]:
    """Ticks and tempi; what one of whole microseconds is off by is made up for by its last notes, or by the next."""
    quarters, lasts_us = np.diff(turns.ticks) / per_quarter, 1e6 * np.diff(turns.seconds)
    _check(np.append(lasts_us / quarters, turns.after_us))
    tempi, owed_us = [], 0.0
    for begins, ends, notes, us in zip(turns.ticks, turns.ticks[1:], quarters, lasts_us, strict=False):
        tempo = round((us + owed_us) / notes)
        owed_us += us - tempo * notes
        tempi.append((int(begins), tempo))
        if abs(owed_us) > _EXACT_US:
            ticks, one = round(abs(owed_us) * per_quarter), 1 if owed_us > 0 else -1
            tempi.append((int(ends) - ticks, tempo + one))
            owed_us -= one * ticks / per_quarter
    tempi.append((int(turns.ticks[-1]), round(turns.after_us)))
    return [event for k, event in enumerate(tempi) if k == 0 or event[1] != tempi[k - 1][1]]


def _check(tempi_us: Floats) -> None:
    bpm = 6e7 / np.where(tempi_us > 0, tempi_us, np.nan)
    wrong = ~((bpm >= SLOWEST_BPM) & (bpm <= FASTEST_BPM))
    if wrong.any():
        one = float(bpm[wrong][0])
        words = "The bars would run backwards." if np.isnan(one) else f"That would need {one:.4g} bpm."
        raise SpotError(f"{words} A tempo lies within {SLOWEST_BPM:g} and {FASTEST_BPM:g} bpm: have another bar there.")
