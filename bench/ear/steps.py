"""What teaching any network for some minutes has in common."""

import math
import time
from collections.abc import Iterator

import torch
from torch import nn

_WARM_STEPS = 100


def paced(optimizer: torch.optim.Optimizer, rate: float, minutes: float) -> Iterator[float]:
    """The share of the time that is gone, step by step; the learning rate rises to `rate` and falls like a cosine."""
    began, step = time.monotonic(), 0
    while (share := (time.monotonic() - began) / (60 * minutes)) < 1:
        for group in optimizer.param_groups:
            group["lr"] = rate * min(1, step / _WARM_STEPS) * 0.5 * (1 + math.cos(math.pi * share))
        yield share
        step += 1


def take(optimizer: torch.optim.Optimizer, network: nn.Module, loss: torch.Tensor) -> None:
    """One step down the loss, no longer than 1."""
    optimizer.zero_grad()
    loss.backward()
    nn.utils.clip_grad_norm_(network.parameters(), 1.0)
    optimizer.step()
