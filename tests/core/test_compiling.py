"""What set-up compiles is all that is ever compiled: nobody waits for the compiler with music on the screen."""

import ast
import json
import subprocess
import sys
from pathlib import Path

import evenseam

SOURCE = Path(evenseam.__file__).parent

# In a process of its own: kernels that other tests came to would be taken for those that set-up compiles.
_SCRIPT = """
import json
import numpy as np
from evenseam.core.audio.decode import Audio
from evenseam.core.chart import Chart
from evenseam.core.listen import listen
from evenseam.core.plan.brief import Aim, Brief
from evenseam.core.plan.planner import Planner
from evenseam.core.plan.search.joins import Joins
from evenseam.core.render import render_blocks
from evenseam.ops.kernels import compile_kernels, compiled
from tests.conftest import drum_loop

before = compile_kernels()
loop = drum_loop(40.0, rate=44_100, bpm=93, meter=3)
audio = Audio(np.ascontiguousarray(loop.samples[:1]), loop.rate)
chart = Chart.from_bytes(listen(audio).to_bytes())
planner = Planner(chart, audio.samples, Joins.from_bytes(chart, Joins(chart).to_bytes()))
for brief in (Brief(30 * 44_100), Brief(31 * 44_100, give_pct=4, aims=(Aim(10 * 44_100, "downbeat", "must", 900),))):
    for plan in planner.alternates(brief, 3):
        for _ in render_blocks(plan, audio.samples):
            pass
print(json.dumps([before, compiled()]))
"""


def called_from_python() -> set[str]:
    """Kernels that a module without kernels imports; others are compiled within those."""
    names = set()
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            if isinstance(node, ast.ImportFrom) and node.module and "._kernels_" in node.module and "_kernels" not in file.name:
                names |= {f"{node.module}.{alias.name}" for alias in node.names if alias.name.islower()}
    return names


def test_every_kernel_is_compiled_by_set_up_and_other_music_needs_no_more() -> None:
    told = subprocess.run([sys.executable, "-c", _SCRIPT], capture_output=True, text=True, check=True).stdout
    before, after = json.loads(told)
    assert len(called_from_python()) > 10
    assert called_from_python() - set(before) == set()
    assert {name for name in called_from_python() if not before[name]} == set()
    assert {name: n for name, n in after.items() if n != before[name]} == {}
