"""How smooth the lanes are: python bench/frames.py URL; URL is that of a running application, which gets a production more.

Fit shows a cue of ten minutes of a track of 16 seconds with 40 hits, Spot two hours of picture with 2,000 shots. While
a script plays, drags, zooms and scrolls, the time from one frame of the screen to the next is taken in headless Chromium.
"""

import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx
import numpy as np
from playwright.sync_api import Page, sync_playwright

from evenseam.core.audio.decode import decode
from evenseam.core.audio.encode import write_wav
from evenseam.demo.load import MUSIC

FPS, MINUTES, N_HITS, N_SHOTS, SHOT_FRAMES = 25, 10, 40, 2_000, 90
TRACK, TRACK_S = MUSIC / "hill_bus.ogg", 16  # so short that ten minutes of it take some sixty seams
STEPS, STEP_MS = 120, 16
_COUNT = """() => { window.frames_ms = []; let last = performance.now()
const look = now => { if (!window.frames_ms) return
  window.frames_ms.push(now - last); last = now; requestAnimationFrame(look) }
requestAnimationFrame(look) }"""


def posted(client: httpx.Client, url: str, **more: Any) -> Any:
    answer = client.post(url, **more)
    answer.raise_for_status()
    return answer.json()


def ready(client: httpx.Client, url: str, is_ready: Callable[[Any], bool]) -> Any:
    """What the application says once it is so."""
    while not is_ready(said := client.get(url).raise_for_status().json()):
        time.sleep(0.2)
    return said


def edit_list() -> str:
    """2,000 shots of 3.6 s each, as CMX 3600."""

    def timecode(frames: int) -> str:
        return ":".join(f"{n:02d}" for n in (frames // 90_000, frames // 1500 % 60, frames // 25 % 60, frames % 25))

    events = (
        f"{k % 999 + 1:03d}  R{k:04d}   V     C        00:00:00:00 {timecode(SHOT_FRAMES)} "
        f"{timecode(k * SHOT_FRAMES)} {timecode((k + 1) * SHOT_FRAMES)}"
        for k in range(N_SHOTS)
    )
    return "TITLE: TWO HOURS\nFCM: NON-DROP FRAME\n\n" + "\n".join(events) + "\n"


def short_track() -> bytes:
    """The beginning of a demo track, as WAV."""
    audio = decode(TRACK)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "short.wav"
        write_wav(path, audio.samples[:, : TRACK_S * audio.rate], audio.rate, "int16")
        return path.read_bytes()


def set_up(client: httpx.Client) -> tuple[int, int, int]:
    """A production with both pictures; returns its number and theirs."""
    production = posted(client, "/api/productions", json={"name": "Frames"})["id"]
    blank = {"name": "Ten minutes", "rate": str(FPS), "length": f"{MINUTES + 2}:00"}
    short = posted(client, f"/api/productions/{production}/pictures/blank", json=blank)["id"]
    at = np.linspace(20, 60 * MINUTES - 20, N_HITS) * FPS
    hits = "frame,label\n" + "\n".join(f"{round(f)},Moment {k + 1}" for k, f in enumerate(at))
    posted(client, f"/api/pictures/{short}/marks", params={"file_name": "hits.csv"}, content=hits.encode())
    cue = posted(
        client, f"/api/pictures/{short}/cues", json={"start_frames": 0, "end_frames": 60 * MINUTES * FPS, "name": "Long"}
    )
    two_hours = posted(
        client,
        f"/api/productions/{production}/pictures/list",
        params={"rate": str(FPS), "file_name": "Two hours.edl"},
        content=edit_list().encode(),
    )["id"]
    track = posted(client, f"/api/productions/{production}/tracks", params={"file_name": "Short.wav"}, content=short_track())
    tracks = f"/api/productions/{production}/tracks"
    ready(client, tracks, lambda all_: any(t["id"] == track["id"] and t["state"] == "ready" for t in all_))
    client.patch(f"/api/cues/{cue['id']}", json={"track_id": track["id"], "asks": {"hold_bars": 4}}).raise_for_status()
    plan = posted(client, f"/api/cues/{cue['id']}/fit")["plan"]
    print(f"a cue of {MINUTES} min: {len(plan['seams'])} seams, {len(plan['hits'])} hits; a picture of 2 h: {N_SHOTS} shots")
    return production, short, two_hours


def measured(page: Page, name: str, act: Callable[[], None]) -> None:
    """Print how long the frames took while something was done."""
    page.wait_for_timeout(600)
    page.evaluate(_COUNT)
    act()
    ms = np.array(page.evaluate("() => { const f = window.frames_ms; window.frames_ms = null; return f }")[2:])
    p50, p95, most = np.percentile(ms, [50, 95, 100])
    print(f"  {name:24} {ms.size:5} frames   median {p50:5.1f}   p95 {p95:5.1f}   longest {most:6.1f} ms")


def playing(page: Page) -> None:
    page.wait_for_timeout(4000)


def zooming(page: Page) -> None:
    """In to where single bars are seen, and out again."""
    page.keyboard.down("Control")
    for k in range(STEPS):
        page.mouse.wheel(0, -28 if k < STEPS // 2 else 28)
        page.wait_for_timeout(STEP_MS)
    page.keyboard.up("Control")


def scrolling(page: Page) -> None:
    for k in range(STEPS):
        page.mouse.wheel(60 if k < STEPS * 2 // 3 else -120, 0)
        page.wait_for_timeout(STEP_MS)


def dragging(page: Page) -> None:
    """The end of the cue, to and fro."""
    box = page.get_by_label("End of the cue").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for k in range(STEPS):
        page.mouse.move(x - 60 + 60 * np.cos(k / 12), y)
        page.wait_for_timeout(STEP_MS)
    page.keyboard.press("Escape")
    page.mouse.up()


def open_on(page: Page, url: str, step: str, production: int, picture: int) -> None:
    page.goto(url)
    page.evaluate(
        "([p, q]) => (localStorage.setItem('production', p), localStorage.setItem('picture', q))", [production, picture]
    )
    page.goto(f"{url}/{step}")
    page.locator(".area").first.wait_for()
    page.wait_for_timeout(2500)
    box = page.locator(".area").first.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 3)


def main() -> None:
    """Print a table for each page."""
    url = sys.argv[1].rstrip("/")
    with httpx.Client(base_url=url, timeout=120) as client:
        production, short, two_hours = set_up(client)
    args = ["--autoplay-policy=no-user-gesture-required"]
    with sync_playwright() as p:
        browser = p.chromium.launch(executable_path=shutil.which("chromium"), args=args)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        for step, picture in (("fit", short), ("spot", two_hours)):
            print(f"{step}:")
            open_on(page, url, step, production, picture)
            page.keyboard.press(" ")
            measured(page, "playing", lambda: playing(page))
            page.keyboard.press(" ")
            measured(page, "zooming", lambda: zooming(page))
            page.mouse.wheel(0, 0)
            page.keyboard.press("a")
            for _ in range(6):
                page.keyboard.press("+")
            page.keyboard.press(" ")
            measured(page, "playing, zoomed in", lambda: playing(page))
            page.keyboard.press(" ")
            measured(page, "scrolling, zoomed in", lambda: scrolling(page))
            page.keyboard.press("a")
            if step == "fit":
                measured(page, "dragging the end", lambda: dragging(page))
        browser.close()


if __name__ == "__main__":
    main()
