"""Programmes and mixes to what goes out."""

import hashlib

from evenseam.api.schemas.programmes import BusLevelRead, CueLevelRead, MixRead, ProgrammeRead, SoundRead
from evenseam.services.programmes import MadeProgramme, Sounding
from evenseam.store.mixes import document_in
from evenseam.store.models import Picture

_DIGITS = 16


def read_programme(made: MadeProgramme) -> ProgrammeRead:
    """A programme with its sounds, and a name for this state of it."""
    read = ProgrammeRead(
        of=made.of,
        revision="",
        programme=made.programme,
        sounds=[_read_sound(sound) for sound in made.sounds],
        unfitted=list(made.unfitted),
    )
    return read.model_copy(update={"revision": hashlib.sha256(read.model_dump_json().encode()).hexdigest()[:_DIGITS]})


def read_mix(picture: Picture) -> MixRead:
    """What is set on a picture."""
    if picture.mix is None:
        return MixRead(revision=0, cues=[], buses=[])
    return MixRead(
        revision=picture.mix.revision,
        cues=[CueLevelRead(cue_id=row["id"], **document_in(row).model_dump()) for row in picture.mix.cues or ()],
        buses=[BusLevelRead(name=row["id"], **document_in(row).model_dump()) for row in picture.mix.buses or ()],
    )


def _read_sound(sound: Sounding) -> SoundRead:
    url = {
        "fit": f"/api/fits/{sound.id}/sound",
        "recording": f"/api/tracks/{sound.id}/sound",
        "click": f"/api/tracks/{sound.id}/click?chart={sound.chart_id}",
    }[sound.kind]
    return SoundRead(name=sound.name, kind=sound.kind, url=url, rate=sound.rate, channels=sound.channels, cue_id=sound.cue_id)
