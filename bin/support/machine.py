"""What a fresh Debian 12 machine lacks, and how it is put there. Only the standard library: nothing
is installed yet when this runs.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

REPO = Path(__file__).resolve().parent.parent.parent
VENV = REPO / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = REPO / "web"


class Stop(SystemExit):
    """End with one clear message and nothing half-done."""

    def __init__(self, message: str) -> None:
        print(f"\n{message}", file=sys.stderr)
        super().__init__(3)


def say(words: str) -> None:
    print(words, flush=True)


def _have_python_headers() -> bool:
    import sysconfig

    return (Path(sysconfig.get_paths()["include"]) / "Python.h").exists()


def _have_venv() -> bool:
    try:
        import ensurepip  # noqa: F401
        import venv  # noqa: F401
    except ImportError:
        return False
    return True


def _found(name: str) -> bool:
    return (
        shutil.which(name, path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/bin:/sbin")
        is not None
    )


def missing_packages(testing: bool) -> list[str]:
    """Debian packages that are needed and not there. All of them are plain programs: none starts a
    system service.
    """
    version = f"{sys.version_info.major}.{sys.version_info.minor}"
    own = Path(sys.executable).resolve().as_posix().startswith("/usr/bin/")
    needs = [
        (_found("mariadbd") and _found("mariadb-install-db"), "mariadb-server-core"),
        (_found("mariadb"), "mariadb-client-core"),
        (_found("redis-check-rdb"), "redis-tools"),
        (_found("gcc"), "gcc"),
        (_found("pkg-config"), "pkg-config"),
        (Path("/usr/include/mariadb/mysql.h").exists(), "libmariadb-dev"),
        (_have_python_headers(), f"python{version}-dev" if own else "python3-dev"),
        (_have_venv(), f"python{version}-venv" if own else "python3-venv"),
        (Path("/etc/ssl/certs/ca-certificates.crt").exists(), "ca-certificates"),
    ]
    if testing:
        needs.append((_found("chromium"), "chromium"))
    return [package for there, package in needs if not there]


def install_packages(testing: bool) -> None:
    packages = missing_packages(testing)
    if not packages:
        return
    command = ["apt-get", "install", "-y", "--no-install-recommends", *packages]
    plain = f"sudo apt-get update && sudo apt-get install -y --no-install-recommends {' '.join(packages)}"
    if os.geteuid() == 0:
        prefix: list[str] = []
    elif (
        shutil.which("sudo")
        and subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode == 0
    ):
        prefix = ["sudo", "-n"]
    else:
        raise Stop(
            f"These Debian packages are needed and missing. Install them, then start again:\n\n    {plain}\n"
        )
    if not shutil.which("apt-get"):
        raise Stop(
            f"This machine lacks {', '.join(packages)} and has no apt-get to install them with."
        )
    say(f"Installing {', '.join(packages)} …")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for step in (["apt-get", "update"], command):
        done = subprocess.run([*prefix, *step], env=environment, capture_output=True, text=True)
        if done.returncode:
            raise Stop(
                f"{' '.join(step)} failed:\n{done.stdout[-1500:]}{done.stderr[-1500:]}\nInstall by hand, then start again:\n\n    {plain}\n"
            )


def check_owner() -> None:
    """Files that another user left (an earlier run as root) would fail half-way; say so first."""
    if os.geteuid() == 0:
        return
    for path in (VENV, REPO / ".run", REPO / ".run-test", WEB / "node_modules", WEB / "dist"):
        if path.exists() and path.stat().st_uid != os.geteuid():
            raise Stop(
                f"{path.relative_to(REPO)} belongs to another user, most likely from an earlier run as root. Remove it (as that user) or give it to "
                f"yourself, then start again:\n\n    sudo chown -R {os.geteuid()} {str(path)!r}\n"
            )
    if not os.access(REPO, os.W_OK):
        raise Stop(
            "This folder cannot be written to by you; clone the project into one of your own."
        )


def digest(*paths: Path) -> str:
    """Hash of files and folders, by names and contents."""
    sha = hashlib.sha256()
    for path in paths:
        files = [path] if path.is_file() else sorted(p for p in path.rglob("*") if p.is_file())
        for file in files:
            sha.update(
                file.relative_to(REPO).as_posix().encode() + b"\0" + file.read_bytes() + b"\0"
            )
    return sha.hexdigest()


def run(
    command: list[str], what: str, cwd: Path = REPO, environment: dict[str, str] | None = None
) -> None:
    """Run quietly; on failure show the end of what it printed and stop."""
    done = subprocess.run(
        command,
        cwd=cwd,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
        errors="replace",
    )
    if done.returncode:
        raise Stop(f"{what} failed:\n{done.stdout[-4000:]}")


def python_environment(testing: bool) -> None:
    """The venv with everything locked. A lock that includes the tests' needs serves the app too."""
    stamp = VENV / ".installed"
    wanted = {
        name: digest(REPO / "requirements" / f"{name}.txt", REPO / "core" / "pyproject.toml")
        + digest(REPO / "client" / "pyproject.toml")
        + f" {REPO}"
        for name in ("app", "dev")
    }
    have = stamp.read_text() if stamp.exists() else ""
    if PYTHON.exists() and (have == wanted["dev"] or (have == wanted["app"] and not testing)):
        return
    start = time.monotonic()
    say("Installing the Python packages …")
    if not PYTHON.exists() or not _runs(PYTHON):
        if VENV.exists():
            shutil.rmtree(VENV)
        run([sys.executable, "-m", "venv", str(VENV)], "Making the virtual environment")
    lock = REPO / "requirements" / ("dev.txt" if testing else "app.txt")
    pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    run([*pip, "--require-hashes", "-r", str(lock)], "Installing the Python packages")
    for part in ("core", "client"):
        run(
            [*pip, "--no-deps", "--no-build-isolation", "-e", str(REPO / part)],
            f"Installing the {part}",
        )
    stamp.write_text(wanted["dev" if testing else "app"])
    say(f"  done in {time.monotonic() - start:.0f} s")


def _runs(python: Path) -> bool:
    return (
        subprocess.run(
            [str(python), "-c", "import sys; sys.exit(sys.version_info[:2] < (3, 11))"],
            capture_output=True,
        ).returncode
        == 0
    )


def node_environment() -> dict[str, str]:
    """Node and npm from the venv, whatever else the machine has."""
    return {**os.environ, "PATH": f"{VENV / 'bin'}:{os.environ.get('PATH', '')}"}


def web_packages() -> None:
    stamp = WEB / "node_modules" / ".installed"
    wanted = digest(WEB / "package.json", WEB / "package-lock.json")
    if stamp.exists() and stamp.read_text() == wanted:
        return
    start = time.monotonic()
    say("Installing the web's packages …")
    run(
        [str(VENV / "bin" / "npm"), "ci", "--no-fund", "--no-audit", "--loglevel=error"],
        "Installing the web's packages",
        WEB,
        node_environment(),
    )
    stamp.write_text(wanted)
    say(f"  done in {time.monotonic() - start:.0f} s")


def build_web() -> None:
    stamp = WEB / "dist" / ".built"
    wanted = digest(
        WEB / "src",
        WEB / "index.html",
        WEB / "vite.config.ts",
        WEB / "tsconfig.json",
        WEB / "package-lock.json",
    )
    if stamp.exists() and stamp.read_text() == wanted:
        return
    web_packages()
    start = time.monotonic()
    say("Building the web …")
    run(
        [str(VENV / "bin" / "npm"), "run", "--silent", "build"],
        "Building the web",
        WEB,
        node_environment(),
    )
    stamp.write_text(wanted)
    say(f"  done in {time.monotonic() - start:.0f} s")


def prepare(testing: bool = False) -> None:
    """Everything that must be there before anything is started."""
    if sys.version_info < (3, 11):
        raise Stop(f"Python 3.11 or later is needed; this is {sys.version.split()[0]}.")
    check_owner()
    install_packages(testing)
    python_environment(testing)
    build_web()
