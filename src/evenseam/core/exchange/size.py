"""How much of a list of marks is looked at."""

from evenseam.core.errors import SpotError

MOST_CHARACTERS = 20_000_000


def check_size(text: str | bytes) -> None:
    """Raises: SpotError for more than any list of marks can be."""
    if len(text) > MOST_CHARACTERS:
        raise SpotError("The file is too large to be a list of marks.")
