"""Putting a misheard chart right, as an editor would: with keys, by ear, and back again."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from evenseam.core.audio.encode import write_wav
from tests.browser.test_slice import HEAR_WITHIN_MS, choose, drop_files, report, set_length
from tests.browser.waiting import until
from tests.synth import play


def tempo(page: Page) -> str:
    return page.get_by_label("Tempo in bpm").input_value()


def drop_known(page: Page, tmp_path: Path, name: str, bpm: float) -> None:
    audio = play(bars=20, bpm=bpm).audio
    write_wav(tmp_path / f"{name}.wav", audio.samples, audio.rate, "int16")
    drop_files(page, [(f"{name}.wav", "audio/wav", (tmp_path / f"{name}.wav").read_bytes())])
    choose(page, name)
    page.get_by_role("link", name="Gather").click()
    expect(page.get_by_label("Tempo in bpm")).to_have_value(re.compile(rf"{bpm:.0f}|{bpm - 1:.0f}\.\d"), timeout=HEAR_WITHIN_MS)


def test_a_chart_at_half_tempo_and_a_beat_off_is_put_right_with_keys_alone(page: Page, tmp_path: Path) -> None:
    drop_known(page, tmp_path, "Slow Heard", 116)
    right, bars = tempo(page), page.get_by_role("group", name="Bar lines")
    page.keyboard.press("h")
    expect(page.get_by_label("Tempo in bpm")).to_have_value(re.compile(r"5[78]\.\d"))
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("beat one"))
    expect(bars.locator(".pinned")).to_have_count(1)

    page.keyboard.press("Control+z")
    expect(bars.locator(".pinned")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Tempo in bpm")).to_have_value(right)
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_label("Tempo in bpm")).to_have_value(re.compile(r"5[78]\.\d"))
    page.keyboard.press("Shift+h")
    expect(page.get_by_label("Tempo in bpm")).to_have_value(re.compile(r"11[56]\.\d"))

    page.keyboard.press("Home")
    with page.expect_request(re.compile(r"/(programme\?click=true|click\?chart=)")):  # what Space will play is fetched ahead
        page.keyboard.press("c")
    expect(page.get_by_role("button", name="Click")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.005")
    until(page, "document.querySelector('[aria-label=Position]').textContent > '0:01'")
    page.keyboard.press(" ")

    page.reload()
    expect(page.get_by_label("Tempo in bpm")).to_have_value(re.compile(r"11[56]\.\d"))
    expect(page.get_by_text("corrected: beats")).to_be_visible()
    page.get_by_role("button", name="As heard").click()
    expect(page.get_by_text("as heard;")).to_be_visible()


def test_points_sections_and_marks_are_set_and_the_fit_follows_on_request(page: Page, tmp_path: Path) -> None:
    drop_known(page, tmp_path, "Long Walk", 104)
    page.get_by_role("link", name="Fit", exact=False).filter(has_text="3").click()
    set_length(page, "0:30")
    expect(report(page)).to_contain_text("Exactly 0:30.000", timeout=HEAR_WITHIN_MS)
    page.get_by_role("link", name="Gather").click()

    wave = page.get_by_label("Waveform")
    box = wave.bounding_box()
    assert box
    page.mouse.move(box["x"] + 300, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 380, box["y"] + 100, steps=6)
    page.mouse.up()
    expect(page.get_by_label(re.compile("^Chosen,"))).to_be_visible()
    page.keyboard.press("x")
    marks = page.get_by_role("group", name="Marks")
    expect(marks.get_by_role("button", name=re.compile("^Remove skip"))).to_be_visible()

    sections = page.get_by_role("group", name="Sections")
    buttons = sections.get_by_role("button").count()
    page.mouse.click(box["x"] + 500, box["y"] + 100)
    page.keyboard.press("n")
    expect(sections.get_by_role("button")).not_to_have_count(buttons)
    added = sections.get_by_role("button").last
    added.focus()
    added.press("Enter")
    page.get_by_label("Name of the section").fill("Lift")
    page.keyboard.press("Enter")
    expect(sections.get_by_role("button", name=re.compile("Section Lift"))).to_be_visible()

    head = page.get_by_role("slider", name="head")
    before = head.get_attribute("aria-valuenow") or ""
    head.press("Shift+ArrowRight")
    expect(head).not_to_have_attribute("aria-valuenow", before)
    expect(page.get_by_text(re.compile("corrected: .*trim start"))).to_be_visible()

    page.get_by_label("Metre").select_option("3/4")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("setting 3/4"))
    page.get_by_label("Tempo in bpm").fill("5000")
    page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile("less than or equal to 1000|A tempo between"))).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Metre")).to_have_value("4/4")

    page.get_by_role("link", name="Fit", exact=False).filter(has_text="3").click()
    expect(report(page)).to_contain_text("were changed since this was fitted")
    page.get_by_role("button", name="Fit again").click()
    expect(report(page)).not_to_contain_text("were changed since")
    expect(report(page)).to_contain_text("Exactly 0:30.000")
    page.get_by_role("link", name="Gather").click()
    marks.get_by_role("button", name=re.compile("^Remove skip")).click()
    expect(marks.get_by_role("button")).to_have_count(0)


_FIRST_OF_THREE = """() => [...document.querySelectorAll("[aria-label^='Fit ']")].map(row => row.ariaLabel)
  .find(name => /First Light|Lantern Path|Hill Bus/.test(name)) === 'Fit Hill Bus'"""


def test_the_library_is_searched_filtered_tagged_and_heard_from_the_list(page: Page) -> None:
    choose(page, "Lantern Path")
    page.get_by_role("link", name="Gather").click()
    page.get_by_label("Tags").fill("Calm, night walk")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("labelling Lantern Path"))

    tracks = page.get_by_role("region", name="Tracks")
    rows = tracks.get_by_role("button", name=re.compile("^Fit "))
    page.get_by_role("button", name="Filter and sort").click()
    page.get_by_label("With metre").select_option("3/4")
    page.get_by_label("Tempo from").fill("90")
    page.get_by_label("Tempo to").fill("110")
    page.get_by_label("Voice").select_option("none")
    expect(rows).to_have_count(1)
    expect(rows).to_have_attribute("aria-label", "Fit Lantern Path")
    page.get_by_label("Tempo from").fill("105")
    expect(tracks).to_contain_text("No track is like that")
    page.get_by_role("button", name="Show all").click()
    page.get_by_label("Order").select_option("length")
    until(page, _FIRST_OF_THREE)  # whatever else was added before
    page.keyboard.press("Escape")
    page.get_by_label("Words").fill("night walk")
    expect(rows).to_have_count(1)
    page.keyboard.press("Escape")
    expect(rows).not_to_have_count(1)

    row = tracks.get_by_role("group", name="Hill Bus")
    row.hover()
    row.get_by_role("button", name="Hear Hill Bus").click()
    until(page, "window.loudness() > 0.005")
    expect(page.get_by_role("region", name="Picture")).to_contain_text("in Hill Bus")
    row.get_by_role("button", name="Stop Hill Bus").click()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
    expect(page.get_by_role("region", name="Picture")).to_contain_text("in Lantern Path")
