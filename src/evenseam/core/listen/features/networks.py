"""The networks that ship with the application, run by ONNX Runtime on one thread."""

from functools import cache
from importlib import resources
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from onnxruntime import InferenceSession


@cache
def network(name: str) -> "InferenceSession":
    """A network by the name of its file in this package, loaded once."""
    import onnxruntime  # not before: it starts a thread, and workers are forked from a process that may have but one

    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = 1
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    # What a long piece needs for a moment is given back: half the memory for hours of music, at the same speed.
    options.enable_cpu_mem_arena = False
    model = resources.files("evenseam.core.listen").joinpath(f"{name}.onnx").read_bytes()
    return onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])
