"""Debian's Chromium, driven headless: for browser tests and for the pictures in the documentation."""

import atexit
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

from playwright.sync_api import Browser, Page, sync_playwright

PROGRAM = "/usr/bin/chromium"
QUIET = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)


@cache
def _browser() -> Browser:
    """One for the process: starting it takes longer than most tests do."""
    player = sync_playwright().start()
    started = player.chromium.launch(executable_path=PROGRAM, args=list(QUIET))
    atexit.register(player.stop)
    atexit.register(started.close)
    return started


@contextmanager
def page(width: int = 1280, height: int = 800) -> Iterator[Page]:
    """A fresh page without cookies; its console errors collect in ``page.complaints``, but for refused input (422)."""
    context = _browser().new_context(viewport={"width": width, "height": height}, accept_downloads=True)
    opened = context.new_page()
    opened.complaints = []
    opened.on("pageerror", lambda error: opened.complaints.append(str(error)))
    opened.on(
        "console",
        lambda line: opened.complaints.append(line.text) if line.type == "error" and " 422 " not in line.text else None,
    )
    try:
        yield opened
    finally:
        context.close()


def sign_in(opened: Page, address: str, name: str, password: str) -> None:
    """Sign in as a person would."""
    opened.goto(address)
    opened.fill("#id_username", name)
    opened.fill("#id_password", password)
    opened.press("#id_password", "Enter")
    opened.wait_for_selector(".counter")
