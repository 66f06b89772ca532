"""A second production beside the first: made, filled, named, put away and taken out again."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from evenseam.core.audio.encode import write_wav
from tests.browser.test_slice import choose, drop_files, report
from tests.browser.test_spot import table
from tests.synth import play


def production(page: Page, *, does: str) -> None:
    page.get_by_role("button", name="Choose a production").click()
    page.get_by_text(does, exact=True).click()


def test_a_second_production_has_its_own_picture_cue_and_music_and_the_first_is_as_it_was(page: Page, tmp_path: Path) -> None:
    name = page.get_by_role("button", name="Choose a production")
    expect(name).to_have_text("Harrow Fell Observatory: Open Night")
    production(page, does="A new production …")
    page.get_by_label("Name").fill("The Long Field")
    page.get_by_role("button", name="Make it").click()
    expect(name).to_have_text("The Long Field")
    expect(page.get_by_text("There is no picture here yet.")).to_be_visible()
    expect(page.get_by_text("No music yet.")).to_be_visible()

    page.get_by_role("button", name="Choose a picture").click()
    page.get_by_text("Add a length or an edit list …").click()
    page.get_by_label("Name", exact=True).fill("Barn loop")
    page.get_by_label("Length", exact=True).fill("30s")
    page.get_by_role("button", name="Add the length").click()
    page.get_by_role("link", name="Spot").click()
    expect(table(page)).to_be_visible()
    page.keyboard.press("i")
    page.keyboard.press("c")
    expect(page.get_by_role("button", name=re.compile("^Cue 1m1"))).to_be_visible()
    audio = play(bars=20, bpm=112).audio
    write_wav(tmp_path / "Hay.wav", audio.samples, audio.rate, "int16")
    drop_files(page, [("Hay.wav", "audio/wav", (tmp_path / "Hay.wav").read_bytes())])
    page.get_by_role("link", name="Fit").click()
    choose(page, "Hay")
    expect(report(page)).to_contain_text("Exactly 0:30.000")

    page.reload()
    expect(name).to_have_text("The Long Field")
    expect(report(page)).to_contain_text("Exactly 0:30.000")
    production(page, does="Name this one …")
    page.get_by_label("Name").fill("Long Field")
    page.get_by_role("button", name="Name it").click()
    expect(name).to_have_text("Long Field")
    production(page, does="Put this one away")
    expect(name).to_have_text("Harrow Fell Observatory: Open Night")
    expect(page.get_by_role("button", name="Fit First Light")).to_be_visible()

    page.get_by_role("button", name="Choose a production").click()
    page.get_by_text("1 put away …").click()
    page.get_by_text("Long Field", exact=True).click()
    expect(name).to_have_text("Long Field")
    expect(report(page)).to_contain_text("Exactly 0:30.000")
