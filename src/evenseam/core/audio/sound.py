"""Sound as samples: arrays, maps of files, and how alike two stretches are. Light to import."""

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from evenseam.core.errors import AudioUnreadableError

Sound = NDArray[np.float32]


def mapped(path: Path, channels: int) -> Sound:
    """Raw float32 samples in a file, channels side by side, as a memory map; (channels, samples)."""
    return np.memmap(path, dtype="<f4", mode="r").reshape(-1, channels).T


def correlation(a: Sound, b: Sound) -> float:
    """Correlation of two sounds of the same shape, -1 to 1; 0 where one is silent."""
    norm = float(np.sqrt(np.square(a, dtype=np.float64).sum() * np.square(b, dtype=np.float64).sum()))
    return float(np.clip(float((a.astype(np.float64) * b).sum()) / norm, -1, 1)) if norm > 1e-9 else 0.0


def check_is_file(path: Path) -> None:
    """Raises: AudioUnreadableError where there is no file, or nothing in it."""
    if not path.is_file():
        raise AudioUnreadableError(f"{path.name} is not there. Check its name and folder.")
    if path.stat().st_size == 0:
        raise AudioUnreadableError("The file is empty. Export it again and add the new file.")
