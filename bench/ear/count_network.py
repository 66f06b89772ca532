"""The count as a network: what is heard at every half beat in, whether a beat or a bar begins there out.

Convolutions along half beats, dilated so that bars and phrases are seen, each step told what the whole piece is like.
"""

import torch
from torch import Tensor, nn

from evenseam.core.listen.beats.halves import N_FEATURES

KINDS = ("neither", "beat", "downbeat")
METERS = (2, 3, 4, 5, 6, 7)
WIDTH = 72
DILATIONS = (1, 2, 4, 8, 16, 1, 2, 4, 8, 16, 32)


class Step(nn.Module):
    """One residual step along half beats, with the mean over the piece added in."""

    def __init__(self, dilation: int, drop: float) -> None:
        super().__init__()
        self.look = nn.Conv1d(WIDTH, WIDTH, 3, padding=dilation, dilation=dilation)
        self.norm = nn.BatchNorm1d(WIDTH)
        self.whole = nn.Linear(WIDTH, WIDTH)
        self.mix = nn.Conv1d(WIDTH, WIDTH, 1)
        self.drop = nn.Dropout1d(drop)

    def forward(self, x: Tensor) -> Tensor:
        y = nn.functional.elu(self.norm(self.look(x)))
        return x + self.mix(self.drop(y + self.whole(y.mean(dim=2))[:, :, None]))


class Count(nn.Module):
    """(batch, halves, features) to (batch, halves, 3 kinds + 6 metres) logits."""

    def __init__(self, drop: float = 0.1) -> None:
        super().__init__()
        self.join = nn.Conv1d(N_FEATURES, WIDTH, 1)
        self.steps = nn.Sequential(*(Step(d, drop) for d in DILATIONS))
        self.heads = nn.Conv1d(WIDTH, len(KINDS) + len(METERS), 1)

    def forward(self, x: Tensor) -> Tensor:
        return self.heads(nn.functional.elu(self.steps(self.join(x.transpose(1, 2))))).transpose(1, 2)


class Counts(nn.Module):
    """Several networks that vote: the mean of their logits."""

    def __init__(self, voices: list[Count]) -> None:
        super().__init__()
        self.voices = nn.ModuleList(voices)

    def forward(self, x: Tensor) -> Tensor:
        return torch.stack([voice(x) for voice in self.voices]).mean(dim=0)
