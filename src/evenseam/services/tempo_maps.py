"""The tempo map of a picture: laid on it from a steady tempo or a MIDI file, seen beside its hits, and taken along."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Self

import numpy as np

from evenseam.core.errors import SpotError
from evenseam.core.exchange.tempi.bars_csv import write_map_bars
from evenseam.core.exchange.tempi.click_wav import ClickStyle, write_counted
from evenseam.core.exchange.tempi.tempo_midi import write_tempo_midi
from evenseam.core.exchange.tempi.tempo_read import read_tempo_midi
from evenseam.core.tempo.by_hand import carried_to
from evenseam.core.tempo.map_beats import MapBeats, Place
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.core.tempo.to_hits import BeatChoice, choices_at
from evenseam.core.timebase import FrameRate
from evenseam.services.context import Context
from evenseam.services.sheets import announce
from evenseam.services.spotted import Spotted, click_name
from evenseam.store.briefs import same_hits
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import NotFoundError
from evenseam.store.history import change
from evenseam.store.models import Picture
from evenseam.store.productions import get_picture
from evenseam.store.sheets import hits_of, stored_tempo_map, tempo_map_of

_CLICK_RATE_HZ = 48_000


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """A tempo map on a picture, and its beats up to the picture's end."""

    seen: Spotted
    tempo_map: TempoMap
    beats: MapBeats

    @classmethod
    def of(cls, seen: Spotted, tempo_map: TempoMap) -> Self:
        """A map on a picture."""
        return cls(seen, tempo_map, tempo_map.beats(seen.length_s))

    def places(self) -> tuple[tuple[Place, bool], ...]:
        """The beat nearest to each hit, and whether it is near enough."""
        nearest = ((hit, self.beats.nearest(hit.at_s, hit.on_downbeat)) for hit in self.seen.struck())
        return tuple((place, abs(place.off_s) <= hit.tolerance_s + 1e-9) for hit, place in nearest)

    def midi(self) -> tuple[bytes, str]:
        """A Standard MIDI File with the hits as markers, and a name for it."""
        return write_tempo_midi(self.tempo_map, self.seen.markers()), f"{self.seen.name} tempo map.mid"

    def bars(self) -> tuple[bytes, str]:
        """A table of its bars, and a name for it."""
        begins = self.beats.bars()
        begins = begins[self.beats.at_s[begins] < self.seen.length_s]
        at_s, bpm = (values[begins].tolist() for values in (self.beats.at_s, self.beats.bpm))
        return write_map_bars(at_s, bpm, self.seen.rate, self.seen.start_frames), f"{self.seen.name} bars.csv"

    def write_click(self, path: Path, style: ClickStyle) -> str:
        """A click as long as the picture; returns a name for it, which says so where it starts earlier."""
        n_samples = round(self.seen.length_s * _CLICK_RATE_HZ)
        at = self.beats.at_s * _CLICK_RATE_HZ
        early_s = write_counted(path, at, self.beats.beat_in_bar, n_samples, _CLICK_RATE_HZ, style)
        return click_name(f"{self.seen.name} click", early_s)

    def choices(self) -> tuple[tuple[BeatChoice, ...], ...]:
        """The beats that may meet each hit, each with the tempo that it would need."""
        return tuple(choices_at(self.tempo_map, self.beats, hit) for hit in self.seen.struck())

    def held(self) -> tuple[tuple[int, int | None], ...]:
        """What is held: the number of the beat from 0, and the id of the hit that it meets, None for none."""
        ticks, moments = np.array(self.tempo_map.held), self.tempo_map.seconds_at(np.array(self.tempo_map.held, dtype=np.int64))
        beats = np.searchsorted(self.beats.ticks, ticks - 0.5)
        seen = beats < self.beats.ticks.size
        return tuple(
            (beat, self._hit_at(at_s)) for beat, at_s in zip(beats[seen].tolist(), moments[seen].tolist(), strict=True)
        )

    def metres(self) -> tuple[tuple[int, int, int], ...]:
        """Where the metre changes: the bar, numerator and denominator."""
        begins = np.rint(self.beats.ticks[self.beats.bars()]).astype(int).tolist()
        each = [(bar, *self.tempo_map.metre_at(tick)) for bar, tick in enumerate(begins, 1)]
        return tuple(now for before, now in pairwise([(0, 0, 0), *each]) if now[1:] != before[1:])

    def _hit_at(self, at_s: float) -> int | None:
        on_picture = zip(self.seen.hits, self.seen.struck(), strict=True)
        return next((hit.id for hit, struck in on_picture if abs(struck.at_s - at_s) <= struck.tolerance_s), None)


MapEditing = Callable[[Laid], TempoMap]


def laid_map(context: Context, picture_id: int) -> Laid | None:
    """The tempo map of a picture, None where it has none. Raises: NotFoundError."""
    with context.database.transaction() as session:
        return _laid_on(get_picture(session, picture_id))


def need_map(context: Context, picture_id: int) -> Laid:
    """The tempo map of a picture. Raises: NotFoundError where it has none."""
    return _needed(laid_map(context, picture_id))


def map_of(picture: Picture) -> Laid:
    """The same of a picture that is at hand."""
    return _needed(_laid_on(picture))


def lay_map(context: Context, picture_id: int, tempo_map: TempoMap) -> None:
    """Lay a tempo map on a picture, in the place of one that is there; one step of undo. Raises: NotFoundError, SpotError."""
    _put(context, picture_id, "laying a tempo", lambda _: tempo_map)


def read_map(context: Context, picture_id: int, file_name: str, data: bytes) -> None:
    """Lay the tempo map of a MIDI file on a picture, from its first frame on. Raises: NotFoundError, SpotError."""
    tempo_map = read_tempo_midi(data)
    _put(context, picture_id, f"reading {file_name}", lambda _: tempo_map)


def remove_map(context: Context, picture_id: int) -> None:
    """Take the tempo map of a picture away; one step of undo. Raises: NotFoundError."""
    _put(context, picture_id, "taking the tempo map away", lambda _: None)


def edit_map(context: Context, picture_id: int, words: str, make: MapEditing) -> None:
    """Change the tempo map of a picture; one step of undo. Raises: NotFoundError, SpotError; then nothing is changed."""
    _put(context, picture_id, words, lambda laid: make(_needed(laid)))


def try_map(context: Context, picture_id: int, make: MapEditing) -> Laid:
    """The map as a change would have it. Raises: NotFoundError, SpotError."""
    laid = need_map(context, picture_id)
    return Laid.of(laid.seen, make(laid))


def carry_map(old: Picture, new: Picture, rate: FrameRate) -> None:
    """Put the map of a picture on its new version of a rate: bars that are held on hits go along with those."""
    tempo_map, same = tempo_map_of(old), same_hits(old, new)
    if tempo_map is None or new.sheet.tempo_map is not None:
        return
    before = Spotted.of(old)
    was_s = {hit.id: before.seconds(hit.at_frames) for hit in before.hits}
    now_s = {hit.id: float(hit.at_frames / rate.fps) for hit in hits_of(new)}
    moved = [(was_s[a], now_s[b]) for a, b in same.items()]
    new.sheet.tempo_map = stored_tempo_map(carried_to(tempo_map, moved, within_s=before.seconds(0.5)))


def _laid_on(picture: Picture) -> Laid | None:
    tempo_map = tempo_map_of(picture)
    return None if tempo_map is None else Laid.of(Spotted.of(picture), tempo_map)


def _needed(laid: Laid | None) -> Laid:
    if laid is None:
        raise NotFoundError(
            "This picture has no tempo map. Find a tempo and lay it on the picture, or read one from a MIDI file."
        )
    return laid


@again_on_deadlock
def _put(context: Context, picture_id: int, words: str, make: Callable[[Laid | None], TempoMap | None]) -> None:
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        tempo_map = make(_laid_on(picture))
        if tempo_map is not None and not Laid.of(Spotted.of(picture), tempo_map).beats.at_s.size:
            raise SpotError("No beat of this tempo map lies on the picture. Check where it starts.")
        kept = None if tempo_map is None else stored_tempo_map(tempo_map)
        changed = change(session, f"{words} on {picture.name}", (picture.sheet, {"tempo_map": kept}))
        production_id = picture.production_id
    if changed:
        announce(context, production_id, picture_id)
