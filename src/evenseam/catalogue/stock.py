"""What the stand-in has on offer: five pieces of our own, each under terms of its own."""

from pathlib import Path
from typing import Literal

from pydantic import BaseModel

MUSIC = Path(__file__).parent / "music"
Use = Literal["web", "festival", "broadcast", "cinema", "exhibition"]
USES: tuple[Use, ...] = ("web", "festival", "broadcast", "cinema", "exhibition")


class Terms(BaseModel):
    """Under what terms a piece is licensed: for which uses, where and how long, and whether it may be cut to length."""

    name: str
    uses: list[Use]
    territory: str
    years: int | None
    may_be_edited: bool
    credit: str

    def sentence(self) -> str:
        """The terms in words."""
        length = "without limit of time" if self.years is None else f"for {self.years} years"
        edits = "may be cut and rearranged" if self.may_be_edited else "may not be cut or rearranged"
        return f"{', '.join(self.uses)}; {self.territory}, {length}; {edits}; credit “{self.credit}”."

    def refusal(self, use: Use) -> str | None:
        """Why this may not be licensed for a use, in words that say what to do; None if it may."""
        if not self.may_be_edited:
            return f"“{self.name}” does not allow the music to be cut or rearranged. Choose another piece."
        if use not in self.uses:
            return f"“{self.name}” does not cover {use}, only {' and '.join(self.uses)}. Choose another piece or another use."
        return None


class Piece(BaseModel):
    """A piece in the catalogue."""

    id: str
    title: str
    artist: str
    tags: list[str]
    tempo_bpm: float
    meter: str
    length_s: float
    terms: Terms

    @property
    def file(self) -> Path:
        """The recording."""
        return MUSIC / f"{self.id.replace('-', '_')}.ogg"


_WEB = Terms(
    name="Web and festival",
    uses=["web", "festival"],
    territory="worldwide",
    years=None,
    may_be_edited=True,
    credit="Skerry Music",
)
_ALL = Terms(name="All media", uses=list(USES), territory="worldwide", years=None, may_be_edited=True, credit="Skerry Music")
_HALL = Terms(
    name="Exhibition and cinema",
    uses=["exhibition", "cinema"],
    territory="Europe",
    years=5,
    may_be_edited=True,
    credit="H. Brandt",
)
_WHOLE = Terms(
    name="As composed",
    uses=["web", "festival", "broadcast"],
    territory="worldwide",
    years=10,
    may_be_edited=False,
    credit="R. Osei",
)

STOCK: tuple[Piece, ...] = (
    Piece(id="slow-orbit", title="Slow Orbit", artist="Ines Varga", tags=["electronic", "slow", "night"],
          tempo_bpm=96, meter="4/4", length_s=86.2, terms=_ALL),
    Piece(id="bright-corners", title="Bright Corners", artist="The Lidgate Five", tags=["plucked", "cheerful"],
          tempo_bpm=132, meter="4/4", length_s=77.5, terms=_WEB),
    Piece(id="long-stair", title="The Long Stair", artist="Hanne Brandt", tags=["piano", "cello", "waltz"],
          tempo_bpm=112, meter="3/4", length_s=76.6, terms=_HALL),
    Piece(id="iron-lantern", title="Iron Lantern", artist="Robin Osei", tags=["drums", "tense"],
          tempo_bpm=144, meter="4/4", length_s=84.7, terms=_WHOLE),
    Piece(id="harbour-lights", title="Harbour Lights", artist="Marl Street Trio", tags=["jazz", "swing", "evening"],
          tempo_bpm=112, meter="4/4", length_s=74.2, terms=_ALL),
)  # fmt: skip
