"""`zweiblick bring FOLDER --job NAME [--watch]`."""

from __future__ import annotations

import argparse
import os
import sys
import time
from pathlib import Path
from typing import Any

from zweiblick_core.errors import Refused

from .api import Server, Unreachable
from .bringing import Bringing


def add(verbs: Any) -> None:
    """Add the verb to the command `zweiblick`."""
    one = verbs.add_parser("bring", help="bring what a folder holds into a job")
    one.add_argument("folder", metavar="FOLDER")
    one.add_argument("--job", required=True, help="its name or number")
    one.add_argument(
        "--server",
        default=os.environ.get("ZWEIBLICK_SERVER", "http://127.0.0.1:8460"),
        help="the house's address; else what ZWEIBLICK_SERVER says",
    )
    one.add_argument(
        "--token", metavar="FILE", help="a file with your token; else what ZWEIBLICK_TOKEN says"
    )
    one.add_argument("--watch", action="store_true", help="go on with what comes into the folder")
    one.add_argument(
        "--every", type=float, default=5.0, metavar="SECONDS", help="how often it is looked at"
    )
    one.set_defaults(run=run)


def _token(file: str | None) -> str:
    if file:
        try:
            return Path(file).read_text("utf-8").strip()
        except OSError as error:
            raise Refused(f"{file}: cannot be read ({error.strerror or error})") from error
    found = os.environ.get("ZWEIBLICK_TOKEN", "").strip()
    if not found:
        raise Refused("give your token: --token FILE, or ZWEIBLICK_TOKEN")
    return found


def _job(server: Server, wanted: str) -> int:
    jobs = [one for one in server.jobs() if one["role"] == "supervisor"]
    found = [one for one in jobs if wanted in (one["name"], str(one["id"]))]
    if len(found) != 1:
        names = ", ".join(f"{one['name']} ({one['id']})" for one in jobs) or "none"
        raise Refused(f"“{wanted}” names {len(found)} of your jobs; there are: {names}")
    return int(found[0]["id"])


def say(words: str) -> None:
    """One line, at once."""
    print(words, flush=True)


def run(given: argparse.Namespace) -> int:
    """Exit status: 0 all of it was taken, 1 some was not, 2 it could not begin."""
    folder = Path(given.folder)
    try:
        if not folder.is_dir():
            raise Refused(f"{given.folder}: is no folder")
        server = Server(given.server, _token(given.token))
        bringing = Bringing(server, _job(server, given.job), folder, say)
    except (Refused, Unreachable) as error:
        print(f"zweiblick: {error}", file=sys.stderr)
        return 2
    if given.watch:
        return _watch(bringing, given.every)
    try:
        brought = bringing.round(settled=True)
    except Unreachable as error:
        print(f"zweiblick: {error}; run it again to go on", file=sys.stderr)
        return 1
    for words in brought.waiting:
        say(words)
    return 1 if brought.refused else 0


def _watch(bringing: Bringing, every: float) -> int:
    say("watching; Ctrl-C ends it")
    said: list[str] = []
    while True:
        try:
            brought = bringing.round()
            if brought.waiting != said:
                said = brought.waiting
                for words in said:
                    say(words)
        except Unreachable as error:
            say(f"{error}; trying again")
        except Refused as error:
            print(f"zweiblick: {error}", file=sys.stderr)
            return 2
        except KeyboardInterrupt:
            return 0
        try:
            time.sleep(every)
        except KeyboardInterrupt:
            return 0
