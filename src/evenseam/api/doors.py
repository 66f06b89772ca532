"""Who may ask: only pages of our own, under a name of our own; and what browsers may do with the answers.

There is no sign-in yet. What keeps other pages out is that a browser says where a request comes from: requests under a
foreign name (a name that was pointed here) and from a foreign page are refused before anything looks at them, and every
answer forbids to be framed, guessed at, or to load anything from elsewhere.
"""

import ipaddress
from collections.abc import Iterable
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from evenseam.api.problems import problem_answer
from evenseam.core.errors import EvenSeamError, SetUpError
from evenseam.settings import Settings
from evenseam.store.history import acting

_OWN_NAMES = frozenset({"localhost", "127.0.0.1", "::1"})
_LONGEST_NAME = 100
_READING = frozenset({"GET", "HEAD", "OPTIONS"})
# Vuetify puts its theme into a style element; scripts come from our files alone.
_PAGE_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "media-src 'self' blob:; font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
_ANSWER_POLICY = "default-src 'none'; frame-ancestors 'none'; sandbox"


class DoorError(EvenSeamError):
    """A request comes from where none may come from."""

    code = "not_from_here"


class Doors:
    """Refuses requests from elsewhere, and says on every answer what browsers may do with it (an ASGI middleware)."""

    def __init__(self, app: ASGIApp, names: Iterable[str], who_header: str | None = None) -> None:
        self._app, self._who_header = app, who_header
        self._names = frozenset(n.lower() for n in names) | _OWN_NAMES

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer or pass on one request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        policy = _ANSWER_POLICY if scope["path"].startswith("/api/") else _PAGE_POLICY

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                _guard(MutableHeaders(scope=message), policy)
            await send(message)

        headers = Headers(scope=scope)
        if self._who_header is not None:
            acting.set(headers.get(self._who_header, "")[:_LONGEST_NAME])
        reason = refusal_of(scope["method"], scope["path"], headers, self._names)
        if reason is not None:
            await problem_answer(DoorError(reason))(scope, receive, guarded)
            return
        await self._app(scope, receive, guarded)


def refusal_of(method: str, path: str, headers: Headers, names: frozenset[str]) -> str | None:
    """Why a request is not answered; None when it is.

    A page of another site may lead here by a link, but its scripts, forms and frames get nothing. Programs that are no
    browser say nothing of where they come from, and are answered.
    """
    host = headers.get("host", "")
    if _name_of(host) not in names:
        return "The application is not known under this name. Open it under its own address, or add the name to EVENSEAM_NAMES."
    origin, site = headers.get("origin"), headers.get("sec-fetch-site", "none")
    if origin is not None and (urlsplit(origin).netloc.lower() != host.lower() or "://" not in origin):
        return "This request comes from a page of another site. Only pages of the application itself may ask."
    is_link = method in _READING and not path.startswith("/api/") and headers.get("sec-fetch-dest", "document") == "document"
    if site not in ("same-origin", "none") and not is_link:
        return "This request comes from a page of another site. Only pages of the application itself may ask."
    return None


def check_address(settings: Settings) -> None:
    """Raises: SetUpError for an address that others reach, unless somebody is said to ask who is there."""
    if settings.behind_proxy or _is_loopback(settings.host):
        return
    raise SetUpError(
        f"There is no sign-in yet, so {settings.host} would let anybody in who reaches it. Listen on 127.0.0.1, or set "
        "EVENSEAM_BEHIND_PROXY=1 if a proxy in front of it asks who is there."
    )


def names_of(settings: Settings) -> list[str]:
    """The names under which the application is asked for."""
    return [settings.host, *(n.strip() for n in settings.names.split(",") if n.strip())]


def _name_of(host: str) -> str:
    """The name in a Host header, without its port."""
    return (urlsplit(f"//{host}").hostname or "").lower() if host.isascii() and " " not in host else ""


def _is_loopback(host: str) -> bool:
    try:
        return host == "localhost" or ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False


def _guard(headers: MutableHeaders, policy: str) -> None:
    headers["Content-Security-Policy"] = policy
    headers["X-Content-Type-Options"] = "nosniff"
    headers["Cross-Origin-Resource-Policy"] = "same-origin"
    headers["Cross-Origin-Opener-Policy"] = "same-origin"
    headers["Referrer-Policy"] = "no-referrer"
