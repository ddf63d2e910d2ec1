"""Debian's Chromium, driven headless: for browser tests and for the pictures in the documentation."""

from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, sync_playwright

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


@contextmanager
def page(width: int = 1280, height: int = 800) -> Iterator[Page]:
    """A fresh page; its console errors collect in ``page.complaints``, but for refused input (422), which is meant."""
    with sync_playwright() as player:
        browser = player.chromium.launch(executable_path=PROGRAM, args=list(QUIET))
        opened = browser.new_page(viewport={"width": width, "height": height}, accept_downloads=True)
        opened.complaints = []
        opened.on("pageerror", lambda error: opened.complaints.append(str(error)))
        opened.on(
            "console",
            lambda line: (
                opened.complaints.append(line.text) if line.type == "error" and " 422 " not in line.text else None
            ),
        )
        yield opened
        browser.close()


def sign_in(opened: Page, address: str, name: str, password: str) -> None:
    """Sign in as a person would."""
    opened.goto(address)
    opened.fill("#id_username", name)
    opened.fill("#id_password", password)
    opened.press("#id_password", "Enter")
    opened.wait_for_selector(".counter")
