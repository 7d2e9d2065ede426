"""`zweiblick bring`: a folder feeds a job, over the real API with a real token. Each test reads like
its rule.
"""

from __future__ import annotations

import numpy as np
import pytest
from builders import disc, filled, holding, png, textured, with_thing
from house import do_all_work

from zweiblick_client import bringing as rounds
from zweiblick_client.api import Server
from zweiblick_client.command import run
from zweiblick_client.folder import files_in, name_of

pytestmark = pytest.mark.django_db(transaction=True)

TRUTH = textured(260, 340, seed=91)
MASK = disc(TRUTH.shape[:2], 160, 130, 30)
ORIGINAL = png(with_thing(TRUTH, MASK))
GOOD = png(holding(TRUTH, MASK))
BRIGHT = png(filled(TRUTH, MASK, TRUTH.astype(float) + 20))


@pytest.fixture
def job(transactional_db):
    from jobs.models import DeliverySize, Job

    made = Job.objects.create(name="Harbour Year")
    DeliverySize.objects.create(job=made, name="wall", spec="594x420mm@150dpi@700mm")
    return made


@pytest.fixture
def token(people):
    from people.tokens import make_token

    return make_token(people["vera"], "export")[1]


@pytest.fixture
def house(live_server, token, monkeypatch):
    """The server's address; its workers work whenever the client waits."""
    monkeypatch.setattr(rounds, "pause", do_all_work)
    return live_server.url


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "fortnimm").mkdir()
    (tmp_path / "quay.png").write_bytes(ORIGINAL)
    (tmp_path / "fortnimm" / "quay.png").write_bytes(GOOD)
    (tmp_path / "quay-mona.png").write_bytes(BRIGHT)
    (tmp_path / "notes.txt").write_text("nothing to see")
    (tmp_path / ".hidden.png").write_bytes(b"x")
    return tmp_path


def feeding(house, token, job, folder, said=None):
    lines = [] if said is None else said
    return rounds.Bringing(Server(house, token), job.pk, folder, lines.append)


def test_names_carry_the_folder_that_sorts_them(folder):
    names = [name_of(seen.path, folder) for seen in files_in(folder)]
    assert names == ["quay-fortnimm.png", "quay-mona.png", "quay.png"]


def test_a_folder_is_sent_paired_and_brought_in(house, token, job, folder):
    brought = feeding(house, token, job, folder).round(settled=True)
    assert (brought.sent, brought.pictures, brought.results) == (3, 1, 2)
    assert brought.waiting == [] and brought.refused == []
    (picture,) = job.pictures.all()
    assert picture.name == "Quay" and picture.regions.count() == 1
    methods = sorted(one.run.method.name for one in picture.attempts.all())
    assert methods == ["fortnimm", "mona"]


def test_a_second_time_nothing_is_sent_again(house, token, job, folder):
    feeding(house, token, job, folder).round(settled=True)
    again = feeding(house, token, job, folder).round(settled=True)
    assert (again.sent, again.pictures, again.results, again.refused) == (0, 0, 0, [])


def test_a_result_that_comes_later_goes_to_its_picture(house, token, job, folder):
    rounds_of = feeding(house, token, job, folder)
    rounds_of.round(settled=True)
    (folder / "quay-hand.png").write_bytes(
        png(np.clip(holding(TRUTH, MASK).astype(int) + MASK[..., None], 0, 255).astype(np.uint8))
    )
    later = rounds_of.round(settled=True)
    assert (later.pictures, later.results) == (0, 1)
    assert job.pictures.get().attempts.count() == 3


def test_what_an_export_still_writes_is_left_until_it_is_whole(house, token, job, folder):
    watching = feeding(house, token, job, folder)
    assert watching.round().sent == 0
    (folder / "quay-mona.png").write_bytes(BRIGHT + b"more is written")
    assert watching.round().sent == 2  # the two that did not change since


def test_what_lacks_its_original_waits_and_says_so(house, token, job, tmp_path):
    (tmp_path / "reeds-fortnimm.png").write_bytes(GOOD)
    brought = feeding(house, token, job, tmp_path).round(settled=True)
    assert brought.sent == 1 and brought.pictures == 0
    (words,) = brought.waiting
    assert "waits for" in words and job.arrivals.count() == 1


def test_what_cannot_be_used_is_said_and_the_rest_goes_on(house, token, job, folder):
    (folder / "broken.png").write_bytes(b"no picture")
    said = []
    brought = feeding(house, token, job, folder, said).round(settled=True)
    assert len(brought.refused) == 1 and brought.pictures == 1
    assert any(line.startswith("not taken: broken.png") for line in said)


def test_the_command_says_how_it_went(house, token, job, folder, capsys, monkeypatch):
    from zweiblick_core.cli import parser

    asked = lambda *more: run(parser().parse_args(["bring", str(folder), "--server", house, *more]))
    assert asked("--job", "Harbour Year") == 2
    assert "give your token" in capsys.readouterr().err
    monkeypatch.setenv("ZWEIBLICK_TOKEN", token)
    assert asked("--job", "No such job") == 2
    assert "Harbour Year" in capsys.readouterr().err
    assert asked("--job", "Harbour Year") == 0
    assert "brought in Quay with 2 results" in capsys.readouterr().out
    monkeypatch.setenv("ZWEIBLICK_TOKEN", "no-such-token")
    assert asked("--job", "Harbour Year") == 2
    assert "unknown or was revoked" in capsys.readouterr().err


def test_watching_goes_on_until_it_is_ended(house, token, job, folder, monkeypatch, capsys):
    from zweiblick_client import command

    looks = []

    def slept(seconds):
        looks.append(seconds)
        if len(looks) == 3:
            raise KeyboardInterrupt

    monkeypatch.setattr(command.time, "sleep", slept)
    assert command._watch(feeding(house, token, job, folder), 0.5) == 0
    assert looks == [0.5] * 3 and job.pictures.count() == 1
    assert "watching" in capsys.readouterr().out
