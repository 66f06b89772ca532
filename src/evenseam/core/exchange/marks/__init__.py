"""Marks of a picture in open forms, one file each: read into sheets, written from them.

Reading never shifts anything silently: what had to be converted is said in `Read.notes`, what cannot be is refused with the
reason. Everything that comes in is hostile until it is read; nothing but SpotError comes out of a bad file.
"""

from evenseam.core.exchange.marks.captions import read_captions, write_captions
from evenseam.core.exchange.marks.cmx3600 import read_edl, write_edl
from evenseam.core.exchange.marks.forms import FORMS, read_marks, write_marks
from evenseam.core.exchange.marks.markers_csv import read_csv, write_csv
from evenseam.core.exchange.marks.markers_midi import read_midi, write_midi
from evenseam.core.exchange.marks.read import MarksRead
from evenseam.core.exchange.marks.timeline import read_otio, write_otio

__all__ = [
    "FORMS",
    "MarksRead",
    "read_captions",
    "read_csv",
    "read_edl",
    "read_marks",
    "read_midi",
    "read_otio",
    "write_captions",
    "write_csv",
    "write_edl",
    "write_marks",
    "write_midi",
    "write_otio",
]
