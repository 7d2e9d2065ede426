"""What installs and supervises: ports, what earlier starts left, clear messages."""

import os
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

REPO = Path(__file__).parent.parent.parent
sys.path.insert(0, str(REPO / "bin" / "support"))
import machine  # noqa: E402
import services  # noqa: E402


@pytest.fixture
def house(tmp_path, monkeypatch):
    monkeypatch.setattr(services, "REPO", tmp_path)
    made = services.House(".run-here")
    yield made
    made.end()


def taken():
    held = socket.socket()
    held.bind(("127.0.0.1", 0))
    held.listen()
    return held, held.getsockname()[1]


def test_the_next_free_port_is_taken_and_remembered(house, monkeypatch):
    held, port = taken()
    with held:
        monkeypatch.setitem(services.PORTS, "web", (port, "ZWEIBLICK_PORT"))
        house.choose_ports(("web",))
        assert port < house.ports["web"] < port + 200
    again = services.House(".run-here")
    again.choose_ports(("web",))
    assert again.ports == house.ports, "the port of last time, though the first one is free again"


def test_a_port_that_another_took_in_the_meantime_is_given_up(house, monkeypatch):
    held, port = taken()
    with held:
        monkeypatch.setitem(services.PORTS, "desk", (port, "ZWEIBLICK_DESK_PORT"))
        house.ports["desk"] = port
        assert house.still_free("desk") != port and house.ports["desk"] == house.still_free("desk")


def test_a_port_that_was_set_and_is_taken_is_a_clear_message(house, monkeypatch, capsys):
    held, port = taken()
    monkeypatch.setenv("ZWEIBLICK_PORT", str(port))
    with held, pytest.raises(SystemExit):
        house.choose_ports(("web",))
    assert f"Port {port}, set by ZWEIBLICK_PORT, is taken" in capsys.readouterr().err
    monkeypatch.setenv("ZWEIBLICK_PORT", "eighty")
    with pytest.raises(SystemExit):
        house.choose_ports(("web",))


def test_secrets_stay_the_same_and_are_nobody_elses(house):
    assert services.House(".run-here").secrets == house.secrets
    assert (house.folder / "secrets.json").stat().st_mode & 0o077 == 0


def test_what_an_earlier_start_left_is_ended_and_said(house, capsys):
    left = subprocess.Popen(
        [sys.executable, "-c", "import time; time.sleep(600)"], start_new_session=True
    )
    house.keep(
        "processes.json",
        {
            "worker": [left.pid, services.started_at(left.pid)],
            "mariadb": [left.pid, "another time"],
        },
    )
    house.settle_earlier()
    assert left.wait(timeout=20) != 0 and "left its worker running" in capsys.readouterr().out


def test_a_start_that_still_runs_is_named_and_left_alone(house, capsys):
    other = subprocess.Popen(
        [sys.executable, "-c", "import time; time.sleep(600)"], start_new_session=True
    )
    house.keep("processes.json", {"supervisor": [other.pid, services.started_at(other.pid)]})
    try:
        with pytest.raises(SystemExit):
            house.settle_earlier()
        assert "already running" in capsys.readouterr().err and other.poll() is None
    finally:
        other.kill()
        other.wait()


def test_a_pid_that_belongs_to_another_process_by_now_is_left_alone(house):
    house.keep(
        "processes.json", {"worker": [os.getpid(), "long ago"], "supervisor": [1, "long ago"]}
    )
    house.settle_earlier()


def test_ending_the_house_ends_what_it_started_and_the_children_too(house):
    script = "import subprocess, sys, time; subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(600)']); time.sleep(600)"
    process = house.start("pair", [sys.executable, "-c", script])
    time.sleep(0.5)
    group = process.pid
    house.end()
    assert process.returncode is not None
    for _ in range(50):
        try:
            os.killpg(group, 0)
        except ProcessLookupError:
            break
        time.sleep(0.1)
    else:
        pytest.fail("a child outlived the house")
    assert not (house.folder / "processes.json").exists()


def test_a_service_that_does_not_start_shows_its_log(house, capsys):
    process = house.start(
        "broken", [sys.executable, "-c", "print('no such disk'); raise SystemExit(1)"]
    )
    with pytest.raises(SystemExit):
        house.wait_until(lambda: False, "broken", process, 20)
    assert "no such disk" in capsys.readouterr().err


def test_missing_packages_without_rights_are_named_with_the_command(monkeypatch, capsys):
    monkeypatch.setattr(machine, "missing_packages", lambda testing: ["mariadb-server-core"])
    monkeypatch.setattr(machine.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(machine.shutil, "which", lambda *args, **more: None)
    with pytest.raises(SystemExit):
        machine.install_packages(False)
    assert (
        "sudo apt-get update && sudo apt-get install -y --no-install-recommends mariadb-server-core"
        in capsys.readouterr().err
    )


def test_files_of_another_user_are_said_before_anything_fails(monkeypatch, capsys):
    monkeypatch.setattr(machine.os, "geteuid", lambda: 123456)
    with pytest.raises(SystemExit):
        machine.check_owner()
    assert "belongs to another user" in capsys.readouterr().err
