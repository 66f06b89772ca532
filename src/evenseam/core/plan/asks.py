"""Asks: what may be asked of a fit, each declared once, where a brief has it, with its range and its words.

The checks of a brief, the document that is kept of it, the API's schema, the options of the command line and the fields of the
page are all made from these declarations.
"""

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, fields
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from evenseam.core.errors import BriefError


@dataclass(frozen=True, slots=True)
class Ask:
    """What is said of one thing that may be asked.

    `label`: as a field or an option is called. `words`: what it is, in a sentence without its full stop. `unit`: behind the
    number; `after`: what a field says there, where that is more. `low`, `high`: the range, both ends included. `usual`: what is
    taken where nothing is asked, where that is no one number. `choices`: what each of its words means, where it is one of some.
    """

    label: str
    words: str
    unit: str = ""
    after: str = ""
    low: float | None = None
    high: float | None = None
    usual: str = ""
    choices: tuple[tuple[str, str], ...] = ()

    @property
    def range_in_words(self) -> str:
        """“0 to 20 %”; empty without a range."""
        if self.low is None or self.high is None:
            return ""
        return f"{self.low:g} to {self.high:g} {self.unit}".rstrip()

    def check(self, value: Any) -> None:
        """Raises: BriefError for a number out of range, or a word that is none of its choices."""
        words = [word for word, _ in self.choices]
        if words and value not in words:
            raise BriefError(f"{self.label} cannot be '{value}'; use {', '.join(words)}.")
        if self.low is not None and self.high is not None and not self.low <= value <= self.high:
            raise BriefError(f"{self.label} must be {self.range_in_words}.", value=value)


@dataclass(frozen=True, slots=True)
class Declared:
    """A field that may be asked for: its type without what is said of it, its default, and what is said of it."""

    kind: Any
    default: Any
    ask: Ask


def declared_in(asked: type) -> Mapping[str, Declared]:
    """The fields of a dataclass of which an Ask is said, by name, in their order."""
    hints = get_type_hints(asked, include_extras=True)
    found = {}
    for field in fields(asked):
        hint = hints[field.name]
        said = [part for part in get_args(hint)[1:] if isinstance(part, Ask)] if get_origin(hint) is Annotated else []
        if said and field.default is not MISSING:
            found[field.name] = Declared(get_args(hint)[0], field.default, said[0])
    return found


def check_declared(value: Any, declared: Mapping[str, Declared]) -> None:
    """Check what was asked for. None leaves it to the planner. Raises: BriefError."""
    for name, field in declared.items():
        asked = getattr(value, name)
        if asked is not None:
            field.ask.check(asked)
