"""Aids as tiles: drawn at once where somebody looks, the whole frame as work, and the same either
way.
"""

from __future__ import annotations

import io
import time
from types import SimpleNamespace

import numpy as np
import pytest
from builders import disc, png, textured
from house import do_all_work
from PIL import Image as Pil

from zweiblick_core.aids import (
    AIDS,
    Known,
    aid_of,
    find_lines,
    find_matches,
    matches_within,
    measure_ground,
)

pytestmark = pytest.mark.django_db


@pytest.fixture
def wide(job, people, settings, tmp_path):
    """A picture of six tiles with one attempt, its tiles made and its check left alone; nothing was
    drawn of it before.
    """

    from attempts.intake import Facts, add_attempt, add_picture
    from images.pyramids import build_pyramid

    truth = textured(700, 1300, seed=5)
    mask = disc(truth.shape[:2], 620, 350, 60)
    picture = add_picture(job, "Quay", "quay.png", png(truth), [("cart", mask)], people["vera"])
    pixels = truth.copy()
    pixels[mask] = np.roll(truth, 150, axis=1)[mask]
    attempt = add_attempt(
        picture, "quay-1.png", png(pixels), Facts("copy", "by hand"), people["vera"]
    )
    for image in (picture.original, attempt.image):
        build_pyramid(image)
    return picture, attempt, truth, pixels


def pixels_at(client, address):
    answer = client.get(address)
    assert answer.status_code == 200, answer.content
    return np.asarray(
        Pil.open(io.BytesIO(b"".join(answer.streaming_content))).convert("RGB")
    ).astype(int)


def test_a_full_size_tile_is_there_at_once_and_is_what_the_frame_would_show(signed_in, wide):
    _, attempt, truth, pixels = wide
    client = signed_in("vera")
    for name in ("grain", "tone", "local-contrast"):
        whole = aid_of(name).draw(pixels, Known(measure_ground(truth)), 0, 0).astype(int)
        tile = pixels_at(
            client,
            f"/api/images/{attempt.image_id}/aids/{name}/tiles/512,0,512,512/512,512/0/default.png",
        )
        # The same scale on both sides: the original's ground, not the attempt's own.
        assert np.abs(tile - whole[:512, 512:1024]).max() <= 1


def test_half_size_is_made_of_full_size_and_the_rest_waits_for_the_frame(signed_in, wide):
    from work.models import Work

    _, attempt, truth, pixels = wide
    client = signed_in("vera")
    base = f"/api/images/{attempt.image_id}/aids/fine-detail/"
    info = client.get(f"{base}tiles/info.json").json()
    assert info["id"].endswith(f"{base}tiles") and info["width"] == 1300
    half = pixels_at(client, f"{base}tiles/0,0,1024,700/512,350/0/default.png")
    whole = aid_of("fine-detail").draw(pixels, Known(measure_ground(truth)), 0, 0).astype(float)
    assert np.abs(half - whole[:700, :1024].reshape(350, 2, 512, 2, 3).mean(axis=(1, 3))).max() <= 1
    small = f"{base}tiles/full/325,175/0/default.png"
    assert client.get(small).status_code == 503 and not Work.objects.filter(kind="aid").exists()
    assert client.get(base).json()["state"] == "not asked for"
    assert not Work.objects.filter(kind="aid").exists()
    state = client.post(base, {}, "application/json").json()
    assert (
        state == {"ready": False, "state": "waiting", "progress": 0.0}
        and Work.objects.filter(kind="aid").count() == 1
    )
    assert (
        client.post(base, {}, "application/json").json()["state"] == "waiting"
        and Work.objects.filter(kind="aid").count() == 1
    )
    do_all_work()
    assert client.get(base).json() == {"ready": True, "state": "done", "progress": 1.0}
    assert np.abs(pixels_at(client, small).mean() - whole.mean()) < 1


def test_every_aid_draws_the_whole_frame_as_the_core_does(wide):
    from images.aiding import aid_image, ask_aid, tiles_in
    from images.derivation import folder_of
    from images.pyramids import pyramid_of
    from zweiblick_core.io import read

    _, attempt, truth, pixels = wide
    for aid in AIDS:
        ask_aid(attempt.image, aid)
    do_all_work()
    known = Known(measure_ground(truth), find_lines(pixels))
    for aid in AIDS:
        derived = aid_image(attempt.image, aid)
        assert derived.ready
        folder = folder_of(derived)
        assert sorted(
            str(file.relative_to(folder)) for file in folder.glob("*/*/0/*.png")
        ) == sorted(tiles_in(folder_of(pyramid_of(attempt.image))))
        tile = read(folder / "512,0,512,512/512,512/0/default.png").pixels.astype(int)
        if aid.needs:
            # The fill was copied from 150 pixels to the left: its map is one colour.
            inner = tile[330:370, 90:130].reshape(-1, 3)
            assert np.unique(inner, axis=0).shape[0] <= 9 and inner.std(axis=1).mean() > 10
        else:
            apart = np.abs(tile - aid.draw(pixels, known, 0, 0)[:512, 512:1024])
            assert apart.max() <= 1 or (apart > 1).mean() < 1e-3


def test_a_whole_frame_stands_back_while_somebody_looks_and_is_drawn_all_the_same(
    signed_in, wide, monkeypatch
):
    from images import aiding

    _, attempt, *_ = wide
    now, waited = [1000.0], []

    def sleep(seconds):
        waited.append(seconds)
        now[0] += seconds

    store = SimpleNamespace(touched=lambda name: 0.0)
    real = aiding.derived_store()

    class Looked:
        """The store, with somebody who looked at a set moment."""

        def __getattr__(self, name):
            return (lambda _: store.touched(_)) if name == "touched" else getattr(real, name)

    monkeypatch.setattr(aiding, "derived_store", Looked)
    looks = lambda ago: setattr(store, "touched", lambda _: now[0] - ago)
    monkeypatch.setattr(aiding, "time", SimpleNamespace(time=lambda: now[0], sleep=sleep))
    draw = lambda name: (
        aiding.ask_aid(attempt.image, aid_of(name)),
        do_all_work(),
        waited.copy(),
        waited.clear(),
    )[2]
    looks(60)
    assert draw("darks") == []
    moment = now[0]
    store.touched = lambda _: moment - 0.2
    assert sum(draw("lights")) == pytest.approx(aiding.LOOKED - 0.2, abs=0.1)
    looks(0.0)
    waits = draw("sharpened")
    assert (
        0
        < sum(waits)
        <= aiding.STOOD_BACK
        * len(aiding.tiles_in(aiding.folder_of(aiding.pyramid_of(attempt.image))))
        * 1.05
    )
    assert all(
        aiding.stands(aiding.aid_image(attempt.image, aid_of(name)))
        for name in ("darks", "lights", "sharpened")
    )


def test_whoever_asks_for_a_tile_is_seen_to_look(signed_in, wide):
    from images import aiding

    _, attempt, *_ = wide
    looked = lambda: aiding.derived_store().touched(aiding._LOOKED)
    assert looked() == 0
    before = time.time()
    pixels_at(
        signed_in("vera"),
        f"/api/images/{attempt.image_id}/aids/tone/tiles/512,0,512,512/512,512/0/default.png",
    )
    assert looked() >= before - 1


def test_what_was_deleted_is_drawn_anew_and_never_passed_off_as_whole(signed_in, wide, settings):
    import shutil

    from images.aiding import aid_image, ask_aid
    from images.derivation import folder_of

    _, attempt, *_ = wide
    matches = aid_of("matches")
    ask_aid(attempt.image, matches)
    do_all_work()
    shutil.rmtree(folder_of(aid_image(attempt.image, matches)))
    tile = f"/api/images/{attempt.image_id}/aids/matches/tiles/512,0,512,512/512,512/0/default.png"
    client = signed_in("vera")
    small = f"/api/images/{attempt.image_id}/aids/matches/tiles/full/325,175/0/default.png"
    assert (
        client.get(small).status_code == 503
        and ask_aid(attempt.image, matches)["state"] == "waiting"
    )
    assert pixels_at(client, tile)[330:370, 90:130].reshape(-1, 3).std(axis=1).mean() > 10


def test_a_match_map_is_there_at_once_where_somebody_looks_and_finds_only_what_is_seen(
    signed_in, wide, monkeypatch
):
    from images import aiding

    _, attempt, truth, pixels = wide
    searches = []
    monkeypatch.setattr(
        aiding,
        "matches_within",
        lambda window, *given: searches.append(window.shape) or matches_within(window, *given),
    )
    client = signed_in("vera")
    base = f"/api/images/{attempt.image_id}/aids/matches/tiles/"
    pixels_at(client, f"{base}1024,0,276,512/276,512/0/default.png")
    assert searches == []
    whole = (
        aid_of("matches")
        .draw(
            pixels,
            Known(
                measure_ground(truth),
                None,
                (find_matches(pixels, attempt.picture.regions.get().current.core),),
            ),
            0,
            0,
        )
        .astype(int)
    )
    for x, y, width, height in ((512, 0, 512, 512), (512, 512, 512, 188)):
        drawn = pixels_at(client, f"{base}{x},{y},{width},{height}/{width},{height}/0/default.png")
        assert np.array_equal(drawn, whole[y : y + height, x : x + width])
    half = pixels_at(client, f"{base}0,0,1024,700/512,350/0/default.png")
    assert np.abs(half - whole[:700, :1024].reshape(350, 2, 512, 2, 3).mean(axis=(1, 3))).max() <= 1
    assert len(searches) == 1  # kept for whoever comes next


def test_another_outline_makes_another_match_map(wide, people):
    from images.aiding import aid_image
    from regions.models import RegionVersion, encode_mask

    picture, attempt, *_ = wide
    matches, grain = aid_of("matches"), aid_of("grain")
    before, same = aid_image(attempt.image, matches).key, aid_image(attempt.image, grain).key
    region = picture.regions.get()
    old = region.current
    region.current = RegionVersion.objects.create(
        region=region,
        version=2,
        x=old.x,
        y=old.y,
        width=40,
        height=40,
        mask_png=encode_mask(np.ones((40, 40), bool)),
    )
    region.save()
    assert (
        aid_image(attempt.image, matches).key != before
        and aid_image(attempt.image, grain).key == same
    )


def test_a_name_that_is_no_aid_is_refused_plainly(signed_in, wide):
    _, attempt, *_ = wide
    client = signed_in("vera")
    assert client.get(f"/api/images/{attempt.image_id}/aids/rainbow/").json() == {
        "error": "There is no such aid."
    }
    assert client.get(f"/api/images/{attempt.image_id}/aids/grain/tiles/../../x").status_code == 404
    assert (
        client.get(
            f"/api/images/{attempt.image_id}/aids/grain/tiles/9,9,9,9/9,9/0/default.png"
        ).status_code
        == 404
    )
    assert {row["name"] for row in client.get("/api/aids/").json()} == {aid.name for aid in AIDS}
