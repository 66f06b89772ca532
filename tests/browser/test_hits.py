"""A cue is fitted to the hits in its slot: marked on Spot, met on Fit, compared with other ways, and taken back."""

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Application
from tests.browser.test_slice import choose, report, set_length
from tests.browser.test_spot import go_to, open_spot

HITS = (("0:22.8", "00:00:22:20"), ("0:47.6", "00:00:47:15"))


def to_step(page: Page, name: str) -> None:
    page.get_by_role("link", name=name).click()


def test_hits_are_marked_met_compared_and_taken_back(page: Page, application: Application) -> None:
    choose(page, "First Light")
    set_length(page, "1:12")
    expect(report(page)).to_contain_text("Exactly 1:12.000")
    without = report(page).inner_text()

    rows = page.get_by_role("table", name="Hits").get_by_role("row")
    before = max(0, rows.count() - 1)
    open_spot(page, application)
    for place, arrives in HITS:
        go_to(page, place, arrives)
        page.keyboard.press("m")
        expect(page.get_by_role("button", name=re.compile(rf"^Hit \d+ at {arrives}"))).to_be_visible()
    to_step(page, "Fit")
    hits = page.get_by_role("table", name="Hits")
    expect(rows).to_have_count(before + 3)
    expect(report(page)).to_contain_text(f"All {before + 2} hits are met. Exactly 1:12.000")
    for _, arrives in HITS:
        row = hits.get_by_role("row", name=re.compile(arrives))
        assert re.search(r"on the frame|0\.[0-5] frames (early|late)", row.inner_text()), "within half a frame"
    threads = page.get_by_role("button", name=re.compile(r"^Hit \d+, beat one, should: (on the frame|0\.\d frames)"))
    expect(threads).to_have_count(2)
    for _ in range(before + 1):
        page.keyboard.press("ArrowDown")
        if page.get_by_label("Position", exact=True).inner_text() == HITS[0][1]:
            break
    expect(page.get_by_label("Position", exact=True)).to_have_text(HITS[0][1])

    page.keyboard.press("w")
    ways = page.get_by_role("table", name="Ways to fit")
    blend = ways.get_by_role("row", name=re.compile("^Blend"))
    expect(blend).to_contain_text(f"{before + 2} of {before + 2}")
    expect(ways.get_by_role("button", name="Blend")).to_have_attribute("aria-pressed", "true")
    give = page.get_by_label("Most change of speed, 0 to 20 %")
    give.fill("much")
    give.press("Enter")
    expect(page.get_by_text("“much” is no number")).to_be_visible()
    give.fill("2.5")
    with page.expect_response(lambda answer: answer.url.endswith("/ways")):  # they may be ranked anew, and buttons move
        give.press("Enter")
    expect(ways).to_have_attribute("aria-busy", "false")
    expect(blend).to_contain_text(re.compile(r"its own|[0-2]\.\d % (faster|slower)"))
    ways.get_by_role("button", name="Trim").click()
    expect(ways.get_by_role("button", name="Trim")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("w")
    expect(report(page)).to_contain_text("No seam, at its own speed throughout")
    expect(report(page)).to_contain_text(f"of {before + 2} hits met")

    for _ in range(4):  # the method, the give, and both hits
        page.keyboard.press("Control+z")
    expect(rows).to_have_count(before + 1 if before else 0)
    expect(report(page)).to_have_text(re.compile(re.escape(without.split("Exactly")[0].strip())))
