"""Which form a file of marks is in, by the ending of its name."""

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks.captions import read_captions, write_captions
from evenseam.core.exchange.marks.cmx3600 import read_edl, write_edl
from evenseam.core.exchange.marks.markers_csv import read_csv, write_csv
from evenseam.core.exchange.marks.markers_midi import read_midi, write_midi
from evenseam.core.exchange.marks.read import MarksRead
from evenseam.core.exchange.marks.timeline import read_otio, write_otio
from evenseam.core.spot.sheet import Sheet
from evenseam.core.timebase import FrameRate

FORMS = (".csv", ".edl", ".otio", ".vtt", ".srt", ".mid")


def read_marks(suffix: str, data: bytes, rate: FrameRate, start_frames: int = 0, shift: bool = False) -> MarksRead:
    """Marks from the content of a file whose name ends in `suffix`; see the readers. Raises: SpotError."""
    form = _known(suffix)
    if form == ".mid":
        return read_midi(data, rate)
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if form == ".csv":
        return read_csv(text, rate, start_frames)
    if form == ".edl":
        return read_edl(text, rate, start_frames, shift)
    return read_otio(text, rate, start_frames) if form == ".otio" else read_captions(text, rate)


def write_marks(suffix: str, sheet: Sheet) -> bytes:
    """What the form of `suffix` can hold of a sheet. Raises: SpotError for a form that is not known."""
    form = _known(suffix)
    if form == ".mid":
        return write_midi(sheet.hits, sheet.rate)
    if form == ".csv":
        text = write_csv(sheet.hits, sheet.rate, sheet.start_frames)
    elif form == ".edl":
        text = write_edl(sheet)
    elif form == ".otio":
        text = write_otio(sheet)
    else:
        text = write_captions(sheet.lines, sheet.rate, "vtt" if form == ".vtt" else "srt")
    return text.encode()


def _known(suffix: str) -> str:
    form = {".midi": ".mid", ".txt": ".edl"}.get(suffix.lower(), suffix.lower())
    if form not in FORMS:
        raise SpotError(f"'{suffix}' is not a form of marks; {', '.join(FORMS)} can be read and written.")
    return form
