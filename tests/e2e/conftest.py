"""Real server, real workers, real browser; `bin/test` starts them and says where they are."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from playwright.sync_api import expect

BASE = os.environ.get("ZWEIBLICK_BASE", "")
AXE = Path(__file__).parent.parent.parent / "web" / "node_modules" / "axe-core" / "axe.min.js"

# A machine with one slow core is no flaw of the app; what never comes still fails.
expect.set_options(timeout=30_000)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {
        "executable_path": "/usr/bin/chromium",
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
        ],
    }


@pytest.fixture
def browser_context_args(browser_context_args):
    return {
        **browser_context_args,
        "viewport": {"width": 1280, "height": 800},
        "base_url": BASE,
        "locale": "en-GB",
    }


#: Cookies of whoever has signed in before: the form is tested by itself, and takes seconds.
_cookies: dict[str, list] = {}


@pytest.fixture
def signed_in(page):
    """Somebody who is signed in, by the form the first time; fails on any error in the page's console."""
    troubles = []
    page.on("pageerror", lambda error: troubles.append(str(error)))

    def make(name="vera"):
        page.context.add_cookies(_cookies.get(name, []))
        page.goto("/")
        form = page.get_by_label("password")
        expect(form.or_(page.get_by_role("navigation")).first).to_be_visible()
        if form.is_visible():
            page.get_by_label("name").fill(name)
            form.fill(os.environ["ZWEIBLICK_DEMO_PASSWORD"])
            page.get_by_role("button", name="sign in").click()
            expect(page.get_by_role("navigation").first).to_be_visible()
            _cookies[name] = page.context.cookies()
        return page

    yield make
    assert troubles == []


@pytest.fixture
def no_barriers(page):
    """WCAG 2.2 AA by axe, no exception."""

    def look():
        page.evaluate(AXE.read_text())
        found = page.evaluate(
            "async () => (await axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']})).violations"
        )
        assert [
            (one["id"], one["help"], [node["target"] for node in one["nodes"]][:3]) for one in found
        ] == []

    return look
