"""One root error for everything the core can say no to.

An error carries a stable `code` for programs, one plain sentence `detail` for people (what is wrong and what to do),
and `params` with the values behind it. Nothing here knows about HTTP or exit codes.
"""

from typing import Any


class EvenSeamError(Exception):
    """Root of all errors that are the input's and not a fault of the program."""

    code = "error"

    def __init__(self, detail: str, **params: Any) -> None:
        super().__init__(detail)
        self.detail = detail
        self.params = params

    def __reduce__(self) -> tuple[Any, ...]:
        # Errors cross process borders (job workers); the default would lose the keyword parameters.
        return (_rebuild, (type(self), self.detail, self.params))


def _rebuild(cls: type[EvenSeamError], detail: str, params: dict[str, Any]) -> EvenSeamError:
    return cls(detail, **params)


class TimeTextError(EvenSeamError):
    """A typed time or rate cannot be read."""

    code = "time_unreadable"


class AudioUnreadableError(EvenSeamError):
    """A file is not audio, is damaged, or holds nothing that can be used."""

    code = "audio_unreadable"


class ListenError(EvenSeamError):
    """A recording cannot be charted (too short, or silent throughout)."""

    code = "track_not_usable"


class NoPlanError(EvenSeamError):
    """No plan meets the brief. `params` holds the nearest lengths that are possible."""

    code = "no_plan"


class MixError(EvenSeamError):
    """What a mixer asks for cannot be."""

    code = "mix_impossible"


class BriefError(EvenSeamError):
    """The brief itself makes no sense (a length of zero, an unknown method)."""

    code = "brief_invalid"


class CorrectionError(EvenSeamError):
    """A chart cannot be put right in the way that was asked for."""

    code = "correction_refused"


class FileRefusedError(EvenSeamError):
    """The system does not let a file be read or written."""

    code = "file_refused"


class SetUpError(EvenSeamError):
    """Something that has to run beside the application does not."""

    code = "set_up"


class TooLargeError(EvenSeamError):
    """A file is above the limit."""

    code = "too_large"


class DiskFullError(EvenSeamError):
    """No space is left for what was asked."""

    code = "disk_full"


class SpotError(EvenSeamError):
    """A mark on a picture makes no sense, or a file of marks cannot be read."""

    code = "spot_invalid"


class StartsElsewhereError(SpotError):
    """A list of marks starts at another timecode than its picture; `first` and `start` are in its params."""

    code = "starts_elsewhere"


class FilmUnreadableError(EvenSeamError):
    """A file is no film, is damaged, or holds no picture that can be used."""

    code = "film_unreadable"
