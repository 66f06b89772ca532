"""The networks that ship with the application, run by ONNX Runtime on one thread."""

from functools import cache
from importlib import resources

import onnxruntime


@cache
def network(name: str) -> onnxruntime.InferenceSession:
    """A network by the name of its file in this package, loaded once."""
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = 1
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    # What a long piece needs for a moment is given back: half the memory for hours of music, at the same speed.
    options.enable_cpu_mem_arena = False
    model = resources.files("evenseam.core.listen").joinpath(f"{name}.onnx").read_bytes()
    return onnxruntime.InferenceSession(model, options, providers=["CPUExecutionProvider"])
