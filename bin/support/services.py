"""The services of one house (the demo's or the tests'): MariaDB and Redis on loopback, in a folder
of the project's own.

A small supervisor starts them, watches them, and ends what it started and nothing else.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from types import FrameType

from machine import PYTHON, REPO, Stop, say

#: Where the search for a free port begins, and the variable that sets one explicitly.
PORTS = {
    "web": (8460, "ZWEIBLICK_PORT"),
    "mariadb": (13460, "ZWEIBLICK_MARIADB_PORT"),
    "redis": (16460, "ZWEIBLICK_REDIS_PORT"),
    "desk": (18460, "ZWEIBLICK_DESK_PORT"),
    "removal": (19460, "ZWEIBLICK_REMOVAL_PORT"),
    "vite": (15460, "ZWEIBLICK_VITE_PORT"),
}


def _program(name: str) -> str:
    found = shutil.which(name, path=os.environ.get("PATH", "") + ":/usr/sbin:/usr/bin:/sbin")
    if not found:
        raise Stop(f"{name} is not on this machine.")
    return found


def _free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def _alive(pid: int) -> bool:
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except OSError:
        return False


def _command_line(pid: int) -> str:
    try:
        return (
            Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        )
    except OSError:
        return ""


def started_at(pid: int) -> str:
    """When a process started, in the kernel's ticks: with the pid it names a process for certain."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[19]
    except (OSError, IndexError):
        return ""


class House:
    """One set of services in one folder.

    Attributes:
        folder: data, logs, secrets; runtime: short folder for sockets (their paths may have 107
            bytes at most).
    """

    def __init__(self, folder: str) -> None:
        self.folder = REPO / folder
        self.folder.mkdir(mode=0o700, exist_ok=True)
        (self.folder / "log").mkdir(exist_ok=True)
        name = hashlib.sha256(str(self.folder).encode()).hexdigest()[:10]
        self.runtime = Path("/tmp") / f"zweiblick-{os.geteuid()}-{name}"
        self.runtime.mkdir(mode=0o700, exist_ok=True)
        if self.runtime.stat().st_uid != os.geteuid() or self.runtime.is_symlink():
            raise Stop(f"{self.runtime} belongs to somebody else; it cannot be used for sockets.")
        self.processes: list[
            tuple[str, subprocess.Popen[bytes], Callable[[], subprocess.Popen[bytes]] | None]
        ] = []
        self.ports: dict[str, int] = {}
        self.secrets = self._secrets()
        self._ending = False

    # -- what is remembered between starts

    def _json(self, name: str) -> dict:
        with contextlib.suppress(OSError, ValueError):
            found = json.loads((self.folder / name).read_text())
            if isinstance(found, dict):
                return found
        return {}

    def keep(self, name: str, value: dict) -> None:
        path = self.folder / name
        path.touch(mode=0o600)
        path.write_text(json.dumps(value))

    def _secrets(self) -> dict[str, str]:
        kept = self._json("secrets.json")
        for name in ("root", "app", "django", "desk", "removal"):
            kept.setdefault(name, secrets.token_urlsafe(32))
        self.keep("secrets.json", kept)
        return kept

    def _remember(self) -> None:
        self.keep(
            "processes.json",
            {
                "supervisor": [os.getpid(), started_at(os.getpid())],
                **{
                    name: [process.pid, started_at(process.pid)]
                    for name, process, _ in self.processes
                },
            },
        )

    def settle_earlier(self) -> None:
        """An earlier start that still runs is named; servers that it left behind when it was killed
        are ended.
        """
        for name, (pid, started) in self._json("processes.json").items():
            if not _alive(pid) or started_at(pid) != started or pid == os.getpid():
                continue  # gone, or the number belongs to another process by now
            if name == "supervisor":
                raise Stop(
                    f"This project is already running here (process {pid}). Stop it there with Ctrl-C, or: kill {pid}"
                )
            say(f"An earlier start left its {name} running (process {pid}); ending it.")
            with contextlib.suppress(OSError):
                os.killpg(pid, signal.SIGTERM)
            deadline = time.monotonic() + 15
            while _alive(pid) and time.monotonic() < deadline:
                time.sleep(0.1)
            if _alive(pid):
                with contextlib.suppress(OSError):
                    os.killpg(pid, signal.SIGKILL)

    def choose_ports(self, names: tuple[str, ...]) -> None:
        """The port that was set, else the one of last time if it is free, else the next free one."""
        kept = self._json("ports.json")
        for name in names:
            first, variable = PORTS[name]
            if os.environ.get(variable):
                wanted = os.environ[variable]
                if not wanted.isdigit() or not 0 < int(wanted) < 65536:
                    raise Stop(f"{variable} is {wanted!r}, which is not a port.")
                if not _free(int(wanted)):
                    raise Stop(
                        f"Port {wanted}, set by {variable}, is taken. Free it, or set another."
                    )
                self.ports[name] = int(wanted)
                continue
            candidates = [kept[name]] if isinstance(kept.get(name), int) else []
            candidates += range(first, first + 200)
            self.ports[name] = next(
                (port for port in candidates if port not in self.ports.values() and _free(port)), 0
            )
            if not self.ports[name]:
                raise Stop(f"No free port for {name} between {first} and {first + 200}.")
        self.keep("ports.json", {**kept, **self.ports})

    def still_free(self, name: str) -> int:
        """The port chosen for a service, or another if it was taken since: loading the demo takes
        minutes, and another house may have started meanwhile.
        """
        if not _free(self.ports[name]):
            self.choose_ports((name,))
        return self.ports[name]

    # -- processes

    def environment(self, **more: str) -> dict[str, str]:
        """What the server's processes are told."""
        return {
            **os.environ,
            "PYTHONPATH": str(REPO / "server"),
            "DJANGO_SETTINGS_MODULE": "config.settings",
            "ZWEIBLICK_SECRET_KEY": self.secrets["django"],
            "ZWEIBLICK_DB_PORT": str(self.ports.get("mariadb", 0)),
            "ZWEIBLICK_DB_PASSWORD": self.secrets["app"],
            "ZWEIBLICK_STORE": str(self.folder / "store"),
            "ZWEIBLICK_BROKER_URL": f"redis://127.0.0.1:{self.ports.get('redis', 0)}/0",
            "OPENBLAS_NUM_THREADS": "1",
            "PYTHONUNBUFFERED": "1",
            **(
                {
                    "ZWEIBLICK_DESK_URL": f"http://127.0.0.1:{self.ports['desk']}",
                    "ZWEIBLICK_DESK_KEY": self.secrets["desk"],
                }
                if "desk" in self.ports
                else {}
            ),
            **(
                {
                    "ZWEIBLICK_REMOVAL_URL": f"http://127.0.0.1:{self.ports['removal']}",
                    "ZWEIBLICK_REMOVAL_KEY": self.secrets["removal"],
                }
                if "removal" in self.ports
                else {}
            ),
            **more,
        }

    def start(
        self,
        name: str,
        command: list[str],
        environment: dict[str, str] | None = None,
        cwd: Path = REPO,
        again: bool = False,
    ) -> subprocess.Popen[bytes]:
        """Start in a process group of its own, its output in the log folder. `again`: start it anew
        if it dies by itself.
        """

        def begin() -> subprocess.Popen[bytes]:
            with (self.folder / "log" / f"{name}.log").open("ab") as log:
                return subprocess.Popen(
                    command,
                    cwd=cwd,
                    env=environment,
                    stdin=subprocess.DEVNULL,
                    stdout=log,
                    stderr=log,
                    start_new_session=True,
                )

        process = begin()
        self.processes.append((name, process, begin if again else None))
        self._remember()
        return process

    def log_end(self, name: str) -> str:
        with contextlib.suppress(OSError):
            return (self.folder / "log" / f"{name}.log").read_text(errors="replace")[-2500:]
        return ""

    def wait_until(
        self,
        ready: Callable[[], bool],
        name: str,
        process: subprocess.Popen[bytes],
        seconds: float = 60,
    ) -> None:
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            if process.poll() is not None:
                raise Stop(f"{name} did not start:\n{self.log_end(name)}")
            if ready():
                return
            time.sleep(0.1)
        raise Stop(f"{name} did not answer within {seconds:.0f} s:\n{self.log_end(name)}")

    def end(self) -> None:
        """End everything this house started, newest first."""
        self._ending = True
        for _, process, _ in reversed(self.processes):
            if process.poll() is None:
                with contextlib.suppress(OSError):
                    os.killpg(process.pid, signal.SIGTERM)
                try:
                    process.wait(timeout=20)
                except subprocess.TimeoutExpired:
                    with contextlib.suppress(OSError):
                        os.killpg(process.pid, signal.SIGKILL)
                    process.wait(timeout=10)
            # Children that outlived their parent are in its group still.
            with contextlib.suppress(OSError):
                os.killpg(process.pid, signal.SIGKILL)
        self.processes = []
        with contextlib.suppress(OSError):
            (self.folder / "processes.json").unlink()
        shutil.rmtree(self.runtime, ignore_errors=True)

    def watch(self) -> None:
        """Until a signal comes. What may be started again is, a few times; anything else that dies
        ends the house.
        """
        restarts: dict[str, int] = {}
        while True:
            time.sleep(0.5)
            for number, (name, process, begin) in enumerate(self.processes):
                if process.poll() is None:
                    continue
                restarts[name] = restarts.get(name, 0) + 1
                if begin is None or restarts[name] > 20:
                    raise Stop(
                        f"{name} ended by itself (code {process.returncode}):\n{self.log_end(name)}"
                    )
                say(f"{name} ended by itself (code {process.returncode}); starting it again.")
                self.processes[number] = (name, begin(), begin)
                self._remember()

    # -- MariaDB and Redis

    def start_mariadb(self) -> None:
        data = self.folder / "mariadb"
        # The installer is a shell script that stumbles over spaces; it is given a short path
        # without any.
        short = self.runtime / "data"
        if not short.is_symlink():
            short.symlink_to(data)
        user = ["--user=root"] if os.geteuid() == 0 else []
        if not (data / "mysql").is_dir():
            if data.exists():
                shutil.rmtree(data)
            data.mkdir(mode=0o700)
            done = subprocess.run(
                [
                    _program("mariadb-install-db"),
                    "--no-defaults",
                    *user,
                    f"--datadir={short}",
                    "--auth-root-authentication-method=normal",
                    "--skip-test-db",
                ],
                capture_output=True,
                text=True,
            )
            if done.returncode:
                shutil.rmtree(data, ignore_errors=True)
                raise Stop(
                    f"The database could not be made:\n{done.stdout[-1500:]}{done.stderr[-1500:]}"
                )
        sock = self.runtime / "db.sock"
        process = self.start(
            "mariadb",
            [
                _program("mariadbd"),
                "--no-defaults",
                *user,
                f"--datadir={short}",
                f"--socket={sock}",
                f"--pid-file={self.runtime / 'db.pid'}",
                f"--port={self.ports['mariadb']}",
                "--bind-address=127.0.0.1",
                "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci",
                "--skip-name-resolve",
                "--innodb-flush-log-at-trx-commit=1",
                "--max-connections=120",
            ],
        )
        self.wait_until(
            lambda: self._sql("SELECT 1") or self._sql("SELECT 1", fresh=True), "mariadb", process
        )
        if self._sql("SELECT 1", fresh=True):
            app, root = self.secrets["app"], self.secrets["root"]
            statements = [
                "CREATE DATABASE IF NOT EXISTS zweiblick CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
            ]
            for host in ("127.0.0.1", "localhost"):
                statements += [
                    f"CREATE OR REPLACE USER 'zweiblick'@'{host}' IDENTIFIED BY '{app}'",
                    f"GRANT ALL ON zweiblick.* TO 'zweiblick'@'{host}'",
                    f"GRANT ALL ON `test\\_zweiblick%`.* TO 'zweiblick'@'{host}'",
                ]
            statements += [
                "DELETE FROM mysql.global_priv WHERE User='root' AND Host<>'localhost'",
                "DELETE FROM mysql.global_priv WHERE User=''",
                "FLUSH PRIVILEGES",
                f"ALTER USER 'root'@'localhost' IDENTIFIED BY '{root}'",
            ]
            if not self._sql("; ".join(statements), fresh=True):
                raise Stop(f"The database's users could not be made:\n{self._said}")

    _said = ""

    def _sql(self, text: str, fresh: bool = False) -> bool:
        """Run as the database's root; `fresh`: while it has no password yet."""
        environment = {**os.environ, "MYSQL_PWD": "" if fresh else self.secrets["root"]}
        done = subprocess.run(
            [
                _program("mariadb"),
                "--no-defaults",
                f"--socket={self.runtime / 'db.sock'}",
                "--user=root",
                "-e",
                text,
            ],
            env=environment,
            capture_output=True,
            text=True,
        )
        self._said = done.stderr
        return done.returncode == 0

    def start_redis(self) -> None:
        # Debian's redis-tools holds the server under another name: called through a link with this
        # name, it is the server.
        link = self.runtime / "redis-server"
        if not link.is_symlink():
            link.symlink_to(_program("redis-check-rdb"))
        (self.folder / "redis").mkdir(exist_ok=True)
        port = self.ports["redis"]
        process = self.start(
            "redis",
            [
                str(link),
                "--port",
                str(port),
                "--bind",
                "127.0.0.1",
                "--dir",
                str(self.folder / "redis"),
                "--save",
                "",
                "--appendonly",
                "no",
                "--daemonize",
                "no",
            ],
            again=True,
        )
        self.wait_until(lambda: answers(port), "redis", process)

    def manage(self, *arguments: str, quiet: bool = True) -> None:
        """Run a management command to its end; if the house is ended meanwhile, it ends with all
        that it started.
        """
        command = [str(PYTHON), str(REPO / "server" / "manage.py"), *arguments]
        process = subprocess.Popen(
            command,
            env=self.environment(),
            cwd=REPO,
            text=True,
            start_new_session=True,
            stdout=subprocess.PIPE if quiet else None,
            stderr=subprocess.STDOUT if quiet else None,
        )
        try:
            said, _ = process.communicate()
        finally:
            with contextlib.suppress(OSError):
                os.killpg(process.pid, signal.SIGKILL)
        if process.returncode:
            raise Stop(f"manage.py {arguments[0]} failed:\n{(said or '')[-3000:]}")

    def prepare_database(self) -> None:
        """Tables as the code wants them, and states worked out where they are behind."""
        self.manage("migrate", "--verbosity=0")
        self.manage("createcachetable", "--verbosity=0")
        self.manage("catch_up")

    def start_workers(self, **more: str) -> None:
        environment = self.environment(**more)
        celery = [str(PYTHON), "-m", "celery", "-A", "config"]
        # Somebody who looks comes before what is worked on: what they wait for has workers of its
        # own, and the web has the processor first.
        for name, queues, how_many, niceness in (
            ("worker-soon", "upkeep,arrivals,tiles", 1, 5),
            ("worker-batch", "checks", 2, 10),
        ):
            worker = [
                "nice",
                "-n",
                str(niceness),
                *celery,
                "worker",
                f"--concurrency={how_many}",
                f"--queues={queues}",
                f"--hostname={name}@%h",
                "--loglevel=WARNING",
                "--without-gossip",
                "--without-mingle",
            ]
            self.start(name, worker, environment, REPO / "server", again=True)
        self.start(
            "beat",
            [
                *celery,
                "beat",
                "--loglevel=WARNING",
                "--schedule",
                str(self.folder / "beat"),
                "--pidfile=",
            ],
            environment,
            REPO / "server",
            again=True,
        )

    def start_desk(self, pace: float = 0.0, asks: float = 0.0, careless: float = 0.0) -> None:
        """The stand-in for a retoucher's desk: of some slips it asks something, with some it is
        careless; shares, 0..1.
        """
        self._start_standin(
            "desk",
            "standins.desk",
            "ZWEIBLICK_DESK_KEY",
            pace,
            *("--asks", str(asks), "--careless", str(careless)),
        )

    def start_removal(self, pace: float = 0.5) -> None:
        """The stand-in for an outside removal service."""
        self._start_standin("removal", "standins.removal", "ZWEIBLICK_REMOVAL_KEY", pace)

    def _start_standin(self, name: str, module: str, key: str, pace: float, *more: str) -> None:
        """It gets no database and no store: only what requests bring."""
        port = self.still_free(name)
        environment = {
            **os.environ,
            "PYTHONPATH": str(REPO),
            key: self.secrets[name],
            "OPENBLAS_NUM_THREADS": "1",
            "PYTHONUNBUFFERED": "1",
        }
        folder = str(self.folder / name)
        command = [str(PYTHON), "-m", module, "--port", str(port), "--folder", folder]
        process = self.start(name, [*command, "--pace", str(pace), *more], environment, again=True)
        self.wait_until(lambda: answers(port), name, process)

    def start_web(self, **more: str) -> None:
        port = self.still_free("web")
        process = self.start(
            "web",
            [
                str(PYTHON),
                "-m",
                "gunicorn",
                "config.wsgi",
                "--bind",
                f"127.0.0.1:{port}",
                "--workers",
                "2",
                "--threads",
                "6",
                "--keep-alive",
                "30",
                "--timeout",
                "120",
                "--worker-tmp-dir",
                str(self.runtime),
            ],
            self.environment(**more),
            REPO / "server",
            again=True,
        )
        self.wait_until(lambda: answers(port), "web", process)


def answers(port: int) -> bool:
    with socket.socket() as probe:
        probe.settimeout(1)
        return probe.connect_ex(("127.0.0.1", port)) == 0


def ended_by_signals() -> None:
    """INT, TERM and HUP unwind the program, so that `finally` ends the house."""

    def stop(number: int, frame: FrameType | None) -> None:
        for other in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(other, signal.SIG_IGN)
        sys.exit(128 + number if number != signal.SIGINT else 0)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
