"""The weights that ship, back in the network, to teach it further: `ear.train --start .../ear.onnx`."""

import pathlib

import onnx
import torch
from onnx import numpy_helper
from torch import nn

from ear.network import Ear


def load(ear: Ear, path: pathlib.Path) -> None:
    """Put the weights of an exported network into `ear`. Norms were folded into the convolutions before them."""
    kept = {i.name: torch.from_numpy(numpy_helper.to_array(i).copy()) for i in onnx.load(str(path)).graph.initializer}
    folded = [v for name, v in kept.items() if name.startswith("onnx::Conv")]
    pairs = list(zip(folded[::2], folded[1::2], strict=True))
    convolutions = [(ear.front[0], ear.front[1]), (ear.front[3], ear.front[4]), (ear.tones[0], ear.tones[1])]
    convolutions += [(block.look, block.norm) for block in ear.blocks]
    with torch.no_grad():
        for (conv, norm), (weight, bias) in zip(convolutions, pairs, strict=True):
            conv.weight.copy_(weight)
            if conv.bias is not None:
                conv.bias.zero_()
            _pass_through(norm, bias)
        for name, value in kept.items():
            if not name.startswith("onnx::Conv"):
                module, what = name.rsplit(".", 1)
                getattr(ear.get_submodule(module), what).copy_(value)


def _pass_through(norm: nn.Module, bias: torch.Tensor) -> None:
    """A norm that only adds `bias`."""
    norm.running_mean.zero_()
    norm.running_var.fill_(1 - norm.eps)
    norm.weight.fill_(1.0)
    norm.bias.copy_(bias)


def keep_norms(ear: Ear) -> None:
    """Leave the norms as they are while teaching goes on: their statistics are no longer those of the sound."""
    for module in ear.modules():
        if isinstance(module, nn.BatchNorm1d | nn.BatchNorm2d):
            module.eval()
