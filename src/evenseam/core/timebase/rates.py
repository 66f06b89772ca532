"""Picture rates as exact fractions."""

import re
from dataclasses import dataclass
from fractions import Fraction

from evenseam.core.errors import TimeTextError

# What people write for the rates whose decimal form is only a nickname.
_NICKNAMES = {
    "23.976": (24000, 1001),
    "23.98": (24000, 1001),
    "29.97": (30000, 1001),
    "47.952": (48000, 1001),
    "47.95": (48000, 1001),
    "59.94": (60000, 1001),
}
_STANDARD_FPS = tuple(
    Fraction(fps, den) for fps, den in (
        (24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (48000, 1001), (48, 1), (50, 1), (60000, 1001), (60, 1),
    )
)  # fmt: skip
_NICKNAME_AWAY = Fraction(1, 2500)  # 23.976 and 24 are 1/1000 apart
_NUMBER = re.compile(
    r"\d{1,9}(?:\.\d{1,9})?|\d{1,9}/\d{1,9}", re.ASCII
)  # bounded: a word of a few letters can be a number without end
_DROP_RATES = {Fraction(30000, 1001), Fraction(60000, 1001)}


@dataclass(frozen=True, slots=True)
class FrameRate:
    """A picture rate `num / den` in frames per second; `drop_frame` says how its timecode is counted."""

    num: int
    den: int = 1
    drop_frame: bool = False

    def __post_init__(self) -> None:
        if self.num <= 0 or self.den <= 0:
            raise TimeTextError(f"A picture rate must be above zero, not {self.num}/{self.den}.", num=self.num, den=self.den)
        if self.fps > 240:
            raise TimeTextError(f"A picture rate of {float(self.fps):g} is above the 240 that is supported.")
        if self.drop_frame and self.fps not in _DROP_RATES:
            raise TimeTextError(f"Drop-frame timecode exists for 29.97 and 59.94 only, not for {float(self.fps):g}.")

    @property
    def fps(self) -> Fraction:
        """Frames per second, exact."""
        return Fraction(self.num, self.den)

    @property
    def nominal_fps(self) -> int:
        """Frames counted in one second of timecode (24, 25, 30, 48, 50, 60)."""
        return round(self.fps)

    @classmethod
    def near(cls, fps: Fraction) -> "FrameRate":
        """The standard rate that a measured one stands for; the measured one itself where none is near."""
        standard = min(_STANDARD_FPS, key=lambda s: abs(fps - s))
        if abs(fps - standard) <= standard * _NICKNAME_AWAY:
            return cls(standard.numerator, standard.denominator)
        rounded = fps.limit_denominator(1001)
        return cls(rounded.numerator, rounded.denominator)

    @classmethod
    def parse(cls, text: str) -> "FrameRate":
        """Read '25', '29.97', '29.97df', '30000/1001'. Raises: TimeTextError."""
        word = text.strip().lower()
        drop = word.endswith("df") and not word.endswith("ndf")
        word = word.removesuffix("fps").removesuffix("ndf").removesuffix("df").strip()
        if word in _NICKNAMES:
            num, den = _NICKNAMES[word]
            return cls(num, den, drop)
        try:
            value = Fraction(word) if _NUMBER.fullmatch(word) else None
        except ZeroDivisionError:
            value = None
        if value is None:
            raise TimeTextError(
                f"'{text[:40]}' is not a picture rate. Write for example 25, 23.976, 29.97df or 30000/1001.", text=text[:40]
            )
        return cls(value.numerator, value.denominator, drop)
