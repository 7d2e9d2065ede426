"""A house as `bin/demo --empty` leaves it, of its own, and a person who uses nothing but the keyboard."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest
from album import Album
from hands import PASSWORD, Hands
from playwright.sync_api import expect

REPO = Path(__file__).parent.parent.parent
sys.path.insert(0, str(REPO / "bin" / "support"))
from services import House, ended_by_signals  # noqa: E402

# A machine with one slow core is no flaw of the app; what never comes still fails.
expect.set_options(timeout=30_000)


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {
        "executable_path": "/usr/bin/chromium",
        "args": ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-dev-shm-usage"],
        # The album shows what a person sees.
        "ignore_default_args": ["--hide-scrollbars"],
    }


@pytest.fixture
def album():
    """Takes a picture of each step. They become one sheet where ZWEIBLICK_ALBUM says."""
    kept = Album()
    yield kept
    if place := os.environ.get("ZWEIBLICK_ALBUM"):
        kept.write(REPO / place)


@pytest.fixture(scope="session")
def base():
    """The address of an empty house with one supervisor, "supervisor"."""
    # Whoever ends the tests ends the house too.
    ended_by_signals()
    house = House(".run-empty")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk", "removal"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.manage("reset_database")
        house.prepare_database()
        name = ("--name", "Supervisor")
        house.manage("add_person", "supervisor", *name, "--password", PASSWORD, "--makes-jobs")
        house.start_desk()
        house.start_removal(pace=0.2)
        house.start_workers()
        house.start_web(ZWEIBLICK_SIGN_IN_RATE="1000/min")
        yield f"http://127.0.0.1:{house.ports['web']}"
    finally:
        house.end()


@pytest.fixture
def at(browser, base):
    """Somebody's own browser, at an address of the house."""
    opened, troubles = [], []

    def come(path="/"):
        context = browser.new_context(
            viewport={"width": 1280, "height": 800}, base_url=base, locale="en-GB"
        )
        page = context.new_page()
        page.on("pageerror", lambda error: troubles.append(str(error)))
        page.goto(path)
        opened.append(context)
        return Hands(page)

    yield come
    for context in opened:
        context.close()
    assert troubles == []
