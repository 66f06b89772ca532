"""How numeric kernels are run: compiled by numba, kept on disk, without the GIL; or as the plain Python they are written in.

Starting the compiler takes longer than a small piece of work does without it. A program that has one such piece to do says so
with `interpret` before it loads any kernel; everything else compiles.
"""

from collections.abc import Callable
from typing import Any

Function = Callable[..., Any]

KERNELS: dict[str, Any] = {}  # compiled ones that were loaded, by module and name
_is_interpreting = False


def interpret() -> None:
    """Run kernels that are loaded from now on as plain Python, with the same results. Whoever says so has little to do."""
    global _is_interpreting
    _is_interpreting = True


def kernel(function: Function, **options: Any) -> Any:
    """A function of arrays and scalars as a kernel; `options` as numba has them."""
    if _is_interpreting:
        return function
    import numba

    made = numba.njit(cache=True, nogil=True, **options)(function)
    KERNELS[f"{function.__module__}.{function.__name__}"] = made
    return made


def fast_kernel(function: Function) -> Any:
    """The same, where sums may be taken in any order and products added without being rounded between."""
    return kernel(function, fastmath={"reassoc", "contract"})
