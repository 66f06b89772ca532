"""The tempo map of a picture: laid on it from a steady tempo or a MIDI file, seen beside its hits, and taken along."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from evenseam.core.errors import SpotError
from evenseam.core.exchange.bars_csv import write_map_bars
from evenseam.core.exchange.tempo_midi import write_tempo_midi
from evenseam.core.exchange.tempo_read import read_tempo_midi
from evenseam.core.render.click import write_counted
from evenseam.core.tempo.beats import MapBeats, Place
from evenseam.core.tempo.tempo_map import TempoMap
from evenseam.services.context import Context
from evenseam.services.sheets import announce
from evenseam.services.spotted import Spotted
from evenseam.store.database import again_on_deadlock
from evenseam.store.errors import NotFoundError
from evenseam.store.history import change
from evenseam.store.productions import get_picture
from evenseam.store.sheets import stored_tempo_map, tempo_map_of

_CLICK_RATE_HZ = 48_000


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """A tempo map on a picture, and its beats up to the picture's end."""

    seen: Spotted
    tempo_map: TempoMap
    beats: MapBeats

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

    def write_click(self, path: Path) -> str:
        """A click as long as the picture; returns a name for it."""
        n_samples = round(self.seen.length_s * _CLICK_RATE_HZ)
        at = np.rint(self.beats.at_s * _CLICK_RATE_HZ).astype(np.int64)
        write_counted(path, at[at < n_samples], self.beats.beat_in_bar[at < n_samples], n_samples, _CLICK_RATE_HZ)
        return f"{self.seen.name} click.wav"


def laid_map(context: Context, picture_id: int) -> Laid | None:
    """The tempo map of a picture, None where it has none. Raises: NotFoundError."""
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id)
        tempo_map, seen = tempo_map_of(picture), Spotted.of(picture)
    return None if tempo_map is None else Laid(seen, tempo_map, tempo_map.beats(seen.length_s))


def need_map(context: Context, picture_id: int) -> Laid:
    """The tempo map of a picture. Raises: NotFoundError where it has none."""
    laid = laid_map(context, picture_id)
    if laid is None:
        raise NotFoundError(
            "This picture has no tempo map. Find a tempo and lay it on the picture, or read one from a MIDI file."
        )
    return laid


def lay_map(context: Context, picture_id: int, tempo_map: TempoMap) -> None:
    """Lay a tempo map on a picture, in the place of one that is there; one step of undo. Raises: NotFoundError, SpotError."""
    _put(context, picture_id, tempo_map, "laying a tempo")


def read_map(context: Context, picture_id: int, file_name: str, data: bytes) -> None:
    """Lay the tempo map of a MIDI file on a picture, from its first frame on. Raises: NotFoundError, SpotError."""
    _put(context, picture_id, read_tempo_midi(data), f"reading {file_name}")


def remove_map(context: Context, picture_id: int) -> None:
    """Take the tempo map of a picture away; one step of undo. Raises: NotFoundError."""
    _put(context, picture_id, None, "taking the tempo map away")


@again_on_deadlock
def _put(context: Context, picture_id: int, tempo_map: TempoMap | None, words: str) -> None:
    with context.database.transaction() as session:
        picture = get_picture(session, picture_id, to_change=True)
        if tempo_map is not None and not tempo_map.beats(Spotted.of(picture).length_s).at_s.size:
            raise SpotError("No beat of this tempo map lies on the picture. Check where it starts.")
        kept = None if tempo_map is None else stored_tempo_map(tempo_map)
        changed = change(session, f"{words} on {picture.name}", (picture.sheet, {"tempo_map": kept}))
        production_id = picture.production_id
    if changed:
        announce(context, production_id, picture_id)
