"""`bin/test`: installs what is missing, then lint, types, core, server, web, browser."""

from __future__ import annotations

import argparse
import subprocess
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
from machine import PYTHON, REPO, VENV, WEB, node_environment, prepare, say, web_packages  # noqa: E402
from services import House, ended_by_signals  # noqa: E402

from demo import PASSWORD  # noqa: E402

PARTS = ("lint", "core", "web", "server", "browser")


def step(
    words: str, command: list[str], cwd: Path = REPO, environment: dict[str, str] | None = None
) -> bool:
    say(f"\n== {words}")
    start = time.monotonic()
    good = subprocess.run(command, cwd=cwd, env=environment).returncode == 0
    say(f"== {words}: {'passed' if good else 'FAILED'} in {time.monotonic() - start:.0f} s")
    return good


def main() -> None:
    parser = argparse.ArgumentParser(
        prog="bin/test", description="Installs what is missing and runs every check and test."
    )
    parser.add_argument("--only", choices=PARTS, action="append", help="only these parts")
    given = parser.parse_args()
    parts = given.only or PARTS
    ended_by_signals()
    start = time.monotonic()
    prepare(testing=True)
    web_packages()
    python, npm, node = str(PYTHON), str(VENV / "bin" / "npm"), node_environment()
    results = []
    if "lint" in parts:
        results += [
            step("lint", [python, "-m", "ruff", "check", "."]),
            step("types", [python, "-m", "mypy"]),
            step("web lint", [npm, "run", "--silent", "lint"], WEB, node),
            step("web types", [npm, "run", "--silent", "types"], WEB, node),
        ]
    if "core" in parts:
        # Nothing but computation: one process a core.
        results.append(
            step(
                "core",
                [
                    python,
                    "-m",
                    "pytest",
                    "-p",
                    "no:django",
                    "-n",
                    "auto",
                    "--dist",
                    "worksteal",
                    "-W",
                    "error::RuntimeWarning",
                    "tests/core",
                ],
            )
        )
    if "web" in parts:
        results.append(step("web units", [npm, "run", "--silent", "test"], WEB, node))
    if {"server", "browser"} & set(parts):
        results += _with_services(set(parts), python)
    good = all(results)
    say(
        f"\n{'Everything passed' if good else 'Something FAILED'} after {time.monotonic() - start:.0f} s."
    )
    # Counts of steps, for whoever reads only the last line.
    say(f"{sum(results)} passed, {len(results) - sum(results)} failed")
    sys.exit(0 if good else 1)


def _with_services(parts: set[str], python: str) -> list[bool]:
    house = House(".run-test")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk"))
    results = []
    try:
        house.start_mariadb()
        house.start_redis()
        if "server" in parts:
            results.append(
                step(
                    "migrations are complete",
                    [python, "server/manage.py", "makemigrations", "--check", "--dry-run"],
                    environment=house.environment(),
                )
            )
            results.append(
                step(
                    "server",
                    [python, "-m", "pytest", "tests/server"],
                    environment=house.environment(ZWEIBLICK_SIGN_IN_RATE="1000/min"),
                )
            )
        if "browser" in parts:
            # From an empty database every time: what a test rules must not meet what an earlier run
            # ruled.
            house.manage("reset_database")
            house.prepare_database()
            house.manage("load_demo", "--password", PASSWORD, quiet=False)
            house.start_desk()
            house.start_workers()
            house.start_web(ZWEIBLICK_SIGN_IN_RATE="1000/min")
            environment = house.environment(
                ZWEIBLICK_BASE=f"http://127.0.0.1:{house.ports['web']}",
                ZWEIBLICK_DEMO_PASSWORD=PASSWORD,
            )
            results.append(
                step(
                    "browser",
                    [python, "-m", "pytest", "-p", "no:django", "tests/e2e"],
                    environment=environment,
                )
            )
    finally:
        house.end()
    return results


if __name__ == "__main__":
    main()
