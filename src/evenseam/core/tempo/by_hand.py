"""Changes of a tempo map by hand, one at a time. Each takes a map and gives the next one, or says why it cannot be.

Bars and beats are counted from 1, from bar one. One that is held to a moment stays there whatever else is changed.
"""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import SpotError
from evenseam.core.tempo.curve import bent
from evenseam.core.tempo.landing import Held
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.turns import Turns, fine, laid

_ANY_GIVE = 0.95  # of a curve that nobody set a range for
_STAYS_S = 1e-4
_MOST_BARS = 200_000


def with_metre(tempo_map: TempoMap, bar: int, numerator: int, denominator: int, bars: int | None = None) -> TempoMap:
    """Another metre from a bar on: to the end, or for some bars, after which all goes on as it was, bar by bar.

    Raises: SpotError.
    """
    before = fine(tempo_map)
    lines = before.bar_lines(bar + (_bars_left(before, bar) if bars is None else bars))[bar - 1 :]
    first, end, per_bar = int(lines[0]), int(lines[-1]), before.bar_ticks(numerator, denominator)

    def moved(tick: int) -> int:
        if tick <= first:
            return tick
        here = min(int(np.searchsorted(lines, tick, side="right")), lines.size) - 1
        inside = tick - int(lines[here])
        return first + here * per_bar + (inside if here == lines.size - 1 else min(inside, per_bar))

    metres = [metre for metre in before.metres if metre[0] < first] + [(first, numerator, denominator)]
    if bars is not None:
        metres.append((moved(end), *before.metre_at(end)))
        metres += [(moved(tick), n, d) for tick, n, d in before.metres if tick > end]
    held = tuple(sorted({moved(tick) for tick in before.held}))
    tempi = {moved(tick): tempo for tick, tempo in before.tempi}
    counted = replace(before, tempi=tuple(tempi.items()), metres=tuple(metres), held=held)
    moments = {moved(tick): at_s for tick, at_s in moments_of(before).items()}
    return laid(counted, Turns.of(counted).through(moments, counted.per_quarter))


def with_tempo(tempo_map: TempoMap, bar: int, bpm: float, bars: int | None = None) -> TempoMap:
    """Another tempo of beats from a bar on: to the end, or for some bars. What is held after it and would move is let go.

    Raises: SpotError.
    """
    before = fine(tempo_map)
    lines = before.bar_lines(bar + (bars or 0))
    first, end = int(lines[bar - 1]), int(lines[-1])
    tempi = {tick: tempo for tick, tempo in before.tempi if tick < first}
    tempi[first] = round(6e7 / (bpm * before.beat_quarters(*before.metre_at(first))))
    if bars is not None:
        tempi[end] = before.tempo_at(end)
        tempi |= {tick: tempo for tick, tempo in before.tempi if tick > end}
    after = replace(before, tempi=tuple(tempi.items()))
    moved_s = np.abs(after.seconds_at(np.array(before.held, dtype=np.int64)) - list(moments_of(before).values())[1:])
    held = tuple(tick for tick, by_s in zip(before.held, moved_s, strict=True) if by_s < _STAYS_S)
    return laid(replace(after, held=held), Turns.of(after))


def with_beat_at(tempo_map: TempoMap, bar: int, beat: int, at_s: float) -> TempoMap:
    """A beat held to a moment: what lies on either side, as far as to what else is held, is played faster or slower.

    Another one that was held to the same moment is let go. Bar one is moved so, with all that follows up to what is held.
    Raises: SpotError.
    """
    before = fine(tempo_map)
    tick = tick_of(before, bar, beat)
    bar_one = before.bar_one_tick
    moments = {other: s for other, s in moments_of(before).items() if other == bar_one or abs(s - at_s) > _STAYS_S}
    moments[tick] = at_s
    held = tuple(sorted(moments.keys() - {bar_one}))
    return laid(replace(before, held=held), Turns.of(before).through(moments, before.per_quarter))


def let_go(tempo_map: TempoMap, bar: int, beat: int) -> TempoMap:
    """A beat that is held no more; it stays where it is until something else moves it. Raises: SpotError."""
    tempo_map = fine(tempo_map)
    tick = tick_of(tempo_map, bar, beat)
    if tick not in tempo_map.held:
        raise SpotError(f"Bar {bar}, beat {beat} is not held.")
    return replace(tempo_map, held=tuple(other for other in tempo_map.held if other != tick))


def shaped(tempo_map: TempoMap, smooth: bool) -> TempoMap:
    """From each held beat to the next one tempo, or a curve as smooth as can be; what follows the last stays.

    Raises: SpotError.
    """
    before = fine(tempo_map)
    if not before.held:
        raise SpotError("No bar is held yet. Drag bars to the moments that they are to meet: the tempo is shaped between them.")
    moments, last = moments_of(before), before.held[-1]
    own = Turns.of(before)
    ticks, seconds = np.array(list(moments)), np.array(list(moments.values()))
    if smooth:
        ticks, seconds = _curve(before, moments)
    follows = own.ticks > last
    turns = Turns(np.append(ticks, own.ticks[follows]), np.append(seconds, own.seconds[follows]), own.after_us)
    return laid(before, turns)


def carried_to(tempo_map: TempoMap, moved: Sequence[tuple[float, float]], within_s: float) -> TempoMap:
    """The map on another version of its picture: what is held on a moment goes along with that, all else is let go.

    `moved`: seconds before and after. What cannot be, as bars would run backwards, stays where it was, held no more.
    """
    before = fine(tempo_map)
    moments = {before.bar_one_tick: float(before.seconds_at(np.array([before.bar_one_tick]))[0])}
    for tick, at_s in moments_of(before).items():
        to_s = next((after for was, after in moved if abs(was - at_s) <= within_s), None)
        last_s = max(moments.values())
        if to_s is not None and (tick == before.bar_one_tick or to_s > last_s):
            moments[tick] = to_s
    held = tuple(sorted(moments.keys() - {before.bar_one_tick}))
    try:
        return laid(replace(before, held=held), Turns.of(before).through(moments, before.per_quarter))
    except SpotError:
        return replace(tempo_map, held=())


def tick_of(tempo_map: TempoMap, bar: int, beat: int) -> int:
    """The tick of a beat. Raises: SpotError where the bar has fewer."""
    begins, ends = tempo_map.bar_lines(bar + 1)[-2:].tolist()
    numerator, denominator = tempo_map.metre_at(begins)
    tick = begins + round((beat - 1) * tempo_map.beat_quarters(numerator, denominator) * tempo_map.per_quarter)
    if tick >= ends:
        raise SpotError(f"Bar {bar} has no beat {beat}.")
    return int(tick)


def moments_of(tempo_map: TempoMap) -> dict[int, float]:
    """Bar one and what is held, in order, and when they are."""
    ticks = [tempo_map.bar_one_tick, *tempo_map.held]
    return dict(zip(ticks, tempo_map.seconds_at(np.array(ticks)).tolist(), strict=True))


def _bars_left(tempo_map: TempoMap, bar: int) -> int:
    """How many bars there are from one on until nothing changes any more."""
    last = max(tempo_map.tempi[-1][0], tempo_map.metres[-1][0], *tempo_map.held, 0)
    count = 1
    while tempo_map.bar_lines(bar + count)[-1] <= last:
        count *= 2
        if count > _MOST_BARS:
            raise SpotError(
                "The map changes after more bars than any music has. Say for how many bars the metre is to be another."
            )
    return count


def _curve(tempo_map: TempoMap, moments: dict[int, float]) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Ticks and seconds of the smoothest curve through some moments, beat by beat, that comes out at the tempo that follows."""
    (first, starts_s), last = next(iter(moments.items())), tempo_map.held[-1]
    beats = tempo_map.beats(moments[last])
    a_tick_us = tempo_map.tempo_at(last) / tempo_map.per_quarter
    source = {tick: round((tick - first) * a_tick_us) for tick in [*np.rint(beats.ticks).astype(int).tolist(), *moments]}
    held = [Held(source[tick], round(1e6 * (at_s - starts_s))) for tick, at_s in moments.items()]
    from_us, to_us = bent(np.array(sorted(source.values())), held, _ANY_GIVE)
    return first + np.rint(from_us / a_tick_us).astype(np.int64), starts_s + to_us / 1e6
