"""A tempo map bent to the hits of a picture, before there is any music: which beats meet them, and what another would need."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import SpotError
from evenseam.core.tempo.by_hand import moments_of
from evenseam.core.tempo.curve import bent
from evenseam.core.tempo.landing import Held, Moment, chosen
from evenseam.core.tempo.map_beats import MapBeats
from evenseam.core.tempo.steady import Struck
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.turns import Turns, fine, laid

MOST_PCT = 25.0
_MOST_PAIRS = 100_000_000  # of places for one hit and another: about a second
_MISSED = {"must": 1e9, "should": 1e6, "nice": 1e3}  # none is passed over for less bending, as far as that is within range
_STAYS = 1e15  # what is held
_COST = 1e-6  # of a second that is one per cent too fast
_CURVE_SHARE = 0.75  # of the range, for the choice of beats: what is left lets the curve be smooth
_MARGIN = 1e-4
_FINEST_PCT = 0.1
_SAME_S = 1e-4

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class BeatChoice:
    """A beat that may meet a hit, and the mean tempo that it needs since what is held before it and until what is held next.

    None where nothing is held.
    """

    bar: int
    beat: int
    before_bpm: float
    after_bpm: float | None


def bent_to(tempo_map: TempoMap, hits: Sequence[Struck], most_pct: float, smooth: bool) -> TempoMap:
    """The map with beats on the hits, so that it changes least and nowhere by more than `most_pct`; they are held from then on.

    The best of all choices (`landing.chosen`); what is held already stays. Raises: SpotError where a must is out of reach, with
    the smallest range that would do.
    """
    before = fine(tempo_map)
    asked = _Asked.of(before, hits)
    give = most_pct / 100 - _MARGIN
    held = asked.met_within(give)
    if asked.misses_a_must(held):
        needed = asked.smallest_pct(most_pct)
        raise SpotError(asked.refusal(held, most_pct, needed), possible_pct=needed)
    smoother = asked.met_within(_CURVE_SHARE * give)
    if len(smoother) == len(held):
        held = smoother
    if len(held) < 2:
        raise SpotError(f"No hit can be met within {most_pct:g} %. Allow more, or lay another tempo.")
    from_us, to_us = bent(asked.source_us if smooth else np.array([], dtype=np.int64), held, give)
    return _with(before, asked, held, from_us, to_us)


def choices_at(tempo_map: TempoMap, beats: MapBeats, hit: Struck) -> tuple[BeatChoice, ...]:
    """The beat nearest to a hit, one earlier and one later, each with the tempo that it would need there."""
    may = beats.bars() if hit.on_downbeat else np.arange(beats.at_s.size)
    nearest = int(np.abs(beats.at_s[may] - hit.at_s).argmin())
    around = may[max(0, nearest - 1) : nearest + 2]
    moments = moments_of(tempo_map)
    ticks, at_s = np.array(list(moments)), np.array(list(moments.values()))
    places = np.searchsorted(beats.ticks, ticks - 0.5)
    found = []
    for beat in around.tolist():
        is_before, is_after = (places < beat) & (at_s < hit.at_s - _SAME_S), (places > beat) & (at_s > hit.at_s + _SAME_S)
        if not is_before.any():
            continue
        last = int(np.flatnonzero(is_before)[-1])
        before = 60 * (beat - places[last]) / (hit.at_s - at_s[last])
        next_one = int(np.flatnonzero(is_after)[0]) if is_after.any() else None
        after = None if next_one is None else float(60 * (places[next_one] - beat) / (at_s[next_one] - hit.at_s))
        bar = int(np.searchsorted(beats.bars(), beat, side="right"))
        found.append(BeatChoice(bar, int(beats.beat_in_bar[beat]) + 1, float(before), after))
    return tuple(found)


@dataclass(frozen=True, slots=True, eq=False)
class _Asked:
    """Beats in microseconds since bar one, and the moments that they are to meet: what is held, and hits.

    `names`: what a moment that must be met is called, None for all others.
    """

    source_us: Ints
    ticks: Ints
    moments: tuple[Moment, ...]
    names: tuple[str | None, ...]

    @classmethod
    def of(cls, tempo_map: TempoMap, hits: Sequence[Struck]) -> "_Asked":
        """What is asked of a map. Hits before bar one, and those that are met by what is held, are none of it."""
        (_, starts_s), *held = moments_of(tempo_map).items()
        last_s = max([*(hit.at_s for hit in hits), *(at_s for _, at_s in held), starts_s])
        beats = tempo_map.beats(starts_s + 2 * (last_s - starts_s) + 1)
        source = np.rint(1e6 * (beats.at_s - starts_s)).astype(np.int64)
        ticks = np.rint(beats.ticks).astype(np.int64)
        found: list[tuple[Moment, str | None]] = []
        for tick, at_s in held:
            own = source[ticks == tick]
            found.append((Moment(round(1e6 * (at_s - starts_s)), own, _STAYS), None))
        bars = beats.bars()
        for hit in hits:
            is_met = any(abs(at_s - hit.at_s) <= hit.tolerance_s for _, at_s in held)
            if hit.at_s <= starts_s + _SAME_S or is_met:
                continue
            at_us, room_us = round(1e6 * (hit.at_s - starts_s)), int(1e6 * hit.tolerance_s)
            may = source[bars] if hit.on_downbeat else source
            name = (hit.name or f"the hit at {hit.at_s:.2f} s") if hit.weight == "must" else None
            found.append((Moment(at_us, may[may > 0], _MISSED[hit.weight], room_us), name))
        found.sort(key=lambda pair: pair[0].at_samples)
        return cls(source, ticks, tuple(m for m, _ in found), tuple(n for _, n in found))

    def met_within(self, give: float) -> tuple[Held, ...]:
        """The beats that meet them, from bar one on. Raises: SpotError where there is too much to choose from."""
        places = [self._within_reach(moment, give) for moment in self.moments]
        if sum(here * (sum(places[:k]) + 1) for k, here in enumerate(places)) > _MOST_PAIRS:
            raise SpotError(
                "Too many beats could meet hits that are so far apart. Allow less, or hold some bars by hand first."
            )
        return chosen(Held(0, 0), self.moments, None, max(0.0, give), _COST / 1e6) or (Held(0, 0),)

    @staticmethod
    def _within_reach(moment: Moment, give: float) -> int:
        reach = give * moment.at_samples + moment.tolerance_samples
        return int((np.abs(moment.places - moment.at_samples) <= reach).sum())

    def misses_a_must(self, held: Sequence[Held]) -> bool:
        """Whether one that has to be met, or stay, is not."""
        return bool(self._missed(held)) or not self._keeps(held)

    def smallest_pct(self, above_pct: float) -> float | None:
        """The smallest range within which all that must be met is, to a tenth of a per cent; None where there is none."""
        low, high = round(above_pct / _FINEST_PCT), round(MOST_PCT / _FINEST_PCT)
        if self.misses_a_must(self.met_within(high * _FINEST_PCT / 100 - _MARGIN)):
            return None
        while high - low > 1:
            middle = (low + high) // 2
            fails = self.misses_a_must(self.met_within(middle * _FINEST_PCT / 100 - _MARGIN))
            low, high = (middle, high) if fails else (low, middle)
        return round(high * _FINEST_PCT, 1)

    def refusal(self, held: Sequence[Held], most_pct: float, needed: float | None) -> str:
        """Why that cannot be, and what can: `held` is all that can be had within `most_pct`."""
        missed = " and ".join(self._missed(held)) or "what is held"
        does = "no range would do: let go of what is held" if needed is None else f"{needed:g} % would do"
        return f"Within {most_pct:g} % no bar meets {missed}; {does}."

    def _missed(self, held: Sequence[Held]) -> list[str]:
        met = {h.moment for h in held}
        return [name for k, name in enumerate(self.names) if name is not None and k not in met]

    def _keeps(self, held: Sequence[Held]) -> bool:
        met = {h.moment for h in held}
        return all(k in met for k, moment in enumerate(self.moments) if moment.missed_cost == _STAYS)


def _with(before: TempoMap, asked: _Asked, held: Sequence[Held], from_us: Ints, to_us: Ints) -> TempoMap:
    """The map with beats elsewhere; what changes between them changes along, and what follows keeps its tempo."""
    own = Turns.of(before)
    starts_s = float(own.seconds[0])
    at_tick = dict(zip(asked.source_us.tolist(), asked.ticks.tolist(), strict=True))
    moments = {at_tick[int(source)]: starts_s + out / 1e6 for source, out in zip(from_us, to_us, strict=True)}
    held_ticks = tuple(at_tick[h.source_samples] for h in held[1:])
    return laid(replace(before, held=held_ticks), own.through(moments, before.per_quarter))
