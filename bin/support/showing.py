"""`bin/demo`: from a fresh Debian 12 machine to the demo in the browser."""

from __future__ import annotations

import argparse
import secrets
import sys
import time
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent.parent)]
from machine import prepare, say  # noqa: E402
from services import House, ended_by_signals  # noqa: E402

from demo.names import PASSWORD, PICTURES  # noqa: E402


def main() -> None:
    parser = argparse.ArgumentParser(
        prog="bin/demo",
        description="Installs what is missing and starts Zweiblick with its demo on loopback. Ctrl-C ends it.",
    )
    parser.add_argument(
        "--empty",
        action="store_true",
        help="start without the demo's job; one supervisor is made and printed",
    )
    parser.add_argument(
        "--picture",
        action="append",
        choices=PICTURES,
        metavar="NAME",
        help=f"only this picture of the demo ({', '.join(PICTURES)}); may be given again",
    )
    given = parser.parse_args()
    ended_by_signals()
    start = time.monotonic()
    prepare()
    house = House(".run")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk", "removal"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.prepare_database()
        logins = []
        if given.empty:
            password = house.secrets.setdefault("supervisor", secrets.token_urlsafe(9))
            house.keep("secrets.json", house.secrets)
            house.manage(
                "add_person",
                "supervisor",
                "--name",
                "Supervisor",
                "--password",
                password,
                "--makes-jobs",
            )
            logins.append(("supervisor", password, "supervisor"))
        else:
            say("Loading the demo …")
            only = [f"--picture={name}" for name in given.picture or []]
            house.manage("load_demo", "--password", PASSWORD, *only, quiet=False)
            logins = [
                ("vera", PASSWORD, "supervisor"),
                ("ines", PASSWORD, "supervisor: a second pair of eyes"),
                ("mona", PASSWORD, "retoucher"),
                ("archive", PASSWORD, "guest: the client's eye"),
            ]
        house.start_desk(pace=3.0, asks=0.25, careless=0.15)
        house.start_removal(pace=1.5)
        house.start_workers()
        house.start_web()
        say(f"\nZweiblick runs after {time.monotonic() - start:.0f} s. Ctrl-C ends it.\n")
        say(f"    http://127.0.0.1:{house.ports['web']}/\n")
        for name, password, role in logins:
            say(f"    {name:12} {password:16} {role}")
        say("")
        house.watch()
    finally:
        house.end()


if __name__ == "__main__":
    main()
