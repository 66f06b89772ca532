"""Before there is music: the tempo that meets the hits of the picture, seen, heard and taken along."""

import csv
import io
import re
from pathlib import Path

import mido
import numpy as np
import soundfile as sf
from playwright.sync_api import Page, expect

from tests.browser.conftest import Application
from tests.browser.test_spot import go_to, hit_count, open_spot, table
from tests.browser.waiting import until


def saved(page: Page, name: str, tmp_path: Path) -> Path:
    with page.expect_download() as download:
        page.get_by_role("region", name="Steady tempo").get_by_role("button", name=name, exact=True).click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    return path


def of_the_fit(page: Page, title: str, tmp_path: Path) -> Path:
    """What is taken along of the beats of the fit that is open."""
    page.get_by_label("Form of the file").click()
    with page.expect_download() as download:
        page.get_by_text(title, exact=True).click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    return path


def test_a_tempo_is_found_for_the_hits_looked_at_and_saved_in_three_forms_that_agree(
    page: Page, application: Application, tmp_path: Path
) -> None:
    open_spot(page, application)
    for at in ("00:00:02:00", "00:00:06:20", "00:00:14:10"):  # bars of 2.4 s from two seconds on: 100 bpm in four
        before = hit_count(page)
        go_to(page, at, at)
        page.keyboard.press("m")
        expect(table(page).get_by_role("tab", name="Hits")).to_contain_text(str(before + 1))
    page.keyboard.press("t")
    tempi = page.get_by_role("table", name="Tempi")
    page.get_by_label("Slowest tempo").fill("95")
    page.get_by_label("Fastest tempo").fill("105")
    page.keyboard.press("Enter")
    rows = tempi.locator("tbody tr")
    expect(rows.first).to_contain_text(re.compile(r"^\s*(9[5-9]|10[0-5])\.\d\d"))
    expect(page.get_by_role("img", name=re.compile("^Bars at (9|10)"))).to_be_visible()
    page.get_by_label("Where bar one begins").select_option(index=1)
    expect(rows.first.locator("td").nth(2)).to_have_text("0.00 s")

    page.get_by_label("Tempi; up and down choose one").press("ArrowDown")
    expect(rows.nth(1)).to_have_attribute("aria-selected", "true")
    page.keyboard.press("ArrowUp")
    expect(rows.first).to_have_attribute("aria-selected", "true")
    bpm = float(rows.first.locator("td").first.inner_text())
    starts_s = float(rows.first.locator("td").nth(2).inner_text().split()[0])

    midi = mido.MidiFile(saved(page, "MIDI", tmp_path), charset="utf-8")
    tempo = [m.tempo for m in midi.tracks[0] if m.type == "set_tempo"][-1]
    assert abs(mido.tempo2bpm(tempo) - bpm) < 0.005
    assert len([m for m in midi.tracks[0] if m.type == "marker"]) >= 3
    bars = list(csv.DictReader(io.StringIO(saved(page, "Bars", tmp_path).read_text())))
    sound, rate = sf.read(saved(page, "Click", tmp_path))
    assert abs(float(bars[0]["Seconds"]) - starts_s) < 0.006
    for bar in bars[1:20]:
        at = round(float(bar["Seconds"]) * rate)
        assert np.abs(sound[at : at + 100]).max() > 0.3
        assert np.abs(sound[at - 2000 : at - 2]).max() < 0.01

    own = page.get_by_role("group", name="The picture's tempo map")
    page.get_by_role("button", name="Lay on the picture").click()
    expect(own).to_contain_text(re.compile(rf"{bpm:.2f} bpm, \d+ bars, \d+ of \d+ hits met"))
    expect(page.get_by_role("img", name="Bars of the tempo map")).to_be_visible()
    own.get_by_role("button", name="Take away").click()
    expect(own).to_contain_text("No tempo map lies on this picture")
    page.get_by_label("MIDI file with a tempo map").set_input_files(tmp_path / next(tmp_path.glob("*.mid")).name)
    expect(own).to_contain_text(re.compile(rf"{bpm:.2f} bpm|to {bpm:.2f} bpm|{bpm:.2f} to"))
    page.reload()
    expect(page.get_by_role("img", name="Bars of the tempo map")).to_be_visible()
    for _ in range(3):  # read, taken away, laid
        page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("img", name="Bars of the tempo map")).to_have_count(0)
    page.keyboard.press("t")
    page.get_by_label("Slowest tempo").fill("95")
    page.get_by_label("Fastest tempo").fill("105")
    page.keyboard.press("Enter")
    page.get_by_label("Where bar one begins").select_option(index=1)
    expect(rows.first.locator("td").nth(2)).to_have_text("0.00 s")

    page.get_by_label("Bars of count-in").select_option("two bars")
    page.get_by_label("Clicks to a beat").select_option("off-beats too")
    counted, rate = sf.read(saved(page, "Click", tmp_path))
    early_s = (counted.size - sound.size) // rate
    assert 0 < early_s <= 6, "there is no room for two bars before the picture"
    first = round((early_s + float(bars[0]["Seconds"]) - 8 * 60 / bpm) * rate)
    assert np.abs(counted[: first - 100]).max() < 0.01 < np.abs(counted[first - 100 : first + 300]).max()

    page.get_by_label("Click", exact=True).check()
    page.get_by_label("Click", exact=True).blur()
    page.keyboard.press(" ")
    until(page, "document.querySelector('video').currentTime > 1")
    page.keyboard.press(" ")
    page.keyboard.press("t")
    expect(page.get_by_role("img", name=re.compile("^Bars at"))).to_have_count(0)
    for left in range(before, before - 3, -1):
        page.get_by_role("button", name="Undo").click()
        expect(table(page).get_by_role("tab", name="Hits")).to_contain_text(str(left))


def test_the_beats_of_a_fit_are_taken_along_in_three_forms_that_agree(
    page: Page, application: Application, tmp_path: Path
) -> None:
    page.goto(f"{application.url}/fit")
    expect(page.get_by_role("group", name="Seams").get_by_role("button").first).to_be_visible(timeout=60_000)

    bars = list(csv.DictReader(io.StringIO(of_the_fit(page, "Its bars with timecodes (CSV)", tmp_path).read_text())))
    sound, rate = sf.read(of_the_fit(page, "A click on its beats (WAV)", tmp_path))
    midi = mido.MidiFile(of_the_fit(page, "Its tempo map and hits (MIDI)", tmp_path), charset="utf-8")
    assert len(bars) > 10
    for bar in bars[1:]:
        at = round(float(bar["Seconds"]) * rate)
        assert np.abs(sound[at : at + 100]).max() > 0.5
        assert np.abs(sound[at - 1000 : at - 2]).max() < 0.01
    names = [m.text for m in midi.tracks[0] if m.type == "marker"]
    assert names == page.get_by_role("table", name="Hits").locator("tbody tr td:first-child").all_inner_texts()
