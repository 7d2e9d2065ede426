"""`bin/test`: installs what is missing, then lint, types, core, server, web, browser."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time
from pathlib import Path

sys.path[:0] = [str(Path(__file__).parent), str(Path(__file__).parent.parent.parent)]
from machine import PYTHON, REPO, VENV, WEB, node_environment, prepare, say, web_packages  # noqa: E402
from services import House, ended_by_signals  # noqa: E402

from demo.names import PASSWORD  # noqa: E402

PARTS = ("lint", "core", "web", "server", "browser")
FAST = ("lint", "core", "web", "server")
PYTEST = [str(PYTHON), "-m", "pytest"]
#: One process a core, each with a database of its own.
EACH_CORE = ["-n", "auto", "--dist", "worksteal"]
NPM = str(VENV / "bin" / "npm")


def step(
    words: str, command: list[str], cwd: Path = REPO, environment: dict[str, str] | None = None
) -> bool:
    say(f"\n== {words}")
    start = time.monotonic()
    good = subprocess.run(command, cwd=cwd, env=environment).returncode == 0
    say(f"== {words}: {'passed' if good else 'FAILED'} in {time.monotonic() - start:.0f} s")
    return good


class Given(argparse.Namespace):
    """What was asked for."""

    only: list[str] | None
    fast: bool
    tests: list[str]

    def paths(self, part: str) -> list[str]:
        """Where a part's tests are: those that were named of it, or all."""
        named = [one for one in self.tests if one.startswith(f"tests/{part}")]
        return named or [f"tests/{part}"]

    def names(self, part: str) -> bool:
        """Whether tests of a part were named."""
        return any(one.startswith(f"tests/{part}") for one in self.tests)

    def wants(self, part: str) -> bool:
        """Whether a part's tests run: no test of another part alone was named."""
        return self.names(part) or not any(one.startswith("tests/") for one in self.tests)


def main() -> None:
    parser = argparse.ArgumentParser(
        prog="bin/test",
        description="Installs what is missing and runs every check and test.",
        epilog="One test alone: bin/test --only server -- tests/server/test_work.py -k lease",
    )
    parser.add_argument("--only", choices=PARTS, action="append", help="only these parts")
    parser.add_argument(
        "--fast",
        action="store_true",
        help="lint, types, web units, and the core's and server's tests without the slow ones",
    )
    parser.add_argument("tests", nargs="*", help="after --: a file, or anything else for pytest")
    given = parser.parse_args(namespace=Given())
    parts = given.only or (FAST if given.fast else PARTS)
    chosen = ["-m", "not slow"] if given.fast else []
    chosen += [one for one in given.tests if not one.startswith("tests/")]
    ended_by_signals()
    start = time.monotonic()
    prepare(testing=True)
    web_packages()
    results = []
    if "lint" in parts:
        results += [step(words, command, cwd, env) for words, command, cwd, env in _lint()]
    if "web" in parts:
        results.append(step("web units", [NPM, "run", "--silent", "test"], WEB, node_environment()))
    if "core" in parts:
        # Nothing but computation.
        options = ["-p", "no:django", *EACH_CORE, "-W", "error::RuntimeWarning"]
        results.append(step("core", [*PYTEST, *options, *chosen, *given.paths("core")]))
    if {"server", "browser"} & set(parts):
        results += _with_services(set(parts), chosen, given)
    if "browser" in parts and given.wants("from_empty"):
        # It starts a house of its own, as `bin/demo --empty` does.
        command = [*PYTEST, "-p", "no:django", *chosen, *given.paths("from_empty")]
        results.append(step("browser, from an empty house", command))
    good = all(results)
    say(
        f"\n{'Everything passed' if good else 'Something FAILED'} after {time.monotonic() - start:.0f} s."
    )
    # Counts of steps, for whoever reads only the last line.
    say(f"{sum(results)} passed, {len(results) - sum(results)} failed")
    sys.exit(0 if good else 1)


def _lint() -> list[tuple[str, list[str], Path, dict[str, str] | None]]:
    """What reads the code and runs none of it: (words, command, folder, environment) each."""
    python, node = str(PYTHON), node_environment()
    # Types and the client need the settings, which need no service.
    plain = {
        **os.environ,
        "PYTHONPATH": f"{REPO / 'server'}:{REPO / 'core'}",
        "DJANGO_SETTINGS_MODULE": "config.settings",
        "ZWEIBLICK_SECRET_KEY": "only reads the code",
    }
    web = lambda name: [NPM, "run", "--silent", name]
    return [
        ("lint", [python, "-m", "ruff", "check", "."], REPO, None),
        ("format", [python, "-m", "ruff", "format", "--check", "."], REPO, None),
        ("types", [python, "-m", "mypy"], REPO, plain),
        ("layers", [str(VENV / "bin" / "lint-imports")], REPO, plain),
        ("web lint", web("lint"), WEB, node),
        ("web format", web("format:check"), WEB, node),
        ("web types", web("types"), WEB, node),
        ("the web's client is the described one", web("client:check"), WEB, node),
    ]


def _with_services(parts: set[str], chosen: list[str], given: Given) -> list[bool]:
    python = str(PYTHON)
    house = House(".run-test")
    house.settle_earlier()
    house.choose_ports(("web", "mariadb", "redis", "desk", "removal"))
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
                    [*PYTEST, *EACH_CORE, *chosen, *given.paths("server")],
                    environment=house.environment(ZWEIBLICK_SIGN_IN_RATE="1000/min"),
                )
            )
        if "browser" in parts and given.wants("e2e"):
            # From an empty database every time: what a test rules must not meet what an earlier run
            # ruled.
            house.manage("reset_database")
            house.prepare_database()
            house.manage("load_demo", "--password", PASSWORD, quiet=False)
            house.start_desk()
            house.start_removal(pace=0.2)
            house.start_workers()
            house.start_web(ZWEIBLICK_SIGN_IN_RATE="1000/min")
            environment = house.environment(
                ZWEIBLICK_BASE=f"http://127.0.0.1:{house.ports['web']}",
                ZWEIBLICK_DEMO_PASSWORD=PASSWORD,
            )
            results.append(
                step(
                    "browser",
                    [*PYTEST, "-p", "no:django", *chosen, *given.paths("e2e")],
                    environment=environment,
                )
            )
    finally:
        house.end()
    return results


if __name__ == "__main__":
    main()
