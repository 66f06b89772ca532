"""What is said of single keys as a network: tones and bands around a place in, something that is so or not of every key out.

The same weights look at every key: at keys beside it, its partials and those of which it may be one. That is done three times,
so that what one note explains is not taken for another (the idea of shared weights along log frequency: Bittner, McFee,
Salamon, Li and Bello 2017, "Deep salience representations").
"""

import numpy as np
import torch
from torch import Tensor, nn

from evenseam.core.chart.description import N_TONES
from evenseam.core.listen.features.spectra import LOWEST_TONE

N_BANDS = 48
BANDS_HZ = (30.0, 10_000.0)  # as core/listen/spectra.py has them
SEMITONES = (-36, -31, -28, -24, -19, -16, -12, -7, -5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 7, 12, 16, 19, 24, 28, 31, 36)
BELOW, ABOVE = -min(SEMITONES), max(SEMITONES)
PARTIALS = (1, 2, 3, 5)
MOVES, WIDTH, FEW, FINE, WHOLE, BY_BAND = 16, 64, 20, 24, 32, 12
LOOKS = 2
DROP = 0.1


def near(x: Tensor) -> Tensor:
    """(places, 60, n) to (places, 60, n * semitones): what there is at keys so far from each."""
    wide = nn.functional.pad(x, (0, 0, BELOW, ABOVE))
    return torch.cat([wide[:, BELOW + k : BELOW + k + N_TONES] for k in SEMITONES], dim=2)


class Drop(nn.Module):
    """Leaves features out of all keys of a place at once: a tenth of the random numbers, which take long to draw."""

    def forward(self, x: Tensor) -> Tensor:
        if not self.training:
            return x
        return x * (torch.rand(x.shape[0], 1, x.shape[2]) >= DROP) / (1 - DROP)


class Look(nn.Module):
    """One more look at what was made of the keys near each."""

    def __init__(self) -> None:
        super().__init__()
        self.few = nn.Linear(WIDTH, FEW)
        self.out = nn.Linear(FEW * len(SEMITONES) + WIDTH, WIDTH)
        self.drop = Drop()

    def forward(self, x: Tensor) -> Tensor:
        few = nn.functional.relu(self.few(x))
        return x + nn.functional.relu(self.drop(self.out(torch.cat([near(few), x], dim=2))))


class Keys(nn.Module):
    """(places, rows, 60) tones and (places, rows, 48) bands to (places, 60, heads) logits."""

    def __init__(self, rows: int, heads: int) -> None:
        super().__init__()
        self.time = nn.Linear(rows, MOVES)
        self.fine = nn.Linear(rows * len(PARTIALS), FINE)
        self.by_band = nn.Linear(rows, BY_BAND)
        self.whole = nn.Linear(BY_BAND * N_BANDS, WHOLE)
        self.join = nn.Linear(MOVES * len(SEMITONES) + FINE + WHOLE + 1, WIDTH)
        self.looks = nn.ModuleList(Look() for _ in range(LOOKS))
        self.heads = nn.Linear(WIDTH, heads)
        self.drop = Drop()
        self.register_buffer("bands_of_partials", torch.from_numpy(bands_of_partials()).reshape(-1))
        self.register_buffer("height", torch.arange(N_TONES)[:, None] / N_TONES)

    def forward(self, tones: Tensor, bands: Tensor) -> Tensor:
        n = tones.shape[0]
        by_key, by_band = ((tones - 1) / 1.5).transpose(1, 2), ((bands - 2) / 2).transpose(1, 2)
        # Beyond the highest and the lowest key nothing sounds, which moves as silence does.
        silence = nn.functional.relu(self.time(torch.full((1, 1, tones.shape[1]), -1 / 1.5)))
        moves = nn.functional.relu(self.time(by_key))
        tonal = near(moves - silence) + silence.repeat(1, 1, len(SEMITONES))
        fine = nn.functional.relu(self.fine(by_band[:, self.bands_of_partials].reshape(n, N_TONES, -1)))
        whole = nn.functional.elu(self.whole(nn.functional.elu(self.by_band(by_band)).flatten(1)))
        of_all = torch.cat([whole[:, None].expand(n, N_TONES, WHOLE), self.height[None].expand(n, N_TONES, 1)], dim=2)
        x = nn.functional.relu(self.drop(self.join(torch.cat([tonal, fine, of_all], dim=2))))
        for look in self.looks:
            x = look(x)
        return self.heads(x)


class Said(nn.Module):
    """What the first head says, as a probability, (places, 60): all that is used; the others help to learn it."""

    def __init__(self, keys: Keys) -> None:
        super().__init__()
        self.keys = keys

    def forward(self, tones: Tensor, bands: Tensor) -> Tensor:
        return torch.sigmoid(self.keys(tones, bands)[:, :, 0])


def bands_of_partials() -> np.ndarray:
    """The band nearest to each of the partials of every key, int64 (60, partials)."""
    low, high = (2595 * np.log10(1 + hz / 700) for hz in BANDS_HZ)
    centres_hz = 700 * (10 ** (np.linspace(low, high, N_BANDS + 2)[1:-1] / 2595) - 1)
    key_hz = 440 * 2 ** ((LOWEST_TONE + np.arange(N_TONES) - 69) / 12)
    partials_hz = key_hz[:, None] * np.array(PARTIALS)
    return np.abs(centres_hz - partials_hz[:, :, None]).argmin(axis=2)
