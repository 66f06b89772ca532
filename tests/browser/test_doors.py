"""A page of another site, in the same browser: it gets nothing, and changes nothing."""

import http.server
import threading
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import Application
from tests.browser.waiting import until

_ATTACK = """<!doctype html><title>other</title><iframe id="frame" src="{app}/fit"></iframe><iframe name="sink"></iframe>
<form id="form" method="post" action="{app}/api/productions/1/undo" target="sink" enctype="text/plain"></form><script>
window.got = []
const note = (what) => (r) => r.text().then((t) => window.got.push([what, r.type, t.length]), () => 0)
const lost = (what) => () => window.got.push([what, 'refused', 0])
const go = (what, path, init) => fetch('{app}' + path, init).then(note(what), lost(what))
go('read', '/api/productions/1')
go('blind', '/api/productions/1/undo', {{ method: 'POST', mode: 'no-cors' }})
go('simple', '/api/productions/1/tracks?file_name=x.html', {{ method: 'POST', mode: 'no-cors', body: 'RIFF' }})
go('json', '/api/cues/1', {{ method: 'PATCH', headers: {{ 'content-type': 'application/json' }}, body: '{{"length":"5"}}' }})
document.getElementById('form').submit()
const events = new EventSource('{app}/api/events')
events.onerror = () => window.got.push(['events', 'refused', 0])
</script>"""


@pytest.fixture
def other_site(application: Application) -> Iterator[str]:
    page = _ATTACK.format(app=application.url).encode()

    class Site(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(page)

        def log_message(self, *_: object) -> None:
            pass

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Site)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{server.server_port}/"
    server.shutdown()


def test_a_page_of_another_site_gets_nothing_and_changes_nothing(
    page: Page, browser: Browser, application: Application, other_site: str
) -> None:
    field = page.get_by_label("Length", exact=True)
    field.fill("0:50")
    field.press("Enter")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Undo setting the length to 0:50.000 (Ctrl Z)")
    tracks = page.request.get(f"{application.url}/api/productions/1/tracks").json()
    context = browser.new_context()
    theirs = context.new_page()
    answers: list[tuple[str, int]] = []
    theirs.on("response", lambda r: answers.append((r.url, r.status)) if r.url.startswith(application.url) else None)
    theirs.goto(other_site)
    until(theirs, "window.got.length >= 5")
    assert all(kind in ("refused", "opaque") and size == 0 for _, kind, size in theirs.evaluate("window.got"))
    assert answers
    assert {status for _, status in answers} <= {403, 405}
    assert theirs.frame_locator("#frame").locator("#app").count() == 0
    context.close()
    production = page.request.get(f"{application.url}/api/productions/1").json()
    assert production["history"]["undo"] == "setting the length to 0:50.000"
    assert len(page.request.get(f"{application.url}/api/productions/1/tracks").json()) == len(tracks)
    page.keyboard.press("Control+z")
    expect(field).not_to_have_value("0:50.000")
