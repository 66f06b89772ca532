"""Compiles every numeric kernel, as set-up does: nobody is to wait for the compiler with music on the screen.

Run as a module. What is compiled is kept beside the code, for every process of this machine.
"""

import pkgutil
from collections.abc import Iterator
from contextlib import suppress
from functools import partial
from importlib import import_module
from pathlib import Path

import numpy as np

import evenseam.core
from evenseam.core import jit
from evenseam.core.audio.decode import Audio, decode
from evenseam.core.errors import EvenSeamError
from evenseam.core.listen import listen
from evenseam.core.plan.brief import Aim, Brief, Wish
from evenseam.core.plan.model import Plan
from evenseam.core.plan.planner import Planner
from evenseam.core.render import render_blocks
from evenseam.core.render.gains import with_silence
from evenseam.core.render.varispeed import varispeed
from evenseam.core.tempo.steady import Struck, find_steady
from evenseam.core.timebase.time_map import Knot, TimeMap
from evenseam.demo.load import MUSIC

_HEARD_S = 60.0
_GIVE_PCT = 6.0


def compile_kernels(audio: Audio | None = None) -> dict[str, int]:
    """Have each kernel compiled for what it is given: hear some music, fit it in every way, render it, look for a tempo.

    `audio`: the music; a piece of the demo's if there is none. Returns: for every kernel, for how many kinds of arguments it is
    compiled; 0 for one that nothing here has come to.
    """
    audio = audio or _some_music()
    planner = Planner(listen(audio), audio.samples)
    plans = [plan for brief in _briefs(audio.samples.shape[1], audio.rate) for plan in _plans(planner, brief)]
    for plan in plans:
        for _ in render_blocks(plan, audio.samples):
            pass
    a_little_faster = TimeMap((Knot(0, 0), Knot(audio.rate, round(1.002 * audio.rate))))
    varispeed(partial(with_silence, audio.samples), a_little_faster, 0, audio.rate)
    planner.forecast()
    find_steady([Struck.by_kind(at_s, 0.02, "must", "downbeat") for at_s in (4.0, 9.1, 20.3)], 60.0, 180.0)
    return compiled()


def compiled() -> dict[str, int]:
    """Every kernel of the core with the number of kinds of arguments that it is compiled for."""
    for module in pkgutil.walk_packages(evenseam.core.__path__, "evenseam.core."):
        if module.name.rpartition(".")[2].startswith("_kernels"):
            import_module(module.name)
    return {name: len(kernel.signatures) for name, kernel in jit.KERNELS.items()}


def _some_music() -> Audio:
    audio = decode(min(Path(MUSIC).glob("*.ogg"), key=lambda file: file.stat().st_size))
    return Audio(np.ascontiguousarray(audio.samples[:, : round(_HEARD_S * audio.rate)]), audio.rate)


def _briefs(n_samples: int, rate: int) -> Iterator[Brief]:
    """Briefs of every kind: by length, with hits that must be met, with a shape, by each method."""
    length = round(0.7 * n_samples)
    aims = tuple(Aim(round(part * length), "beat", "must", rate // 50) for part in (0.31, 0.62))
    yield Brief(length)
    yield Brief(length, give_pct=_GIVE_PCT, aims=aims)
    silence = Aim(round(0.45 * length), "silence", "must", until_samples=round(0.45 * length) + rate)
    yield Brief(length, aims=(aims[0], silence, aims[1]))
    yield Brief(length, aims=tuple(Aim(round(part * length)) for part in (0.31, 0.32, 0.33, 0.6)))  # too near for all of them
    yield Brief(length, max_seams=2, order="forward")
    yield Brief(length, landing="fade")
    yield Brief(length, shape=(Wish(0, length, 0.2, 0.9),))
    yield Brief(length, aims=aims, shape=(Wish(0, length, 0.2, 0.9),))
    yield Brief(round(1.4 * n_samples), method="loop")
    yield Brief(round(1.03 * n_samples), method="stretch", give_pct=_GIVE_PCT)
    yield Brief(n_samples, method="bend", give_pct=_GIVE_PCT, aims=aims)


def _plans(planner: Planner, brief: Brief) -> tuple[Plan, ...]:
    with suppress(EvenSeamError):  # a refusal has looked for an answer with the same kernels
        return planner.alternates(brief, 2)
    return ()


if __name__ == "__main__":
    compile_kernels()
