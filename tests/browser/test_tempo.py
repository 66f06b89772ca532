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

    page.get_by_role("button", name="Lay on the picture").click()
    said = page.get_by_label("The map in words")
    expect(said).to_have_text(re.compile(rf"{bpm:.2f} bpm, \d+ bars, \d+ of \d+ hits met"))
    expect(page.get_by_role("img", name="Bars of the tempo map")).to_be_visible()
    page.get_by_role("button", name="Take away").click()
    expect(page.get_by_text("No tempo map lies on this picture")).to_be_visible()
    page.get_by_label("MIDI file with a tempo map").set_input_files(tmp_path / next(tmp_path.glob("*.mid")).name)
    expect(said).to_have_text(re.compile(rf"{bpm:.2f} bpm|to {bpm:.2f} bpm|{bpm:.2f} to"))
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


def test_a_map_is_bent_to_the_hits_a_bar_of_it_is_dragged_and_its_metre_is_changed_before_there_is_music(
    page: Page, application: Application, tmp_path: Path
) -> None:
    open_spot(page, application)
    page.keyboard.press("t")
    expect(page.get_by_role("table", name="Tempi").locator("tbody tr").first).to_be_visible()
    page.get_by_label("Slowest tempo").fill("90")
    page.get_by_label("Fastest tempo").fill("92")
    page.keyboard.press("Enter")
    expect(page.get_by_role("img", name=re.compile(r"^Bars at 9[0-2]"))).to_be_visible()
    page.get_by_role("button", name="Lay on the picture").click()
    said = page.get_by_label("The map in words")
    rows = page.get_by_role("table", name="Bars on the hits of the map").locator("tbody tr")
    expect(rows.nth(2)).to_be_visible()
    page.get_by_label("Most change of tempo in per cent").fill("6")
    page.get_by_label("Most change of tempo in per cent").press("Enter")
    page.get_by_role("button", name="Bend", exact=True).click()
    expect(said).not_to_contain_text(re.compile(r"^\d+\.\d\d bpm"))  # no longer one tempo
    held = rows.filter(has=page.get_by_role("button", pressed=True))
    expect(held.nth(2)).to_be_visible()
    for row in held.all():
        expect(row.locator("td").nth(2)).to_have_text(re.compile(r"^(0|[+−][0-2]\.\d)$"))
    on_hits = held.count()

    lane = page.get_by_role("group", name="Tempo, bar by bar")
    box = lane.bounding_box()
    assert box
    y = box["y"] + box["height"] - 8
    x = next(box["x"] + px for px in range(300, 400) if points_at_a_bar(page, box["x"] + px, y))
    bar = re.match(r"Bar (\d+)\.", lane.get_attribute("title") or "")
    assert bar
    before = [row.locator("td").nth(1).locator("option:checked").inner_text() for row in held.all()]
    page.mouse.down()
    page.mouse.move(x + 12, y, steps=4)
    tip = lane.get_by_role("status")
    expect(tip).to_have_text(re.compile(rf"^bar {bar.group(1)}: \d+\.\d\d bpm before, \d+\.\d\d after$"))
    slower, faster = (float(n) for n in re.findall(r"\d+\.\d\d", tip.inner_text()))
    assert slower < faster
    page.mouse.up()
    expect(page.get_by_text(re.compile(rf"Held elsewhere: bar {bar.group(1)} at"))).to_be_visible()
    assert [row.locator("td").nth(1).locator("option:checked").inner_text() for row in held.all()] == before

    page.get_by_label("Bar", exact=True).fill("2")
    page.get_by_label("Bar", exact=True).press("Enter")
    page.get_by_label("For how many bars").select_option("this bar only")
    page.get_by_label("Beats of the metre").fill("2")
    page.get_by_label("Beats of the metre").press("Enter")
    page.get_by_role("button", name="Set the metre").click()
    expect(held).to_have_count(on_hits)

    with page.expect_download() as download:
        page.get_by_role("group", name="The map as a file").get_by_role("button", name="MIDI", exact=True).click()
    midi = mido.MidiFile(download.value.path(), charset="utf-8")
    assert [(m.numerator, m.denominator) for m in midi if m.type == "time_signature"][-3:] == [(4, 4), (2, 4), (4, 4)]
    with page.expect_download() as download:
        page.get_by_role("group", name="The map as a file").get_by_role("button", name="Bars").click()
    begins = [float(bar["Seconds"]) for bar in csv.DictReader(io.StringIO(download.value.path().read_text()))]
    now_s, marked = 0.0, []
    for message in midi:
        now_s += message.time
        if message.type == "marker":
            marked.append(now_s)
    on_a_bar = [min(abs(begin - at) for begin in begins) <= 0.5 / 25 for at in marked]
    assert sum(on_a_bar) >= sum(re.fullmatch(r"bar \d+", place) is not None for place in before)

    for _ in range(4):  # metre, bar, bend, laid
        page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("No tempo map lies on this picture")).to_be_visible()


def points_at_a_bar(page: Page, x: float, y: float) -> bool:
    page.mouse.move(x, y)
    title = page.get_by_role("group", name="Tempo, bar by bar").get_attribute("title") or ""
    return title.startswith("Bar ")


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
