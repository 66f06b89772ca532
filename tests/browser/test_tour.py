"""The tour of the README, step by step as it is written, on an application of its own; and two people at one cue."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
import soundfile as sf
from playwright.sync_api import BrowserContext, Page, expect

from evenseam.catalogue.app import Weather
from evenseam.demo.load import FILMS_FOLDER
from tests.browser.conftest import WITHIN_MS, Application, with_demo
from tests.browser.test_slice import choose, drop_files, report, set_length
from tests.browser.test_spot import go_to, open_spot, table
from tests.browser.waiting import until

README = " ".join((Path(__file__).parents[2] / "README.md").read_text().split())


@pytest.fixture(scope="module")
def application(catalogue: tuple[str, Weather]) -> Iterator[Application]:
    """Nobody was here before."""
    with with_demo(catalogue[0]) as running:
        yield running


def written(words: str) -> None:
    """What is done next stands in the README."""
    assert words in README, f"the README says something else: {words}"


def test_the_tour_of_the_readme_is_walked_as_it_is_written(page: Page, application: Application, tmp_path: Path) -> None:
    written("*First Light* is 1:13 over and is fitted already, to the hits that are marked on the film.")
    expect(report(page)).to_contain_text("All 3 hits are met. Exactly 1:12.000")

    written("Press **Space**. What plays is made by the renderer that also writes the file.")
    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.005")
    page.keyboard.press(" ")

    written("Press **S**: the next seam, two bars around it.")
    page.keyboard.press("s")
    until(page, "window.loudness() > 0.005")
    written("Press **D** to zoom to it, **A** to see everything.")
    page.keyboard.press("d")
    until(page, "document.querySelector('.ruler text').textContent.includes('.')")
    page.keyboard.press("a")
    until(page, "!document.querySelector('.ruler text').textContent.includes('.')")

    written("Drag the end of the cue by its grip: the fit follows while you drag.")
    box = page.get_by_role("slider", name="End of the cue").bounding_box()
    assert box
    page.mouse.move(box["x"] + 9, box["y"] + 16)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 16, steps=8)
    expect(report(page)).not_to_contain_text("Exactly 1:12.000")
    page.mouse.up()
    written("press **L** and type a length: `1:12`, `112`, `72s`, `72.5s`, `1800f`, `00:01:12:00`.")
    for text, shown in (("72.5s", "1:12.500"), ("1800f", "1:12.000"), ("72s", "1:12.000"), ("112", "1:12.000")):
        set_length(page, text)
        expect(page.get_by_label("Length", exact=True)).to_have_value(shown)
    written("**Ctrl Z** takes any of it back")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Length", exact=True)).to_have_value("1:12.500")
    page.keyboard.press("Control+Shift+z")

    written("Pick *Lantern Path* (in three) or *Hill Bus* (too short, so it is lengthened) at the left")
    choose(page, "Hill Bus")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    written("Or press **Q** for the catalogue of licensed music")
    page.keyboard.press("q")
    page.get_by_label("What the music is for").select_option("broadcast")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("listitem").first).to_be_visible()
    page.get_by_role("button", name="Close").click()

    written("**Gather** (step 1 at the top) shows the track's chart")
    page.get_by_role("link", name="Gather").click()
    tempo = page.get_by_label("Tempo in bpm")
    right = float(tempo.input_value())
    written("**H** halves the tempo, **Shift H** doubles it, **B** makes the beat at the playhead beat one")
    page.keyboard.press("h")
    expect(tempo).to_have_value(re.compile(rf"^({int(right / 2)}|{round(right / 2)})\b"))
    page.keyboard.press("Shift+h")
    expect(tempo).to_have_value(re.compile(rf"^({int(right)}|{round(right)})\b"))
    written("Drag over some bars and press **X** to skip them")
    wave = page.get_by_label("Waveform").bounding_box()
    assert wave
    page.mouse.move(wave["x"] + 300, wave["y"] + 100)
    page.mouse.down()
    page.mouse.move(wave["x"] + 360, wave["y"] + 100, steps=6)
    page.mouse.up()
    page.keyboard.press("x")
    expect(page.get_by_role("group", name="Marks").get_by_role("button", name=re.compile("^Remove skip"))).to_be_visible()

    walk_spot(page, application)

    written("**Save WAV**, in Fit: the fit at the track's own rate, exactly as long as asked.")
    page.get_by_role("link", name="Fit", exact=False).filter(has_text="3").click()
    page.get_by_role("button", name="Choose a picture").click()
    page.get_by_role("listitem").filter(has_text=re.compile("film, 72 s")).first.click()
    page.reload()  # at its first cue
    choose(page, "First Light")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    with page.expect_download() as download:
        page.get_by_role("button", name="Save WAV").click()
    download.value.save_as(tmp_path / "cue.wav")
    made = sf.info(tmp_path / "cue.wav")
    assert made.frames == 72 * made.samplerate


def walk_spot(page: Page, application: Application) -> None:
    """Step 7: marks, lines, and the recut as an edit list."""
    written("**Spot** (step 2) has the picture large, with its cues and its own sound. **Space** plays")
    open_spot(page, application)
    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.002")
    page.keyboard.press(" ")
    written(
        "Press **M** whenever the music has to meet something, **I** and **O** for in and out, **C** for a cue between them."
    )
    for place, arrives in (("0:10", "00:00:10:00"), ("0:28", "00:00:28:00"), ("0:40", "00:00:40:00")):
        go_to(page, place, arrives)
        page.keyboard.press("m")
        expect(page.get_by_role("button", name=re.compile(rf"^Hit \d at {arrives}"))).to_be_visible()
    go_to(page, "0:28", "00:00:28:00")
    page.keyboard.press("i")
    go_to(page, "0:50", "00:00:50:00")
    page.keyboard.press("o")
    page.keyboard.press("c")
    expect(page.get_by_role("button", name=re.compile(r"^Cue 1m2 Cue 1m2, 00:00:28:00"))).to_be_visible()
    written("*Accept* the shot changes that were found")
    page.get_by_role("button", name="Accept", exact=True).click()
    expect(page.get_by_text("shot changes found")).to_have_count(0)
    written("drop captions on the page for others, or have them found in the film's own sound.")
    drop_files(page, [("open_night.srt", "text/plain", (FILMS_FOLDER / "open_night.srt").read_bytes())])
    expect(page.get_by_text("open_night.srt: 11 lines read. 11 of them were marked already.")).to_be_visible()
    until(page, "async () => (await (await fetch('/api/productions/1/tracks')).json()).every(t => t.state === 'ready')")
    page.get_by_role("button", name="Find dialogue").click()
    page.get_by_text("In the picture's own sound").click()
    expect(page.get_by_text("No line that was not marked already found.")).to_be_visible()

    written("choose *A new version of this picture* in the menu above it and give it `open_night_recut.edl`.")
    page.get_by_role("button", name="Choose a picture").click()
    expect(page.get_by_text("A new version of this picture …")).to_be_visible()
    page.set_input_files("[data-adds=version]", FILMS_FOLDER / "open_night_recut.edl")
    written("Shots that were found have no reels, so you are asked which is which")
    side_by_side = page.get_by_role("table", name="Shots of the new version beside the old ones")
    expect(side_by_side.get_by_role("row")).to_have_count(13)
    expect(side_by_side.get_by_role("row", name=re.compile("Telescope turns"))).to_contain_text("−10 frames")
    written("take the tick from one that is wrong, and *Make the new version*.")
    tick = page.get_by_label("Stars drift is the same shot")
    comes_along = page.get_by_text(re.compile(r"\d+ of \d+ marks and cues come along"))
    all_of_them = comes_along.inner_text()
    tick.click()
    expect(comes_along).not_to_have_text(all_of_them)
    tick.click()
    expect(comes_along).to_have_text(all_of_them)
    page.get_by_role("button", name="Make the new version").click()
    expect(page.get_by_role("button", name="Choose a picture")).to_contain_text("film, 72 s, version 2")

    written("Every mark goes along with its shot, *What moved* says the rest")
    expect(
        page.get_by_role("button", name=re.compile("^Hit 4 at 00:00:16:12"))
    ).to_be_visible()  # with Lantern path, which moved
    expect(page.get_by_role("button", name=re.compile("^Hit 6 at 00:00:34:24"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile(r"^Cue 1m1 .*the picture changed under it"))).to_be_visible()
    table(page).get_by_role("tab", name="What moved").click()
    expect(table(page)).to_contain_text("gone")
    expect(table(page)).to_contain_text("hit Hit 5 at 00:00:28:00")
    written("a cue whose first frame is gone is offered a place, and the old version stays.")
    left = table(page).get_by_role("group", name="Cue 1m2")
    expect(left).to_contain_text("00:00:28:00 before")
    left.get_by_role("button", name=re.compile("^By its first hit, 00:00:22:12")).click()
    expect(page.get_by_role("button", name=re.compile(r"^Cue 1m2 Cue 1m2, 00:00:22:12"))).to_be_visible()
    expect(left).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(left).to_be_visible()
    page.get_by_role("button", name="Redo").click()
    expect(left).to_have_count(0)
    page.get_by_role("button", name="Choose a picture").click()
    expect(page.get_by_role("listitem").filter(has_text=re.compile("film, 72 s"))).to_have_count(2)
    page.keyboard.press("Escape")


def test_two_people_change_one_cue_and_neither_loses_anything(
    page: Page, context: BrowserContext, application: Application
) -> None:
    open_spot(page, application)
    other = context.new_page()
    other.set_default_timeout(WITHIN_MS)
    open_spot(other, application)
    for each in (page, other):
        each.get_by_role("button", name=re.compile("^Cue 1m1")).click()
    name, same = (each.get_by_label("Name", exact=True) for each in (page, other))
    same.focus()  # looks at it, and begins to type
    name.fill("Arrival")
    name.press("Enter")
    name.blur()
    expect(same).to_have_value("Arrival")  # the other page is told
    same.fill("Departure")
    same.blur()
    dialog = other.get_by_role("dialog")
    expect(dialog).to_contain_text("Now: name “Arrival”. Yours: name “Departure”. Nothing was changed.")
    dialog.get_by_role("button", name="Use mine").click()
    expect(name).to_have_value("Departure")
    page.get_by_role("button", name="Undo").click()
    expect(same).to_have_value("Arrival")

    cues = [each.get_by_role("button", name=re.compile("^Cue 1m1")) for each in (page, other)]
    for _ in range(3):
        for cue in cues:
            cue.press("ArrowRight")
    for cue in cues:
        expect(cue).to_have_attribute("aria-label", re.compile(r"^Cue 1m1 Arrival, 00:00:00:06"))
