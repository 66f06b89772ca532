"""Getting music in: a folder with good and bad files, a licensed piece, a library of a thousand."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Locator, Page, expect
from sqlalchemy import delete

from evenseam.catalogue.app import Weather
from evenseam.core.audio.encode import write_wav
from evenseam.core.chart import CHART_VERSION
from evenseam.store.database import Database
from evenseam.store.models import Recording, Track
from tests.browser.conftest import Application
from tests.browser.test_slice import HEAR_WITHIN_MS
from tests.browser.waiting import until
from tests.conftest import drum_loop


def test_a_folder_with_good_and_bad_files_goes_in_and_one_is_stopped(page: Page, tmp_path: Path) -> None:
    folder = tmp_path / "Reel 2"
    (folder / "more").mkdir(parents=True)
    for name, seconds, bpm in (("Short March", 20.0, 101.0), ("more/Very Long Loop", 900.0, 99.0)):
        audio = drum_loop(seconds, bpm=bpm)
        write_wav(folder / f"{name}.wav", audio.samples, audio.rate, "int16")
    (folder / "notes.txt").write_text("call the dome about the lamp")
    (folder / "broken.flac").write_bytes(b"fLaC" + np.random.default_rng(1).bytes(4000))
    (folder / ".hidden.wav").write_bytes(b"")
    page.locator("input[data-adds=folder]").set_input_files(folder)

    tracks = page.get_by_role("region", name="Tracks")
    long = tracks.get_by_role("group", name="Very Long Loop")
    expect(long.get_by_role("status")).to_be_visible(timeout=HEAR_WITHIN_MS)
    stop = long.get_by_role("button", name="Stop listening to Very Long Loop")
    stop.focus()
    stop.press("Enter")
    expect(long).to_contain_text("Listening was cancelled.")
    alerts = tracks.get_by_role("alert")
    expect(alerts.filter(has_text="This is not an audio file")).to_be_visible()
    expect(alerts.filter(has_text="damaged")).to_be_visible(timeout=HEAR_WITHIN_MS)
    expect(alerts).to_have_count(2)
    expect(tracks.get_by_role("button", name="Fit Short March")).to_be_enabled(timeout=HEAR_WITHIN_MS)

    again = long.get_by_role("button", name="Listen to Very Long Loop again")
    again.focus()
    again.press("Enter")
    expect(tracks.get_by_role("button", name="Fit Very Long Loop")).to_be_enabled(timeout=HEAR_WITHIN_MS)
    for name in ("notes.txt", "broken.flac"):
        page.get_by_role("button", name=f"Put away {name}").click()
    expect(alerts).to_have_count(0)


def piece(page: Page, title: str) -> Locator:
    return page.get_by_role("dialog").get_by_role("listitem", name=title)


def test_a_piece_is_found_in_the_catalogue_heard_and_licensed(page: Page, weather: Weather) -> None:
    expect(page.get_by_label("Words")).to_be_visible()
    page.keyboard.press("q")
    page.get_by_label("What the music is for").select_option("broadcast")
    expect(piece(page, "Bright Corners")).to_contain_text("Not for broadcast.")
    expect(piece(page, "Iron Lantern")).to_contain_text("May not be cut or rearranged")
    expect(piece(page, "Iron Lantern").get_by_role("button", name="License and add")).to_have_count(0)
    page.get_by_label("Search the catalogue").fill("swing evening")
    expect(page.get_by_role("dialog").get_by_role("listitem")).to_have_count(1)
    harbour = piece(page, "Harbour Lights")
    harbour.get_by_role("button", name="Hear Harbour Lights").click()
    until(page, "window.loudness() > 0.005")
    harbour.get_by_role("button", name="Stop Harbour Lights").click()

    weather.breaks_off = True
    harbour.get_by_role("button", name="License and add").click()
    expect(harbour.get_by_role("alert")).to_contain_text("broke off")
    weather.breaks_off = False
    harbour.get_by_role("button", name="Try again").click()
    expect(harbour).to_contain_text("In your library")
    page.get_by_role("button", name="Close").click()
    fit = page.get_by_role("button", name="Fit Harbour Lights")
    expect(fit).to_be_enabled(timeout=HEAR_WITHIN_MS)
    expect(fit).to_have_attribute("title", re.compile("licence SK-.*All media"))
    expect(page.get_by_label("Licensed: All media")).to_be_visible()


def test_a_catalogue_that_is_slow_or_down_says_so_and_can_be_asked_again(page: Page, weather: Weather) -> None:
    weather.delay_s = 8.0
    expect(page.get_by_label("Words")).to_be_visible()
    page.keyboard.press("q")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("The catalogue takes its time")
    weather.delay_s, weather.is_down = 0.0, True
    dialog.get_by_role("button", name="Stop").click()
    dialog.get_by_role("button", name="Ask again").click()
    expect(dialog.get_by_role("alert")).to_contain_text("closed for maintenance")
    weather.is_down = False
    dialog.get_by_role("button", name="Try again").click()
    expect(piece(page, "Slow Orbit")).to_be_visible()
    page.get_by_label("Search the catalogue").fill("hurdy gurdy")
    expect(dialog).to_contain_text("Nothing in the catalogue is like “hurdy gurdy”")


def test_a_thousand_tracks_are_searched_at_once_and_only_those_in_sight_are_drawn(application: Application, page: Page) -> None:
    database = Database(application.database_url)
    hashes = [f"{k:064x}" for k in range(1000)]
    with database.transaction() as session:
        production_id = session.query(Track.production_id).first()[0]
        for k, sha256 in enumerate(hashes):
            heard = {"chart_version": CHART_VERSION, "rate_hz": 48_000, "channels": 2, "n_samples": 48_000 * (60 + k % 240)}
            session.add(Recording(sha256=sha256, size_bytes=1, suffix=".wav", tempo_bpm=60.0 + k % 100, meter="4/4", **heard))
            session.flush()
            session.add(Track(production_id=production_id, sha256=sha256, title=f"Archive {k:04}", file_name=f"{k}.wav"))
    try:
        page.reload()
        rows = page.get_by_role("region", name="Tracks").get_by_role("button", name=re.compile("^Fit Archive"))
        expect(rows.first).to_have_attribute("aria-label", "Fit Archive 0999")
        assert rows.count() < 40
        page.keyboard.press("/")
        page.get_by_label("Words").fill("archive 0123")
        expect(rows).to_have_count(1)
        page.get_by_label("Words").fill("archive")
        page.get_by_role("button", name="Filter and sort").click()
        page.get_by_label("Tempo from").fill("159")
        expect(page.get_by_role("search").get_by_role("status")).to_contain_text("10 of 10")
    finally:
        with database.transaction() as session:
            session.execute(delete(Track).where(Track.sha256.in_(hashes)))
            session.execute(delete(Recording).where(Recording.sha256.in_(hashes)))
        database.dispose()
