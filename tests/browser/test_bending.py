"""A track is bent to the hits of the picture: they are marked, a tempo is found, bars are dragged to them, and all is taken along."""

import csv
import io
import re
from pathlib import Path

import mido
import numpy as np
import soundfile as sf
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import Application
from tests.browser.test_hits import to_step
from tests.browser.test_slice import choose, set_length
from tests.browser.test_spot import go_to, open_spot
from tests.browser.test_tempo import of_the_fit

MARKED = (("0:22.72", "00:00:22:18"), ("0:47.4", "00:00:47:10"))
ON_THE_FRAME = re.compile(r"^(on the frame|0\.[0-5] frames (early|late))$")


def ask(page: Page, label: str, value: str) -> None:
    field = page.get_by_label(label)
    field.fill(value)
    with page.expect_response(lambda answer: answer.url.endswith("/fit") and answer.request.method == "POST"):
        field.press("Enter")


def bars_on_hits(page: Page) -> Locator:
    return page.get_by_role("table", name="Bars on the hits").locator("tbody tr")


def met_by(page: Page) -> dict[str, str]:
    """The bar on every hit, by its place in the order of time."""
    return {
        row.get_by_role("button").first.inner_text(): row.locator("option:checked").inner_text()
        for row in bars_on_hits(page).all()
    }


def take_bar_right_of(page: Page, x: float) -> float:
    """Move to the next bar to the right of a hit; returns how far down the bars are."""
    strip = page.get_by_role("group", name="Bars of the track")
    box = strip.bounding_box()
    assert box
    y = box["y"] + box["height"] / 2
    for px in range(14, 60):
        page.mouse.move(x + px, y)
        if "Drag it" in (strip.get_attribute("title") or ""):
            return y
    raise AssertionError("no bar lies beside the hit")


def test_a_track_is_bent_to_the_hits_a_bar_is_dragged_to_another_and_what_comes_out_is_where_it_is_heard(
    page: Page, application: Application, tmp_path: Path
) -> None:
    choose(page, "First Light")
    set_length(page, "1:12")
    open_spot(page, application)
    for place, arrives in MARKED:
        go_to(page, place, arrives)
        page.keyboard.press("m")
        expect(page.get_by_role("button", name=re.compile(rf"^Hit \d+ at {arrives}"))).to_be_visible()
    to_step(page, "Fit")
    expect(page.get_by_role("tab", name="Tempo")).to_be_visible()
    page.keyboard.press("t")
    best = page.get_by_role("table", name="Tempi").locator("tbody tr").first
    expect(best).to_contain_text("4 of 5")  # no steady tempo meets them all
    expect(page.get_by_role("img", name=re.compile("^Bars at"))).to_be_visible()

    page.keyboard.press("w")
    with page.expect_response(lambda answer: answer.url.endswith("/fit") and answer.request.method == "POST"):
        page.get_by_label("How the music ends").select_option("in a fade")
    ask(page, "Most change of speed, 0 to 20 %", "4")
    page.get_by_role("button", name="Bend", exact=True).click()
    expect(page.get_by_role("button", name="Bend", exact=True)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("b")
    rows = bars_on_hits(page)
    expect(rows).to_have_count(5)
    for row in rows.all():
        expect(row.locator("td").nth(3)).to_have_text(ON_THE_FRAME)
        for side in (5, 6):
            words = row.locator("td").nth(side).inner_text()
            assert words == "–" or abs(float(words.split(" %")[0].replace("−", "-"))) <= 4
    before = met_by(page)
    on_downbeats = [bar for bar in before.values() if re.fullmatch(r"bar \d+", bar)]
    assert len(on_downbeats) >= 4

    page.keyboard.press("w")
    ask(page, "Most change of speed, 0 to 20 %", "15")
    page.keyboard.press("b")
    expect(rows).to_have_count(5)
    before = met_by(page)
    flag = page.get_by_role("button", name=re.compile(r"^Hit \d+, beat one, should:")).last
    box = flag.bounding_box()
    assert box
    y = take_bar_right_of(page, box["x"])
    page.mouse.down()
    page.mouse.move(box["x"] + 2, y, steps=3)
    said = page.get_by_role("group", name="Bars of the track").get_by_role("status")
    expect(said).to_have_text(re.compile(r"^bar \d+ on Hit \d+: \+\d+\.\d\d % before, −\d+\.\d\d % after$"))
    moved = re.match(r"bar \d+", said.inner_text())
    assert moved
    page.mouse.up()
    expect(rows.nth(3).locator("option:checked")).to_have_text(moved.group())
    expect(rows.nth(3).get_by_role("button", name=re.compile("^Pin the bar"))).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("e")
    expect(page.get_by_text("The fit before this one.")).to_be_visible()
    expect(rows.nth(3).locator("option:checked")).to_have_text(list(before.values())[3])
    page.keyboard.press("e")
    expect(rows.nth(3).locator("option:checked")).to_have_text(moved.group())
    after = met_by(page)
    assert [a == b for a, b in zip(before.values(), after.values(), strict=True)] == [True, True, True, False, True]
    for row in rows.all():
        expect(row.locator("td").nth(3)).to_have_text(ON_THE_FRAME)

    bars = list(csv.DictReader(io.StringIO(of_the_fit(page, "Its bars with timecodes (CSV)", tmp_path).read_text())))
    sound, rate = sf.read(of_the_fit(page, "A click on its beats (WAV)", tmp_path))
    midi_path = of_the_fit(page, "Its tempo map and hits (MIDI)", tmp_path)
    midi = mido.MidiFile(midi_path, charset="utf-8")
    for bar in bars[1:]:
        at = round(float(bar["Seconds"]) * rate)
        assert np.abs(sound[at : at + 100]).max() > 0.5
    seconds, marked = 0.0, []
    for message in midi:
        seconds += message.time
        if message.type == "marker":
            marked.append(seconds)
    begins = np.array([float(bar["Seconds"]) for bar in bars])
    on_a_bar = [np.abs(begins - at).min() <= 0.5 / 25 for at in marked]
    assert len(marked) == 5
    assert sum(on_a_bar) >= 4

    page.keyboard.press("t")
    page.get_by_label("MIDI file that the track is to follow").set_input_files(midi_path)
    expect(page.get_by_role("group", name="The map that the track follows")).to_contain_text(
        re.compile(r"\d+ bars of the track follow a map")
    )
    page.keyboard.press("b")
    expect(page.get_by_text("The track follows a tempo map")).to_be_visible()
    again = csv.DictReader(io.StringIO(of_the_fit(page, "Its bars with timecodes (CSV)", tmp_path).read_text()))
    came_back = [float(bar["Seconds"]) for bar in again]
    assert np.abs(np.array(came_back) - begins).max() < 0.001
    page.keyboard.press("Control+z")
    expect(rows).to_have_count(5)

    page.keyboard.press("Control+z")
    expect(rows.nth(3).locator("option:checked")).to_have_text(list(before.values())[3])
    for _ in range(6):  # give, method, give, landing, and both hits
        page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name=re.compile(r"^Hit \d+, beat one, should:"))).to_have_count(0)
