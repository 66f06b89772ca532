"""Whole jobs, as an editor would do them."""

import base64
import re
import signal
from datetime import datetime, timedelta
from pathlib import Path

import pytest
import soundfile as sf
from playwright.sync_api import Locator, Page, expect

from evenseam.core.audio.encode import write_wav
from tests.browser.conftest import Application
from tests.browser.waiting import until
from tests.conftest import drum_loop
from tests.synth import free_music

HEAR_WITHIN_MS = 240_000


def drop_files(page: Page, files: list[tuple[str, str, bytes]]) -> None:
    """Drop files on the page as the system's file manager would."""
    payload = [{"name": name, "type": kind, "data": base64.b64encode(data).decode()} for name, kind, data in files]
    transfer = page.evaluate_handle(
        """files => { const t = new DataTransfer()
        for (const f of files) t.items.add(new File([Uint8Array.from(atob(f.data), c => c.charCodeAt(0))], f.name, { type: f.type }))
        return t }""",
        payload,
    )
    for event in ("dragover", "drop"):
        page.dispatch_event(".v-application", event, {"dataTransfer": transfer})


def position_s(page: Page) -> float:
    hours, minutes, seconds, frames = map(int, page.get_by_label("Position", exact=True).inner_text().split(":"))
    return hours * 3600 + minutes * 60 + seconds + frames / 25


def report(page: Page) -> Locator:
    return page.get_by_role("region", name="Report")


def set_length(page: Page, text: str) -> None:
    page.keyboard.press("l")
    page.get_by_label("Length", exact=True).fill(text)
    page.keyboard.press("Enter")


def choose(page: Page, title: str) -> None:
    """Find a track by its name, as one does in a long list, and choose it."""
    page.keyboard.press("/")
    page.get_by_label("Words").fill(title)
    button = page.get_by_role("button", name=f"Fit {title}")
    expect(button).to_be_enabled(timeout=HEAR_WITHIN_MS)
    button.click()
    expect(button).to_have_attribute("aria-pressed", "true")
    page.get_by_label("Words").fill("")
    page.keyboard.press("Escape")


def test_a_dropped_track_is_fitted_heard_and_saved(page: Page, tmp_path: Path) -> None:
    audio = drum_loop(65.0, 44_100, 112.0)
    write_wav(tmp_path / "Slow Dome.wav", audio.samples, audio.rate, "int16")
    drop_files(page, [("Slow Dome.wav", "audio/wav", (tmp_path / "Slow Dome.wav").read_bytes())])
    choose(page, "Slow Dome")
    set_length(page, "0:48")
    expect(report(page)).to_contain_text("Exactly 0:48.000: 2,116,800 samples at 44,100 Hz", timeout=HEAR_WITHIN_MS)
    expect(report(page)).to_contain_text(re.compile(r"(One seam|\d seams), at (most|its own)"))

    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.005")
    until(page, "document.querySelector('[aria-label=Position]').textContent > '00:00:01:00'")
    page.keyboard.press(" ")
    parked = position_s(page)
    assert 1 <= parked < 6

    seam = page.get_by_role("button", name=re.compile("^Seam 1 at"))
    at = re.search(r"at 0:(\d+\.\d+)", seam.get_attribute("aria-label") or "")
    assert at
    seam_s = float(at[1])
    page.keyboard.press("Home")
    page.keyboard.press("s")
    until(page, "window.loudness() > 0.005")
    bar_s = 4 * 60 / 112
    assert seam_s - bar_s - 0.2 <= position_s(page) <= seam_s + bar_s
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible(timeout=HEAR_WITHIN_MS)  # two bars, then it stops
    assert position_s(page) == pytest.approx(seam_s + bar_s, abs=0.15)

    with page.expect_download() as download:
        page.get_by_role("button", name="Save WAV").click()
    saved = tmp_path / download.value.suggested_filename
    download.value.save_as(saved)
    assert saved.name == "1m1 Open Night 0-48 Slow Dome.wav"
    assert sf.info(saved).frames == 48 * 44_100


def test_what_was_heard_is_shown_and_music_in_free_time_is_fitted_on_its_breaths(page: Page, tmp_path: Path) -> None:
    marks = page.get_by_role("group", name="What was heard in the track")
    choose(page, "First Light")
    expect(marks.get_by_label("Last hit")).to_be_visible(timeout=HEAR_WITHIN_MS)
    expect(marks.get_by_label("Ring-out")).to_be_attached()
    expect(page.get_by_role("region", name="Fit view")).to_contain_text(
        re.compile(r"118\.0 bpm\s*4/4, (sure|fairly sure|unsure)")
    )

    audio = free_music(80.0, 44_100)
    write_wav(tmp_path / "Slow Air.wav", audio.samples, audio.rate, "int16")
    drop_files(page, [("Slow Air.wav", "audio/wav", (tmp_path / "Slow Air.wav").read_bytes())])
    choose(page, "Slow Air")
    expect(page.get_by_role("button", name="Fit Slow Air")).to_contain_text("free time")
    set_length(page, "0:50")
    expect(report(page)).to_contain_text("Exactly 0:50.000: 2,205,000 samples at 44,100 Hz", timeout=HEAR_WITHIN_MS)
    expect(report(page)).to_contain_text("on a breath")


def test_the_end_is_dragged_live_and_everything_survives_reload_undo_and_a_kill(page: Page, application: Application) -> None:
    choose(page, "Lantern Path")
    set_length(page, "1:12")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    handle = page.get_by_role("slider", name="End of the cue")
    box = handle.bounding_box()
    assert box
    x, y = box["x"] + 9, box["y"] + 16
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 60, y, steps=12)
    expect(report(page)).not_to_contain_text("Exactly 1:12.000")  # the fit follows while the hand still holds it
    expect(report(page)).to_contain_text("Exactly 1:0")
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    dragged = page.get_by_label("Length", exact=True).input_value()
    assert dragged.startswith("1:0")
    expect(report(page)).to_contain_text(f"Exactly {dragged}")

    handle.press("ArrowRight")
    expect(page.get_by_label("Length", exact=True)).not_to_have_value(dragged)
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Length", exact=True)).to_have_value(dragged)

    page.reload()
    expect(page.get_by_label("Length", exact=True)).to_have_value(dragged)
    application.stop(signal.SIGKILL)
    application.start()
    page.reload()
    expect(report(page)).to_contain_text(f"Exactly {dragged}")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Length", exact=True)).to_have_value("1:12.000")
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_label("Length", exact=True)).to_have_value(dragged)


def test_bad_files_are_refused_with_a_reason_and_the_good_one_goes_in(page: Page, tmp_path: Path) -> None:
    write_wav(tmp_path / "a.wav", drum_loop(14.0, bpm=96).samples, 22_050, "int16")
    good = (tmp_path / "a.wav").read_bytes()
    drop_files(
        page,
        [
            ("notes.wav", "audio/wav", b"not music at all " * 40),
            ("good one.wav", "audio/wav", good),
            ("empty.wav", "audio/wav", b""),
        ],
    )
    tracks = page.get_by_role("region", name="Tracks")
    expect(tracks).to_contain_text("This is not an audio file.")
    expect(tracks).to_contain_text("The file is empty.")
    expect(page.get_by_role("button", name="Fit good one")).to_be_enabled(timeout=HEAR_WITHIN_MS)
    for name in ("notes.wav", "empty.wav"):
        page.get_by_role("button", name=f"Put away {name}").click()
    expect(tracks.get_by_role("alert")).to_have_count(0)
    row = page.get_by_role("button", name="Remove good one")
    row.focus()
    row.click()
    page.get_by_role("button", name="Remove", exact=True).click()
    expect(page.get_by_role("button", name="Fit good one")).to_have_count(0)


def test_lengths_are_typed_refused_and_answered_with_what_is_possible(page: Page) -> None:
    choose(page, "Hill Bus")
    for text, shown in (("72", "1:12.000"), ("72.5s", "1:12.500"), ("00:01:00:12", "1:00.480"), ("1:12", "1:12.000")):
        set_length(page, text)
        expect(page.get_by_label("Length", exact=True)).to_have_value(shown)
        expect(report(page)).to_contain_text(f"Exactly {shown}")
    set_length(page, "soon")
    expect(page.get_by_role("alert").filter(has_text="is not a time")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_label("Length", exact=True)).to_have_value("1:12.000")
    set_length(page, "3")
    expect(report(page)).to_contain_text("too short to rearrange")
    page.get_by_role("button", name=re.compile("^Use ")).click()
    expect(report(page)).to_contain_text("Exactly 0:")
    page.get_by_role("link", name="Proof").click()
    expect(page.get_by_role("heading", name="Proof is not built yet")).to_be_visible()


def test_how_full_the_music_is_to_be_is_drawn_over_it_and_taken_back(page: Page) -> None:
    choose(page, "First Light")
    set_length(page, "1:12")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    page.keyboard.press("w")
    wish = page.get_by_label("How full the music is")
    with (  # the fit that comes may have other lanes, and the table below them takes its room: they are measured after both
        page.expect_response(lambda answer: answer.request.method == "POST" and answer.url.endswith("/fit")),
        page.expect_response(lambda answer: answer.url.endswith("/ways")),
    ):
        wish.select_option("drawn by hand")
    expect(page.get_by_role("table", name="Ways to fit")).to_be_visible()
    page.evaluate("() => new Promise(drawn => requestAnimationFrame(() => requestAnimationFrame(drawn)))")
    shape, corners = page.get_by_role("group", name="Fullness that is wished"), page.get_by_role("slider", name="Corner of the")
    expect(corners).to_have_count(2)
    box = shape.bounding_box()
    assert box
    x, middle, bottom = box["x"] + 400, box["y"] + box["height"] / 2, box["y"] + box["height"] * 0.95
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        page.mouse.move(x, middle)
        page.mouse.down()
        page.mouse.move(x, bottom, steps=6)
        page.mouse.up()
    expect(corners).to_have_count(3)
    expect(corners.nth(1)).to_have_attribute("aria-valuenow", "1")

    corners.nth(1).focus()
    page.clock.install()
    page.clock.pause_at(datetime.now() + timedelta(seconds=1))  # however long a busy machine takes from key to key
    for key in ("+", "ArrowUp", "ArrowUp"):  # a corner between, and the keys go on with it: one step to take back
        page.keyboard.press(key)
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        page.clock.resume()
    expect(corners).to_have_count(4)
    expect(corners.nth(2)).to_have_attribute("aria-valuenow", "36")
    page.reload()
    page.get_by_role("button", name="Undo").click()
    expect(corners).to_have_count(3)
    corners.nth(1).press("Delete")
    expect(corners).to_have_count(2)
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    page.keyboard.press("w")
    wish.select_option("as it comes")
    expect(shape).to_have_count(0)


def test_zooming_goes_to_the_seam_and_back_to_everything(page: Page) -> None:
    choose(page, "First Light")
    set_length(page, "1:12")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    seam = page.get_by_role("button", name=re.compile("^Seam 1 at"))
    whole = seam.bounding_box()
    page.keyboard.press("d")
    until(page, "document.querySelector('.ruler text').textContent.includes('.')")
    near = seam.bounding_box()
    assert whole
    assert near
    assert 600 < near["x"] < 1100
    page.get_by_role("region", name="Fit view").hover()
    for _ in range(30):
        page.keyboard.press("+")
    page.keyboard.press("a")
    until(page, "!document.querySelector('.ruler text').textContent.includes('.')")
    back = seam.bounding_box()
    assert back
    assert back["x"] == pytest.approx(whole["x"], abs=1)
