"""Spotting, as an editor does it: mark while it plays, read lines, conform to a new cut."""

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from evenseam.core.exchange.marks import write_captions, write_edl
from evenseam.core.spot import Hit, Line, Sheet, Shot
from evenseam.core.timebase import FrameRate
from evenseam.demo.load import FILMS_FOLDER
from tests.browser.conftest import Application
from tests.browser.test_slice import HEAR_WITHIN_MS, drop_files
from tests.browser.waiting import until
from tests.films import Shape, make_film


def open_spot(page: Page, application: Application, picture: str = "Open Night, film, 72 s") -> None:
    page.goto(f"{application.url}/spot")
    menu = page.get_by_role("button", name="Choose a picture")
    expect(menu).to_contain_text("Open Night")
    if picture not in menu.inner_text():
        menu.click()
        page.get_by_role("listitem").filter(has_text=picture).or_(
            page.get_by_role("option").filter(has_text=picture)
        ).first.click()
    expect(menu).to_contain_text(picture)
    until(page, "document.querySelector('video')?.readyState >= 2")


def frame_now(page: Page) -> int:
    hours, minutes, seconds, frames = map(int, page.get_by_label("Position", exact=True).inner_text().split(":"))
    return (hours * 3600 + minutes * 60 + seconds) * 25 + frames


def go_to(page: Page, text: str, arrives: str) -> None:
    page.keyboard.press("g")
    page.get_by_label("Go to").fill(text)
    page.keyboard.press("Enter")
    expect(page.get_by_label("Position", exact=True)).to_have_text(arrives)


def table(page: Page) -> Locator:
    return page.get_by_role("region", name="Spotting table")


def hit_count(page: Page) -> int:
    return int(table(page).get_by_role("tab", name=re.compile("Hits")).inner_text().split()[-1])


def test_a_slot_and_four_hits_are_marked_while_it_plays_lines_are_read_and_all_is_there_after_a_reload(
    page: Page, application: Application
) -> None:
    open_spot(page, application)
    before = hit_count(page)
    page.keyboard.press(" ")
    until(page, "document.querySelector('[aria-label=Position]').textContent.trim() > '00:00:00:10'")
    page.keyboard.press("i")
    for k in range(4):
        page.keyboard.press("m")
        expect(table(page).get_by_role("tab", name=re.compile("Hits"))).to_contain_text(str(before + k + 1))
    page.keyboard.press("o")
    page.keyboard.press(" ")
    page.keyboard.press("c")
    expect(page.get_by_role("button", name=re.compile(r"^Cue 1m2 Cue 1m2, 00:00:0"))).to_be_visible()

    page.set_input_files("[data-adds=marks]", FILMS_FOLDER / "open_night.srt")
    expect(page.get_by_text("open_night.srt: 11 lines read.")).to_be_visible()
    table(page).get_by_role("tab", name=re.compile("Hits")).click()
    label = page.get_by_label("Label of hit 1", exact=True)
    label.fill("Dusk")
    label.press("Enter")  # down to the next row, same column
    expect(page.get_by_label("Label of hit 2", exact=True)).to_be_focused()
    page.keyboard.type("Lamps")
    page.keyboard.press("Enter")
    page.get_by_label("What hit 1 meets", exact=True).select_option("section")
    page.get_by_label("Weight of hit 1", exact=True).select_option("must")
    time = page.get_by_label("Time of hit 4", exact=True)
    time.fill("0:05")
    time.press("Enter")
    expect(page.get_by_label("Time of hit 4", exact=True)).to_have_value("00:00:05:00")

    page.reload()
    expect(page.get_by_role("button", name=re.compile(r"^Dusk at 00:00:\d\d:\d\d, new section, must"))).to_be_visible()
    expect(page.get_by_label("Label of hit 2", exact=True)).to_have_value("Lamps")
    expect(page.get_by_role("button", name=re.compile("^Cue 1m2"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Line at 00:00:02:10: Once a month"))).to_be_visible()


def test_the_picture_is_stepped_shuttled_looped_and_shows_the_frame_that_is_said(page: Page, application: Application) -> None:
    open_spot(page, application)
    go_to(page, "0:30", "00:00:30:00")
    for key, frame in (
        ("ArrowRight", 751),
        ("Shift+ArrowRight", 761),
        ("ArrowLeft", 760),
        ("Home", 0),
        ("Shift+ArrowRight", 10),
    ):
        page.keyboard.press(key)
        until(
            page,
            "f => { const v = document.querySelector('video'); return !v.seeking && Math.floor(v.currentTime * 25) === f }",
            arg=frame,
        )
        assert frame_now(page) == frame
    go_to(page, "+10f", "00:00:00:20")
    go_to(page, "1:00", "00:01:00:00")
    page.keyboard.press("j")
    page.keyboard.press("j")
    expect(page.get_by_text("−2×")).to_be_visible()
    until(page, "document.querySelector('[aria-label=Position]').textContent.trim() < '00:00:59:00'")
    page.keyboard.press("k")
    parked = frame_now(page)
    until(page, "f => Math.floor(document.querySelector('video').currentTime * 25) === f", arg=parked)
    page.keyboard.press("l")
    page.keyboard.press("l")
    expect(page.get_by_text("2×", exact=True)).to_be_visible()
    page.keyboard.press("k")

    go_to(page, "0:10", "00:00:10:00")
    page.keyboard.press("i")
    go_to(page, "+1s", "00:00:11:00")
    page.keyboard.press("o")
    page.keyboard.press("y")
    page.keyboard.press(" ")
    page.evaluate(
        """() => { window.places = []; const look = () => { window.places.push(document.querySelector('[aria-label=Position]').textContent.trim())
        requestAnimationFrame(look) }; look() }"""
    )
    until(page, "window.places.filter((p, i) => i && p < window.places[i - 1]).length >= 3")  # once to the in
    places = page.evaluate("window.places")
    first = places.index("00:00:10:00")
    assert all("00:00:10:00" <= p <= "00:00:11:01" for p in places[first:])


def test_picture_and_music_stay_within_a_frame_of_each_other(page: Page, application: Application) -> None:
    open_spot(page, application)
    page.evaluate(
        """() => { window.drift = []; const v = document.querySelector('video'); const place = document.querySelector('[aria-label=Position]')
        const look = (_, shown) => { const [h, m, s, f] = place.textContent.trim().split(':').map(Number)
          window.drift.push((h * 3600 + m * 60 + s) * 25 + f - Math.round(shown.mediaTime * 25)); v.requestVideoFrameCallback(look) }
        v.requestVideoFrameCallback(look) }"""
    )
    page.keyboard.press(" ")
    until(page, "window.loudness() > 0.001")
    until(page, "window.drift.length > 180")
    page.keyboard.press(" ")
    drift = sorted(abs(d) for d in page.evaluate("window.drift.slice(30)"))
    assert drift[len(drift) // 2] <= 1, f"frames between picture and clock: {drift}"


def test_a_new_cut_carries_the_marks_says_what_moved_and_can_be_undone(
    page: Page, application: Application, tmp_path: Path
) -> None:
    open_spot(page, application, "Open Night, spot, 30 s")
    page.set_input_files("[data-adds=marks]", FILMS_FOLDER / "open_night_30.edl")
    expect(page.get_by_text("open_night_30.edl: 7 shots read.")).to_be_visible()
    go_to(page, "10:00:09:10", "10:00:09:10")
    page.keyboard.press("m")
    expect(page.get_by_label("Label of hit 1", exact=True)).to_be_visible()
    takes = (("A001", 35, 100, "Dusk on the fell"), ("A004", 40, 88, "Telescope turns"), ("A003", 60, 110, "The slit opens"))
    shots, at = [], 0
    for reel, source, frames, name in (*takes, ("C001", 0, 145, "Title")):
        shots.append(Shot(at, at + frames, reel, source, name))
        at += frames
    cut = Sheet(FrameRate(25), at, 3600 * 25, tuple(shots))  # the assistant started it at another hour
    (tmp_path / "thirty v2.edl").write_text(write_edl(cut))
    page.set_input_files("[data-adds=version]", tmp_path / "thirty v2.edl")
    expect(page.get_by_text("The list starts at 01:00:00:00, the picture at 10:00:00:00.")).to_be_visible()
    page.get_by_role("button", name="Lay it on the picture's start").click()
    expect(page.get_by_role("button", name="Choose a picture")).to_contain_text("Open Night, spot, 30 s, version 2")
    table(page).get_by_role("tab", name="What moved").click()
    expect(table(page)).to_contain_text("moved")
    expect(table(page)).to_contain_text("Stars drift")
    expect(table(page)).to_contain_text("gone")
    expect(page.get_by_role("button", name=re.compile(r"^Hit 1 at 10:00:05:05"))).to_be_visible()
    cue = page.get_by_role("button", name=re.compile(r"^Cue 10m1 .*the picture changed under it"))
    expect(cue).to_be_visible()
    cue.click()
    page.get_by_role("button", name="Seen").click()
    expect(page.get_by_role("button", name=re.compile(r"^Cue 10m1 .*the picture changed under it"))).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name=re.compile(r"^Cue 10m1 .*the picture changed under it"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Choose a picture")).not_to_contain_text("version 2")


def test_a_dropped_film_that_browsers_cannot_play_is_made_playable_with_progress(
    page: Page, application: Application, tmp_path: Path
) -> None:
    open_spot(page, application)
    make_film(
        tmp_path / "Dailies.mov",
        ((1, 0, 60), (2, 0, 65)),
        Shape(codec="prores_ks", pixels="yuv422p10le", timecode="02:00:00:00"),
    )
    drop_files(page, [("Dailies.mov", "video/quicktime", (tmp_path / "Dailies.mov").read_bytes())])
    expect(page.get_by_role("button", name="Choose a picture")).to_contain_text("Dailies")
    until(page, "document.querySelector('video')?.readyState >= 2", timeout=HEAR_WITHIN_MS)
    expect(page.get_by_label("Position", exact=True)).to_have_text("02:00:00:00")
    expect(page.get_by_text("1 shot change found")).to_be_visible()
    cut = page.get_by_role("button", name="Suggested shot change at 02:00:02:10")
    cut.focus()
    page.keyboard.press("Enter")
    expect(cut).to_have_count(0)
    page.keyboard.press("c")
    expect(page.get_by_role("button", name=re.compile(r"^Cue 2m1 Cue 2m1, 02:00:00:00 to 02:00:02:10"))).to_be_visible()
    drop_files(page, [("notes.mp4", "video/mp4", b"no film at all " * 30)])
    expect(page.get_by_role("alert").filter(has_text="This is not a film.")).to_be_visible()
    page.get_by_role("button", name="Put away notes.mp4").click()


def test_two_hours_with_two_thousand_shots_stay_fluid(page: Page, application: Application, tmp_path: Path) -> None:
    rate = FrameRate(25)
    shots = tuple(Shot(k * 90, k * 90 + 90, f"R{k % 40:03d}", k * 90, f"Scene {k}") for k in range(2000))
    hits = tuple(Hit(k * 900 + 7, f"Turn {k}") for k in range(200))
    lines = tuple(Line(k * 150, k * 150 + 60, f"Line number {k}") for k in range(1200))
    (tmp_path / "Feature.edl").write_text(write_edl(Sheet(rate, 180_000, 0, shots, hits)))
    open_spot(page, application)
    page.get_by_role("button", name="Choose a picture").click()
    page.get_by_text("Add a length or an edit list …").click()
    page.set_input_files("[data-adds=list]", tmp_path / "Feature.edl")
    expect(page.get_by_role("button", name="Choose a picture")).to_contain_text("Feature")
    (tmp_path / "Feature.srt").write_text(write_captions(lines, rate, "srt"))
    page.set_input_files("[data-adds=marks]", tmp_path / "Feature.srt")
    expect(table(page).get_by_role("tab", name=re.compile("Lines"))).to_contain_text("1200")
    lanes = page.get_by_role("region", name="Spotting lanes")
    box = lanes.bounding_box()
    assert box
    page.mouse.move(box["x"] + 640, box["y"] + 60)
    page.evaluate(
        """() => { window.gaps = []; let last = performance.now(); const look = (now) => { window.gaps.push(now - last); last = now
        requestAnimationFrame(look) }; requestAnimationFrame(look) }"""
    )
    page.keyboard.down("Control")
    for _ in range(24):
        page.mouse.wheel(0, -120)
    page.keyboard.up("Control")
    for _ in range(40):
        page.mouse.wheel(0, 160)
    expect(lanes.get_by_text(re.compile(r"^Scene \d+$")).first).to_be_visible()
    gaps = sorted(page.evaluate("window.gaps.slice(2)"))
    assert gaps[len(gaps) // 2] < 60, f"screen frames in ms: {gaps[-20:]}"
    page.keyboard.press("a")
    page.keyboard.press("m")
    expect(table(page).get_by_role("tab", name=re.compile("Hits"))).to_contain_text("201")
