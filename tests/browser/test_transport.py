"""What is played, sample by sample, as it leaves for the loudspeaker; and that nothing is left behind by pages that were open."""

import base64

import numpy as np
import pytest
from numpy.typing import NDArray
from playwright.sync_api import Page, expect

from tests.browser.conftest import Application
from tests.browser.test_slice import choose, report, set_length
from tests.browser.test_spot import go_to
from tests.browser.waiting import until

pytestmark = pytest.mark.browser_context_args(bypass_csp=True)  # the recorder is no script of the application

RATE = 44_100
PICTURE_RATE = 48_000  # where the music meets the picture's own sound
LOOP_S, TIMES = 2, 10
FADE_SAMPLES = 500

# All that goes to the loudspeaker is kept as well, the left channel of it, by the thread that makes it: none is left out.
_RECORD = """
window.kept = []
window.heard = 0
const code = `registerProcessor('recorder', class extends AudioWorkletProcessor {
  process([input]) { if (input.length) this.port.postMessage(input[0].slice()); return true }
})`
const module = URL.createObjectURL(new Blob([code], { type: 'text/javascript' }))
const before = AudioNode.prototype.connect
AudioNode.prototype.connect = function (to, ...rest) {
  if (to instanceof AudioDestinationNode && this instanceof GainNode)
    this.context.audioWorklet.addModule(module).then(() => {
      const recorder = new AudioWorkletNode(this.context, 'recorder', { numberOfOutputs: 0 })
      recorder.port.onmessage = ({ data }) => {
        window.kept.push(data)
        window.heard += data.some(v => v) ? data.length : 0
      }
      before.call(this, recorder)
    })
  return before.call(this, to, ...rest)
}
"""
_KEPT = """() => { const all = new Uint8Array(window.kept.reduce((n, k) => n + k.byteLength, 0))
let at = 0
for (const k of window.kept) { all.set(new Uint8Array(k.buffer), at); at += k.byteLength }
let text = ''
for (let i = 0; i < all.length; i += 32768) text += String.fromCharCode(...all.subarray(i, i + 32768))
return btoa(text) }"""

Sound = NDArray[np.float32]


def recorded(page: Page) -> Sound:
    """What was played so far, from its first sample to its last."""
    sound = np.frombuffer(base64.b64decode(page.evaluate(_KEPT)), np.float32)
    played = np.flatnonzero(sound)
    return sound[played[0] : played[-1] + 1] if played.size else sound[:0]


def recording(page: Page, url: str) -> None:
    page.context.add_init_script(_RECORD)
    page.goto(url)


def longest_silence(sound: Sound) -> int:
    """Samples."""
    edges = np.flatnonzero(np.diff(np.concatenate([[True], sound != 0, [True]]).astype(int)))
    return int(np.diff(edges).max(initial=0)) if not sound.all() else 0


def test_a_loop_of_two_seconds_is_the_same_to_the_sample_ten_times(page: Page, application: Application) -> None:
    cue = cue_on_screen(application)
    while any(track["state"] == "listening" for track in tracks(application)):
        page.wait_for_timeout(200)  # the film's own sound is heard with the music as soon as it is there
    asks = {"asks": {"give_pct": 0}}  # at its own speed a fit needs no draft while its print is made
    application.api.patch(f"/cues/{cue['id']}", json=asks).raise_for_status()
    recording(page, f"{application.url}/fit")
    expect(report(page)).to_contain_text("at its own speed")
    page.get_by_role("link", name="Spot").click()
    expect(page.get_by_role("region", name="Spotting lanes")).to_be_visible()
    go_to(page, "0:40", "00:00:40:00")
    page.keyboard.press("i")
    go_to(page, "+49f", "00:00:41:24")
    page.keyboard.press("o")
    page.keyboard.press("y")
    page.keyboard.press(" ")
    until(page, f"window.heard > {(LOOP_S * TIMES + 1) * PICTURE_RATE}")
    page.keyboard.press(" ")
    sound, lap = recorded(page), LOOP_S * PICTURE_RATE
    laps = sound[-FADE_SAMPLES - TIMES * lap : -FADE_SAMPLES].reshape(TIMES, lap)
    assert np.abs(laps[0]).max() > 0.01
    assert np.abs(laps - laps[0]).max() < 1e-9
    application.api.post(f"/productions/{cue['production_id']}/undo").raise_for_status()


def test_going_over_to_another_fit_while_it_plays_leaves_no_gap_and_no_click(page: Page, application: Application) -> None:
    recording(page, f"{application.url}/fit")
    choose(page, "Lantern Path")
    set_length(page, "1:10")
    expect(report(page)).to_contain_text("Exactly 1:10.000")
    page.keyboard.press(" ")
    position = "document.querySelector('[aria-label=Position]').textContent.trim()"
    until(page, f"{position} > '00:00:03:00'")
    set_length(page, "0:50")
    expect(report(page)).to_contain_text("Exactly 0:50.000")
    until(page, f"{position} > '00:00:06:00'")
    page.keyboard.press("Control+z")
    expect(report(page)).to_contain_text("Exactly 1:10.000")
    until(page, f"{position} > '00:00:09:00'")
    page.keyboard.press(" ")
    sound = recorded(page)[FADE_SAMPLES:-FADE_SAMPLES]
    assert sound.size > 8 * RATE, "playing was never begun anew"
    assert longest_silence(sound) < 20
    bends = np.abs(np.diff(sound, n=2))
    assert bends.max() <= 4 * np.percentile(bends, 99.9), "a click"


def test_what_others_change_meanwhile_neither_stops_what_plays_nor_takes_the_lanes_away(
    page: Page, application: Application
) -> None:
    recording(page, f"{application.url}/fit")
    expect(report(page)).to_contain_text("Exactly")
    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.005")
    page.evaluate("document.querySelector('.lanes').dataset.mine = 'still here'")
    cue = cue_on_screen(application)
    application.api.patch(f"/cues/{cue['id']}", json={"name": "Renamed elsewhere"}).raise_for_status()
    expect(page.get_by_text("Renamed elsewhere").first).to_be_visible()
    until(page, "document.querySelector('[aria-label=Position]').textContent.trim() > '00:00:03:00'")
    assert page.evaluate("document.querySelector('.lanes').dataset.mine") == "still here"
    page.keyboard.press(" ")
    sound = recorded(page)[FADE_SAMPLES:-FADE_SAMPLES]
    assert sound.size > 2.5 * RATE
    assert longest_silence(sound) < 20


def cue_on_screen(application: Application) -> dict[str, object]:
    production = application.api.get("/productions").json()[0]["id"]
    cue = application.api.get(f"/productions/{production}").json()["cues"][0]
    return {**cue, "production_id": production}


def tracks(application: Application) -> list[dict[str, str]]:
    production = cue_on_screen(application)["production_id"]
    return list(application.api.get(f"/productions/{production}/tracks").json())


def counted(page: Page) -> dict[str, float]:
    """What Chromium holds for the page, once its rubbish is gone."""
    session = page.context.new_cdp_session(page)
    session.send("HeapProfiler.collectGarbage")
    session.send("Performance.enable")
    metrics = {m["name"]: m["value"] for m in session.send("Performance.getMetrics")["metrics"]}
    session.detach()
    return {name: metrics[name] for name in ("Nodes", "JSEventListeners", "JSHeapUsedSize")}


def test_pages_that_were_open_a_hundred_times_leave_nothing_behind(page: Page, application: Application) -> None:
    shown = (("Gather", "Chart editor"), ("Spot", "Spotting lanes"), ("Fit", "Fit view"))

    def after(rounds: int) -> dict[str, float]:
        for _ in range(rounds):
            for step, lanes in shown:
                page.get_by_role("link", name=step).click()
                page.get_by_role("region", name=lanes).wait_for()
        return counted(page)

    page.goto(f"{application.url}/fit")
    warm, worn = after(10), after(34)  # three pages each
    assert worn["Nodes"] < 1.1 * warm["Nodes"], (warm, worn)
    assert worn["JSEventListeners"] < 1.1 * warm["JSEventListeners"], (warm, worn)
    assert worn["JSHeapUsedSize"] < 1.12 * warm["JSHeapUsedSize"], (warm, worn)
