"""The ear as a network: two spectra in, what is heard at every step of two hops out.

A small convolutional front over bands and tones, then a temporal convolutional network with growing dilation
(after Davies and Böck, "Temporal convolutional networks for musical audio beat tracking", 2019), with several heads.
"""

import torch
from torch import Tensor, nn

N_BANDS, N_TONES = 48, 60
HEADS = ("beat", "downbeat", "lead", "voice", "ternary", "m2", "m3", "m4", "m5", "m6", "m7")
WIDTH = 64
DILATIONS = (1, 2, 4, 8, 16, 32, 64, 128, 256, 2, 8, 32, 128)


class Block(nn.Module):
    """One residual step: a dilated convolution, then a mix of the channels."""

    def __init__(self, dilation: int, drop: float) -> None:
        super().__init__()
        self.look = nn.Conv1d(WIDTH, WIDTH, 5, padding=2 * dilation, dilation=dilation)
        self.norm = nn.BatchNorm1d(WIDTH)
        self.mix = nn.Conv1d(WIDTH, WIDTH, 1)
        self.drop = nn.Dropout1d(drop)

    def forward(self, x: Tensor) -> Tensor:
        return x + self.mix(self.drop(nn.functional.elu(self.norm(self.look(x)))))


class Ear(nn.Module):
    """(batch, 2n, 48) bands and (batch, n/2, 60) tones to (batch, n, heads) logits, n a multiple of two."""

    def __init__(self, drop: float = 0.1) -> None:
        super().__init__()
        self.front = nn.Sequential(
            nn.Conv2d(1, 16, 5, stride=(2, 3), padding=(2, 1), bias=False),
            nn.BatchNorm2d(16),
            nn.ELU(),
            nn.Conv2d(16, 24, 3, stride=(1, 2), padding=1, bias=False),
            nn.BatchNorm2d(24),
            nn.ELU(),
        )
        self.tones = nn.Sequential(nn.Conv1d(N_TONES, 32, 3, padding=1, bias=False), nn.BatchNorm1d(32), nn.ELU())
        self.join = nn.Conv1d(24 * (N_BANDS // 6) + 32, WIDTH, 1)
        self.blocks = nn.Sequential(*(Block(d, drop) for d in DILATIONS))
        self.heads = nn.Conv1d(WIDTH, len(HEADS), 1)
        # Voices differ more than beats do: they have a few weights of their own, which can be taught alone.
        self.voice = nn.Sequential(nn.Conv1d(WIDTH, 32, 9, padding=4), nn.ELU(), nn.Conv1d(32, 1, 1))

    def forward(self, bands: Tensor, tones: Tensor) -> Tensor:
        x = self.front((bands - 2.0)[:, None] / 2.0)
        x = x.permute(0, 1, 3, 2).flatten(1, 2)
        y = self.tones((tones.transpose(1, 2) - 1.0) / 1.5).repeat_interleave(2, dim=2)
        x = self.join(torch.cat([x, y], dim=1))
        heard = nn.functional.elu(self.blocks(x))
        said, k = self.heads(heard), HEADS.index("voice")
        return torch.cat([said[:, :k], self.voice(heard), said[:, k + 1 :]], dim=1).transpose(1, 2)
