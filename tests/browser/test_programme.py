"""What a page plays of a picture is what is printed of it, curves, clips of five rates and changes while it plays included."""

import io
from typing import Any

import numpy as np
import pytest
import soundfile as sf
from numpy.typing import NDArray
from playwright.sync_api import Page, expect
from scipy.signal import correlate

from evenseam.core.audio.encode import write_wav
from evenseam.core.timebase import FLICKS_PER_S
from tests.api.conftest import wait_for
from tests.browser.conftest import Application
from tests.browser.test_transport import FADE_SAMPLES, recorded, recording
from tests.browser.waiting import until
from tests.conftest import drum_loop

pytestmark = pytest.mark.browser_context_args(bypass_csp=True)  # the recorder is no script of the application

RATES = (48_000, 44_100, 32_000, 22_050, 96_000)
RATE, FPS = 48_000, 25
SLOT_FRAMES, APART_FRAMES = 100, 75
LENGTH_S = ((len(RATES) - 1) * APART_FRAMES + SLOT_FRAMES) / FPS
HEARD_FROM_S = 1  # by then the recorder is there for sure
CHANGED_AT_S = 7.0

Sound = NDArray[np.float32]


@pytest.fixture
def picture(application: Application, tmp_path: Any) -> dict[str, Any]:
    """A picture with five cues that overlap, each of a track of another rate, fitted and levelled; in a production of its own."""
    api = application.api
    production = api.post("/productions", json={"name": "Five rates"}).json()["id"]
    made = api.post(
        f"/productions/{production}/pictures/blank",
        json={"name": "Dome", "rate": str(FPS), "length": f"{LENGTH_S:g}s"},
    ).json()
    for number, rate in enumerate(RATES):
        audio = drum_loop(12.0, rate=rate, bpm=100 + 9 * number)
        write_wav(tmp_path / "loop.wav", audio.samples, rate, "int16")
        track = api.post(
            f"/productions/{production}/tracks",
            params={"file_name": f"Loop {number}.wav"},
            content=(tmp_path / "loop.wav").read_bytes(),
        ).json()["id"]
        start = number * APART_FRAMES
        slot = {"start_frames": start, "end_frames": start + SLOT_FRAMES}
        api.post(f"/pictures/{made['id']}/cues", json=slot).raise_for_status()
        wait_for(lambda track=track: api.get(f"/tracks/{track}").json(), lambda t: t["state"] == "ready")
    cues = api.get(f"/productions/{production}").json()["cues"]
    tracks = sorted(t["id"] for t in api.get(f"/productions/{production}/tracks").json())
    for cue, track in zip(cues, tracks, strict=True):
        api.patch(f"/cues/{cue['id']}", json={"track_id": track, "asks": {"give_pct": 0}}).raise_for_status()
        api.post(f"/cues/{cue['id']}/fit").raise_for_status()
    return {"id": made["id"], "cues": [cue["id"] for cue in cues], "production": production}


def flicks(seconds: float) -> int:
    return round(seconds * FLICKS_PER_S)


def points(*of: tuple[float, float]) -> list[dict[str, float]]:
    return [{"at_flicks": flicks(at_s), "gain_db": gain_db} for at_s, gain_db in of]


def level(application: Application, picture: dict[str, Any], of: str, **fields: Any) -> None:
    application.api.patch(f"/pictures/{picture['id']}/mix/{of}", json=fields).raise_for_status()


def printed(application: Application, picture: dict[str, Any]) -> Sound:
    """The left channel of a print of the picture, as a file has it."""
    api = application.api
    job = api.post(f"/pictures/{picture['id']}/renders", json={"sample_format": "float32"}).json()["id"]
    done = wait_for(lambda: api.get(f"/jobs/{job}").json(), lambda j: j["state"] not in ("waiting", "running"))
    assert done["state"] == "done", done
    sound, rate = sf.read(io.BytesIO(api.get(f"/jobs/{job}/file").content), dtype="float32", always_2d=True)
    assert rate == RATE
    assert len(sound) == LENGTH_S * RATE
    return np.ascontiguousarray(sound[:, 0])


def worst_db(a: Sound, b: Sound) -> float:
    """The largest difference of two sounds, against the loudest sample of the second."""
    return float(20 * np.log10(np.abs(a - b).max() / np.abs(b).max()))


def test_what_is_heard_is_what_is_printed(page: Page, application: Application, picture: dict[str, Any]) -> None:
    first, second, third, fourth, fifth = (f"cues/{cue}" for cue in picture["cues"])
    level(application, picture, first, gain_db=-6, fade_in={"length_flicks": flicks(2.5), "shape": "cosine"})
    level(application, picture, second, points=points((0.5, 0), (0.6, -18), (2.5, -18), (3.1, 3)))
    level(application, picture, third, gain_db=2, fade_out={"length_flicks": flicks(1.2), "shape": "linear"})
    level(application, picture, fourth, points=points((0, -120), (1, 0), (3, -120)))
    level(application, picture, "buses/music", points=points((2, 0), (5, -9), (12, -3)))
    before = printed(application, picture)

    page.evaluate(f"localStorage.setItem('production', '{picture['production']}')")
    recording(page, f"{application.url}/spot")
    expect(page.get_by_role("button", name="Choose a production")).to_have_text("Five rates")
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_enabled()
    page.keyboard.press(" ")
    until(page, f"window.heard > {CHANGED_AT_S * RATE}")
    level(application, picture, third, gain_db=-9)
    level(application, picture, fifth, gain_db=-3, fade_in={"length_flicks": flicks(2), "shape": "cosine"})
    after = printed(application, picture)
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()

    heard = recorded(page)
    lag = int(np.argmax(correlate(heard[: 4 * RATE], before[: 3 * RATE], mode="full"))) - 3 * RATE + 1
    heard = heard[lag:] if lag >= 0 else np.concatenate([np.zeros(-lag, np.float32), heard])
    until_change, from_change = (
        slice(HEARD_FROM_S * RATE, round(CHANGED_AT_S * RATE)),
        slice(round(13.5 * RATE), len(heard) - FADE_SAMPLES),
    )
    assert worst_db(heard[until_change], before[until_change]) < -60
    assert worst_db(heard[from_change], after[: len(heard)][from_change]) < -60
    changed = np.flatnonzero(np.abs(heard - before[: len(heard)])[HEARD_FROM_S * RATE :] > 1e-3 * np.abs(before).max())
    at = changed[0] + HEARD_FROM_S * RATE
    assert at > CHANGED_AT_S * RATE
    between = heard[at - RATE // 10 : at + RATE // 10]
    assert np.abs(np.diff(between, n=2)).max() <= 1.1 * np.abs(np.diff(before, n=2)).max(), "a click"
