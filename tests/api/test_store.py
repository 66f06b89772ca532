"""Media files here and elsewhere, events, warm planners."""

import asyncio
import subprocess
import sys
from pathlib import Path

import fsspec
import numpy as np
import pytest

from evenseam.core.chart import CHART_VERSION
from evenseam.core.plan import Brief
from evenseam.core.plan.search.joins import Joins
from evenseam.jobs.events import EventBus
from evenseam.services.planners import PlannerPool
from evenseam.store.errors import NotReadyError
from evenseam.store.media import MediaStore, chart_name, derived_names, joins_name, original_name, sound_name
from evenseam.store.models import Recording, Track
from tests.conftest import heard

SHA = "ab" * 32


@pytest.fixture(params=["local", "elsewhere"])
def media(request: pytest.FixtureRequest, tmp_path: Path) -> MediaStore:
    if request.param == "local":
        return MediaStore(f"file://{tmp_path / 'media'}", tmp_path / "cache")
    fsspec.filesystem("memory").store.clear()
    return MediaStore("memory://media", tmp_path / "cache")


def test_files_go_in_whole_and_come_out_the_same(media: MediaStore, tmp_path: Path) -> None:
    name = original_name(SHA, ".wav")
    assert not media.exists(name)
    with pytest.raises(FileNotFoundError):
        media.local_path(name)
    source = tmp_path / "upload"
    source.write_bytes(b"sound" * 1000)
    media.put_file(source, name)
    assert not source.exists(), "moved in, not copied"
    assert media.read(name) == media.local_path(name).read_bytes() == b"sound" * 1000
    media.put_bytes(b"chart", chart_name(SHA))
    assert media.read(chart_name(SHA)) == b"chart"
    for made in (name, *derived_names(SHA)):
        media.remove(made)  # also what is not there
        assert not media.exists(made)


def test_names_keep_recordings_and_chart_versions_apart() -> None:
    names = {original_name(SHA, ".wav"), original_name("cd" * 32, ".wav"), *derived_names(SHA)}
    assert len(names) == 8
    assert f".v{CHART_VERSION}." in chart_name(SHA)


def test_planners_are_kept_warm_and_let_go(media: MediaStore, tmp_path: Path) -> None:
    track = heard("hill_bus")
    raw = tmp_path / "raw.f32"
    track.audio.samples.T.tofile(raw)
    media.put_file(raw, sound_name(SHA))
    media.put_bytes(track.chart.to_bytes(), chart_name(SHA))
    media.put_bytes(Joins(track.chart).to_bytes(), joins_name(SHA))
    pool = PlannerPool(media)

    def opened(**recording: int | None) -> Track:
        return Track(recording=Recording(sha256=SHA, hearings=1, **recording), corrections_digest="")

    listened = opened(chart_version=CHART_VERSION, channels=2)
    warm = pool.get(listened)
    assert pool.get(listened) is warm
    assert np.array_equal(warm.samples[:, 1000:1100], track.audio.samples[:, 1000:1100])
    assert warm.planner.plan(Brief(60 * 44_100)).target_samples == 60 * 44_100
    pool.forget(SHA)
    media.remove(joins_name(SHA))  # a lost file costs a moment, not the track
    assert pool.get(listened) is not warm
    assert pool.get(listened).planner.plan(Brief(60 * 44_100)).target_samples == 60 * 44_100
    with pytest.raises(NotReadyError):
        pool.get(opened(chart_version=None, channels=None))


def test_every_listener_hears_what_is_published_from_any_thread() -> None:
    async def run() -> list[list[str]]:
        bus = EventBus()
        bus.publish("too early")
        bus.bind(asyncio.get_running_loop())

        async def hear(count: int) -> list[str]:
            heard_kinds: list[str] = []
            async for event in bus.listen():
                heard_kinds.append(event["kind"])
                if len(heard_kinds) == count:
                    break
            return heard_kinds

        listeners = [asyncio.create_task(hear(2)) for _ in range(2)]
        while len(bus._queues) < 2:
            await asyncio.sleep(0)
        await asyncio.gather(*(asyncio.to_thread(bus.publish, kind) for kind in ("one", "two")))
        return await asyncio.gather(*listeners)

    for kinds in asyncio.run(run()):
        assert sorted(kinds) == ["one", "two"]


def test_what_is_kept_of_charts_and_plans_needs_neither_networks_nor_kernels() -> None:
    """A worker or a migration that only reads rows starts in a moment."""
    words = (
        "import sys, evenseam.store.tracks, evenseam.store.media, evenseam.store.plans, evenseam.store.productions;"
        "print([m for m in ('numba', 'onnxruntime', 'scipy', 'soxr', 'av', 'evenseam.core.listen') if m in sys.modules])"
    )
    assert subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, check=True).stdout == "[]\n"
