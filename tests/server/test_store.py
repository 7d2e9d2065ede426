"""Nothing lost: files are whole or not there, what is stored is compared with its hash, a backup
can be brought back into an empty house.
"""

from __future__ import annotations

import errno
import os
import threading
import time

import pytest
from builders import png, textured
from house import do_all_work

from store.durable import MAKING, Damaged, DurableStorage
from store.places import blobs, derived


@pytest.fixture
def shelf(tmp_path):
    return DurableStorage(location=tmp_path / "shelf")


def files_under(place):
    return [path for path in place.folder("").rglob("*") if path.is_file()]


def test_a_full_disk_leaves_nothing_and_the_same_write_again_stores_it_whole(shelf, monkeypatch):
    real = os.fsync

    def full(handle):
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OSError, match="No space left"):
        shelf.write("ab/abc", [b"one", b"two"])
    assert files_under(shelf) == []
    monkeypatch.setattr(os, "fsync", real)
    written = shelf.write("ab/abc", [b"one", b"two"])
    assert shelf.bytes_of("ab/abc", written.sha256) == b"onetwo" and written.size == 6


def test_bytes_that_are_not_those_that_were_meant_are_not_kept(shelf):
    with pytest.raises(Damaged):
        shelf.write("ab/abc", [b"one"], "0" * 64)
    assert files_under(shelf) == []


def test_of_two_that_make_the_same_folder_at_once_the_first_stands_and_neither_fails(shelf):
    both = threading.Barrier(2)
    errors = []

    def make(words):
        try:
            with shelf.making("ab/folder") as folder:
                (folder / "tile").write_text(words)
                both.wait()
        except Exception as error:
            errors.append(error)

    threads = [threading.Thread(target=make, args=(words,)) for words in ("one", "two")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert errors == []
    assert [path.name for path in files_under(shelf)] == ["tile"]


def test_what_a_dead_writer_left_is_swept_and_what_is_being_written_is_not(shelf):
    shelf.write("ab/abc", [b"kept"])
    old, young = (shelf.folder("ab") / f"{MAKING}{name}" for name in ("old", "young"))
    old.write_bytes(b"half")
    young.write_bytes(b"half")
    os.utime(old, (time.time() - 9999,) * 2)
    assert shelf.sweep(time.time() - 3600) == 1
    assert young.exists() and not old.exists() and shelf.is_file("ab/abc")


@pytest.mark.django_db
def test_a_blob_cut_short_is_written_again_by_the_same_upload(picture):
    from images.blobs import put_blob
    from images.decoding import blob_bytes

    blob = picture.original.blob
    data = blob_bytes(blob)
    path = blobs().folder(blob.path)
    path.chmod(0o644)
    path.write_bytes(data[:1000])
    with pytest.raises(Damaged):
        blob_bytes(blob)
    assert put_blob(data, blob.media_type) == blob and blob_bytes(blob) == data


@pytest.mark.django_db
def test_a_damaged_picture_fails_its_work_in_words_and_without_the_programs_own(picture):
    from images.decoding import forget_decoded
    from work.models import Work

    path = blobs().folder(picture.attempts.first().image.blob.path)
    path.chmod(0o644)
    path.write_bytes(b"nothing of a picture")
    forget_decoded()
    do_all_work()
    failed = Work.objects.filter(state="failed")
    assert failed and all("verify_store" in row.error for row in failed)


@pytest.mark.django_db
def test_the_store_is_verified_named_and_repaired_from_a_backup(checked, tmp_path):
    from images.verifying import verify_store

    assert verify_store(repair=False) == []
    backup = DurableStorage(location=tmp_path / "blobs")
    good, gone = (image.blob for image in checked.images.order_by("id")[:2])
    backup.write(good.path, [blobs().bytes_of(good.path)])
    for blob in (good, gone):
        path = blobs().folder(blob.path)
        path.chmod(0o644)
        path.write_bytes(b"x")
    found = verify_store(repair=True, backup=tmp_path)
    assert sorted(bool(problem.repaired) for problem in found) == [False, True]
    assert all("Slipway" in problem.words for problem in found)
    (left,) = verify_store(repair=False)
    assert gone.sha256 in left.words


@pytest.mark.django_db
def test_tiles_that_were_removed_are_named_and_asked_for_again(checked):
    from images.derivation import folder_name
    from images.pyramids import pyramid_of, tiles_stand
    from images.verifying import verify_store

    derived().remove(folder_name(pyramid_of(checked.original)))
    (problem,) = verify_store(repair=True)
    assert problem.words.startswith("pyramid") and problem.repaired == "asked for again"
    do_all_work()
    assert tiles_stand(checked.original) and verify_store(repair=False) == []


@pytest.mark.django_db
def test_what_nothing_refers_to_is_collected_and_what_is_referred_to_never(checked, monkeypatch):
    from images import collecting
    from images.blobs import put_blob
    from images.models import Blob
    from images.verifying import verify_store

    before = set(Blob.objects.values_list("pk", flat=True))
    orphan = put_blob(png(textured(40, 40, seed=3)), "image/png")
    blobs().write("zz/zzzz", [b"no row"])
    derived().write("zz/zzzz.jpg", [b"no row"])
    assert collecting.collect()["blobs"] == 0  # too young: it may be just being stored
    monkeypatch.setattr(collecting, "YOUNG", -1.0)
    monkeypatch.setattr("django.conf.settings.DERIVED_KEPT", -1.0)
    found = collecting.collect()
    assert found["blobs"] == 1 and found["blob files"] == 1
    assert not blobs().is_file(orphan.path) and not derived().is_file("zz/zzzz.jpg")
    assert set(Blob.objects.values_list("pk", flat=True)) == before
    assert verify_store(repair=False) == []


@pytest.mark.django_db
def test_history_can_be_added_to_and_neither_changed_nor_removed(checked):
    from django.db import connection, transaction
    from django.db.utils import OperationalError

    from history.models import Entry, record

    entry = record(checked, None, "something", "")
    for act in (
        lambda: Entry.objects.filter(pk=entry.pk).update(what="something else"),
        lambda: Entry.objects.filter(pk=entry.pk).delete(),
        lambda: connection.cursor().execute("DELETE FROM history_entry"),
    ):
        with pytest.raises(OperationalError, match="only ever appended"), transaction.atomic():
            act()
    entry.refresh_from_db()
    assert entry.what == "something"


@pytest.mark.django_db
def test_a_job_with_history_cannot_be_removed(checked):
    from django.db.models import ProtectedError

    with pytest.raises(ProtectedError):
        checked.job.delete()


@pytest.mark.django_db(transaction=True)
def test_a_backup_is_verified_and_restored_into_an_empty_house(checked, people, tmp_path, settings):
    """The real thing: everything is emptied, files and rows, and comes back as it was."""
    from django.core.management import CommandError, call_command

    from checks.models import Finding
    from history.models import Entry
    from images.decoding import blob_bytes, forget_decoded
    from jobs.models import Picture
    from verdicts.models import Cell
    from verdicts.ruling import rule

    cell = Cell.objects.first()
    rule(cell.pk, people["vera"], "rework", None, None)
    seen = lambda: (
        list(Entry.objects.values_list("pk", "what", "made_at")),
        list(Finding.objects.values_list("pk", "kind", "evidence")),
        list(Cell.objects.values_list("pk", "current_id", "revision")),
        [blob_bytes(image.blob) for image in Picture.objects.get().images.order_by("id")],
    )
    before = seen()
    call_command("backup", str(tmp_path / "kept"))
    call_command("verify", str(tmp_path / "kept"))
    with pytest.raises(CommandError, match="not empty"):
        call_command("restore", str(tmp_path / "kept"))
    call_command("flush", interactive=False, verbosity=0)
    storages = {name: dict(one) for name, one in settings.STORAGES.items()}
    for place in ("default", "derived", "arrivals"):
        storages[place]["OPTIONS"] = {"location": tmp_path / f"new-{place}"}
    settings.STORAGES = storages
    forget_decoded()
    assert Picture.objects.count() == 0
    call_command("restore", str(tmp_path / "kept"))
    assert seen() == before
    # Its tiles are made anew, and work goes on.
    rule(cell.pk, people["vera"], "passes", None, None)
    assert Entry.objects.count() == len(before[0]) + 1


@pytest.mark.django_db(transaction=True)
def test_a_damaged_backup_is_named_and_nothing_of_it_is_restored(checked, tmp_path):
    from django.core.management import CommandError, call_command

    from jobs.models import Picture

    call_command("backup", str(tmp_path))
    blob = next(path for path in (tmp_path / "blobs").rglob("*") if path.is_file())
    blob.chmod(0o644)
    blob.write_bytes(b"x")
    with pytest.raises(CommandError, match="1 things are wrong"):
        call_command("verify", str(tmp_path))
    call_command("flush", interactive=False, verbosity=0)
    with pytest.raises(CommandError, match="not whole"):
        call_command("restore", str(tmp_path))
    assert Picture.objects.count() == 0


@pytest.mark.django_db
def test_rows_that_merely_wait_are_not_told_to_the_broker_again(picture, monkeypatch):
    from datetime import timedelta

    from work import leases
    from work.clock import now
    from work.models import Work

    sent_long_ago = now() - timedelta(seconds=120)
    Work.objects.update(dispatched_at=sent_long_ago)
    monkeypatch.setattr(leases, "waiting_in", lambda queue: 5)
    assert leases.overdue() == []
    # The broker holds nothing any more although they wait: it forgot them.
    monkeypatch.setattr(leases, "waiting_in", lambda queue: 0)
    assert set(leases.overdue()) == set(Work.objects.values_list("pk", flat=True))
    # It does not say; they are told again after ten minutes.
    monkeypatch.setattr(leases, "waiting_in", lambda queue: None)
    assert leases.overdue() == []
    Work.objects.update(dispatched_at=now() - timedelta(seconds=601))
    assert leases.overdue() != []


@pytest.mark.django_db
def test_what_somebody_waits_for_has_a_queue_of_its_own(picture):
    from work.models import Work
    from work.registry import BATCH, KINDS, SOON

    assert {row.kind: KINDS[row.kind].queue for row in Work.objects.all()} == {
        "pyramid": SOON,
        "check": BATCH,
        "fingerprint": BATCH,
    }


@pytest.mark.django_db
def test_done_work_is_forgotten_after_a_while_and_nothing_else(checked, settings):
    from datetime import timedelta

    from work.clock import now
    from work.models import Work
    from work.tidying import forget_done

    assert forget_done() == 0
    old = Work.objects.filter(state="done").first()
    Work.objects.filter(pk=old.pk).update(finished_at=now() - timedelta(days=20))
    assert forget_done() == 1 and Work.objects.exists()
