"""Edit lists in the CMX 3600 form: shots of the picture, and hits as locators (`* LOC:`)."""

import re
from dataclasses import replace

from evenseam.core.errors import SpotError, StartsElsewhereError, TimeTextError
from evenseam.core.exchange.marks.read import MarksRead, hit_from_words, hit_in_words
from evenseam.core.exchange.size import check_size
from evenseam.core.spot.sheet import Hit, Sheet, Shot
from evenseam.core.timebase import FrameRate, format_timecode, parse_timecode_frames

_TIMECODE = r"(\d{1,2}:\d\d:\d\d[:;.]\d\d)"
_EVENT = re.compile(rf"(\d+)\s+(\S+)\s+(\S+)\s+(\S+)(?:\s+\d+)?\s+{_TIMECODE}\s+{_TIMECODE}\s+{_TIMECODE}\s+{_TIMECODE}")
_LOCATOR = re.compile(rf"\*\s*LOC:\s*{_TIMECODE}\s+(\S+)\s*(.*)", re.IGNORECASE)
_NAME = re.compile(r"\*\s*(?:FROM|TO) CLIP NAME:\s*(.*)", re.IGNORECASE)
_HIT = "* HIT:"
_LONGEST_REEL = 32


def write_edl(sheet: Sheet, title: str = "Even Seam") -> str:
    """The shots of a sheet as video events, its hits as locators after the shot that they lie on."""
    rate, start = sheet.rate, sheet.start_frames
    out = [f"TITLE: {_one_line(title)}", f"FCM: {'DROP FRAME' if rate.drop_frame else 'NON-DROP FRAME'}", ""]
    shots = sheet.shots or (Shot(0, sheet.length_frames, "AX"),)
    for number, shot in enumerate(shots, 1):
        source = (shot.source_start_frames, shot.source_start_frames + shot.length_frames)
        times = [*source, shot.start_frames + start, shot.end_frames + start]
        stamps = " ".join(format_timecode(t, rate).replace(";", ":") for t in times)
        out.append(f"{number:03d}  {_reel(shot.reel):<8} V     C        {stamps}")
        if shot.name:
            out.append(f"* FROM CLIP NAME: {_one_line(shot.name)}")
        until = shots[number].start_frames if number < len(shots) else sheet.length_frames + 1
        first = shot.start_frames if number > 1 else -1
        for hit in (h for h in sheet.hits if max(first, 0) <= h.at_frames < until):
            at = format_timecode(hit.at_frames + start, rate).replace(";", ":")
            out += [f"* LOC: {at} YELLOW  {_one_line(hit.label)}".rstrip(), f"{_HIT} {hit_in_words(hit)}"]
    return "\n".join(out) + "\n"


def _one_line(text: str) -> str:
    return " ".join(text.split())


def _reel(name: str) -> str:
    return re.sub(r"\s+", "_", name.strip()) or "AX"


def read_edl(text: str, rate: FrameRate, start_frames: int = 0, shift: bool = False) -> MarksRead:
    """Shots and hits from an edit list, in frames from the picture's first.

    Parameters: rate: of the picture; the form does not say its own, so what shows another one is refused. start_frames: the
    timecode of the picture's first frame. shift: take a list that starts elsewhere as starting there.
    Raises: SpotError with the line; StartsElsewhereError for a list that starts at another timecode.
    """
    check_size(text)
    return _Reader(rate, start_frames, shift).read(text)


class _Reader:
    def __init__(self, rate: FrameRate, start_frames: int, shift: bool) -> None:
        self.rate, self.start, self.shift = rate, start_frames, shift
        self.shots: list[Shot] = []
        self.hits: list[Hit] = []
        self.notes: list[str] = []
        self.sounds = self.effects = 0

    def read(self, text: str) -> MarksRead:
        for number, line in enumerate(text.removeprefix("\ufeff").splitlines(), 1):
            try:
                self._line(line.strip())
            except TimeTextError as error:
                raise SpotError(
                    f"Line {number}: {error.detail} Is the list of a picture at another rate?", line=number
                ) from None
            except SpotError as error:
                raise SpotError(f"Line {number}: {error.detail}", line=number) from None
        if not self.shots and not self.hits:
            raise SpotError("No video event was found. Export the list in the CMX 3600 form, with its picture track.")
        self._move_to_start()
        if self.sounds:
            self.notes.append(f"{self.sounds} events of sound were left out; only the picture's are read.")
        if self.effects:
            self.notes.append(f"{self.effects} dissolves, wipes or speed changes were read as cuts.")
        return MarksRead(tuple(sorted(self._whole_shots())), tuple(self.hits), notes=tuple(self.notes))

    def _line(self, line: str) -> None:
        if line.upper().startswith("FCM:"):
            self._count(line.upper())
        elif match := _EVENT.fullmatch(line):
            self._event(match)
        elif match := _LOCATOR.fullmatch(line):
            self.hits.append(Hit(self._frames(match[1]), match[3].strip()))
        elif line.startswith(_HIT) and self.hits:
            last = self.hits[-1]
            self.hits[-1] = hit_from_words(last.at_frames, last.label, line.removeprefix(_HIT)) or last
        elif (match := _NAME.fullmatch(line)) and self.shots:
            self.shots[-1] = replace(self.shots[-1], name=match[1].strip())
        elif line.startswith("M2 "):
            self.effects += 1

    def _count(self, line: str) -> None:
        is_drop = "NON" not in line and "DROP" in line
        if is_drop == self.rate.drop_frame:
            return
        try:
            self.rate = replace(self.rate, drop_frame=is_drop)
        except TimeTextError:
            raise SpotError(f"The list counts in drop-frame, which {float(self.rate.fps):g} has not. Export it anew.") from None
        how = "in drop-frame" if is_drop else "without dropping"
        self.notes.append(f"The list counts {how}, the picture does not: it was read frame by frame.")

    def _event(self, match: re.Match[str]) -> None:
        channel, kind = match[3].upper(), match[4].upper()
        if "V" not in channel and channel != "B":
            self.sounds += 1
            return
        source_in, source_out, record_in, record_out = (self._frames(match[k]) for k in range(5, 9))
        self.effects += kind[0] in "DWK" and record_out > record_in
        if record_out == record_in:
            return  # the side of a transition that ends here
        if record_out < record_in or source_out < source_in:
            raise SpotError("An event ends before it starts.")
        self.shots.append(Shot(record_in, record_out, match[2][:_LONGEST_REEL], source_in))

    def _frames(self, timecode: str) -> int:
        return parse_timecode_frames(timecode.replace(";", ":").replace(".", ":"), self.rate)

    def _move_to_start(self) -> None:
        """From timecodes to frames of the picture; a list that starts before it, or far after, is not of this picture."""
        first = min([s.start_frames for s in self.shots] or [h.at_frames for h in self.hits])
        away = self.start
        if self.shots and first != self.start:
            theirs, ours = (format_timecode(f, self.rate) for f in (first, self.start))
            if not self.shift:
                raise StartsElsewhereError(
                    f"The list starts at {theirs}, the picture at {ours}. Set the picture's start timecode, or have the list "
                    "moved to the picture's start.",
                    first=theirs,
                    start=ours,
                )
            self.notes.append(f"The list starts at {theirs}; all of it was moved to the picture's start at {ours}.")
            away = first
        self.shots = [replace(s, start_frames=s.start_frames - away, end_frames=s.end_frames - away) for s in self.shots]
        self.hits = [
            replace(h, at_frames=h.at_frames - away, until_frames=None if h.until_frames is None else h.until_frames - away)
            for h in self.hits
        ]

    def _whole_shots(self) -> list[Shot]:
        """In order, each ended where the next begins: of two that overlap, the later one is on top."""
        shots = sorted(self.shots)
        ended = []
        for shot, then in zip(shots, [*shots[1:], None], strict=True):
            end = shot.end_frames if then is None else min(shot.end_frames, then.start_frames)
            if end > shot.start_frames:
                ended.append(replace(shot, end_frames=end))
        return ended
