"""What a file says of itself: title, artist, genre and cover picture. Nothing of it is believed further than to be shown."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import mutagen
from mutagen.flac import Picture
from mutagen.mp4 import MP4

_LONGEST, _MOST_TAGS = 300, 12
_LARGEST_COVER_BYTES = 4_000_000
_NAMES = {
    "title": ("title", "TIT2", "\xa9nam", "Title", "WM/Title"),
    "artist": ("artist", "TPE1", "\xa9ART", "Author", "WM/AlbumArtist"),
    "genre": ("genre", "TCON", "\xa9gen", "WM/Genre"),
    "mood": ("mood", "TMOO", "WM/Mood"),
}


@dataclass(frozen=True, slots=True)
class Labels:
    """Empty where the file says nothing. `cover`: JPEG or PNG bytes, and its suffix."""

    title: str = ""
    artist: str = ""
    tags: tuple[str, ...] = ()
    cover: bytes | None = None
    cover_suffix: str | None = None


def read_labels(path: Path) -> Labels:
    """The labels of a file; none when they cannot be read. Never raises: a file with broken labels is still music."""
    try:
        file = mutagen.File(path)
        if file is None:
            return Labels()
        cover = _cover(file)
        return Labels(
            _text(file, "title")[:_LONGEST],
            _text(file, "artist")[:_LONGEST],
            _tags(" , ".join(filter(None, (_text(file, "genre"), _text(file, "mood"))))),
            *(cover if cover else (None, None)),
        )
    except Exception:
        # Damaged labels make the reader fail in many ways; none of them is a reason to refuse the music.
        return Labels()


def clean_tags(tags: list[str]) -> list[str]:
    """Tags as they are kept: in lower case, without doubles, each of one to forty characters."""
    cleaned = (" ".join(_printable(t).lower().split())[:40] for t in tags)
    return list(dict.fromkeys(t for t in cleaned if t))[:_MOST_TAGS]


def _tags(text: str) -> tuple[str, ...]:
    for separator in (";", "/", "|", "\x00"):
        text = text.replace(separator, ",")
    return tuple(clean_tags(text.split(",")))


def _text(file: Any, what: str) -> str:
    for name in _NAMES[what]:
        try:
            value = file.get(name)
        except (KeyError, ValueError):
            continue
        if value:
            items = value.text if hasattr(value, "text") else value if isinstance(value, list) else [value]
            return ", ".join(_printable(str(v)).strip() for v in items if str(v).strip())
    return ""


def _printable(text: str) -> str:
    return "".join(c if c.isprintable() else " " for c in text)


def _cover(file: Any) -> tuple[bytes, str] | None:
    """The first picture that really is a JPEG or a PNG of a sensible size."""
    pictures: list[bytes] = [p.data for p in getattr(file, "pictures", []) if isinstance(p, Picture)]
    tags: Any = file.tags
    if isinstance(file, MP4) and tags is not None:
        pictures += [bytes(c) for c in tags.get("covr", [])]
    elif hasattr(tags, "getall"):
        pictures += [p.data for p in tags.getall("APIC")]
    for data in pictures:
        if len(data) <= _LARGEST_COVER_BYTES:
            if data.startswith(b"\xff\xd8\xff"):
                return data, ".jpg"
            if data.startswith(b"\x89PNG\r\n\x1a\n"):
                return data, ".png"
    return None
