"""`bin/dev`: the same house as `bin/demo`, for working on it. Django reloads itself when a file of
the server or the core changes, Vite serves the web and hands the API on.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent.parent)]
from machine import PYTHON, REPO, VENV, WEB, node_environment, prepare, say, web_packages  # noqa: E402
from services import House, answers, ended_by_signals  # noqa: E402

from demo.names import PASSWORD  # noqa: E402


def main() -> None:
    ended_by_signals()
    start = time.monotonic()
    prepare(testing=True)
    web_packages()
    house = House(".run")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk", "removal", "vite"))
    try:
        house.start_mariadb()
        house.start_redis()
        house.prepare_database()
        house.manage("load_demo", "--password", PASSWORD, quiet=False)
        house.start_desk(pace=3.0, asks=0.25, careless=0.15)
        house.start_removal(pace=1.5)
        house.start_workers()
        web, vite = house.ports["web"], house.ports["vite"]
        # Errors are shown whole, and pages come from Vite, whose origin must be trusted.
        environment = house.environment(
            ZWEIBLICK_DEBUG="1",
            ZWEIBLICK_ORIGINS=f"http://127.0.0.1:{vite},http://localhost:{vite}",
        )
        server = house.start(
            "web",
            [str(PYTHON), "manage.py", "runserver", f"127.0.0.1:{web}"],
            environment,
            REPO / "server",
            again=True,
        )
        house.wait_until(lambda: answers(web), "web", server)
        house.start(
            "vite",
            [str(VENV / "bin" / "npm"), "run", "dev", "--", "--port", str(vite), "--strictPort"],
            {**node_environment(), "ZWEIBLICK_API": f"http://127.0.0.1:{web}"},
            WEB,
            again=True,
        )
        say(f"\nZweiblick runs for development after {time.monotonic() - start:.0f} s.\n")
        say(f"    http://127.0.0.1:{vite}/      sign in as vera, {PASSWORD}")
        say(f"    logs in {house.folder.name}/log; workers read the code when they start\n")
        house.watch()
    finally:
        house.end()


if __name__ == "__main__":
    main()
