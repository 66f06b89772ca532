"""Waiting for what only a script can see. The page forbids to evaluate words, so it is asked again and again from outside."""

import time
from typing import Any

from playwright.sync_api import Page

LOOK_EVERY_MS = 50


def until(page: Page, script: str, arg: Any = None, timeout: float = 180_000) -> None:
    """Wait until a script of the page gives something true; `timeout` in ms."""
    deadline = time.monotonic() + timeout / 1000
    while not page.evaluate(script, arg):
        assert time.monotonic() < deadline, f"not within {timeout / 1000:.0f} s: {script}"
        page.wait_for_timeout(LOOK_EVERY_MS)
