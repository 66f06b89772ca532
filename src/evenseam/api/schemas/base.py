"""What all that goes in and out over HTTP is built on. Inputs forbid unknown fields and lax types."""

from pydantic import BaseModel, ConfigDict

MOST_FLICKS = 3 * 3600 * 705_600_000
MOST_FRAMES = 24 * 3600 * 240


class Answer(BaseModel):
    """Base of what goes out."""

    model_config = ConfigDict(from_attributes=True)


class Input(BaseModel):
    """Base of what comes in."""

    model_config = ConfigDict(extra="forbid", strict=True)
