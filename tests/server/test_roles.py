"""Who may do what: every endpoint against every role. An endpoint without a line here fails the
first test.
"""

from __future__ import annotations

import io
import re
import zipfile

import numpy as np
import pytest
from builders import png, textured
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from house import do_all_work

pytestmark = pytest.mark.django_db

SUPERVISOR, RETOUCHER, OTHER_RETOUCHER, GUEST, STRANGER = (
    "vera",
    "mona",
    "otto",
    "archive",
    "stranger",
)
SEEN = {SUPERVISOR: 200, RETOUCHER: 200, OTHER_RETOUCHER: 200, GUEST: 404, STRANGER: 404}
EVERYBODY = dict.fromkeys(SEEN, 200)
RULES = {SUPERVISOR: "ok", RETOUCHER: 403, OTHER_RETOUCHER: 403, GUEST: 404, STRANGER: 404}
#: A slip that was sent to the first retoucher.
SLIP_SEEN = {SUPERVISOR: 200, RETOUCHER: 200, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404}
SLIP_RULED = {SUPERVISOR: "ok", RETOUCHER: 403, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404}
SLIP_WORKED = {SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404}
BRINGS_IN = {SUPERVISOR: "ok", RETOUCHER: 404, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404}

#: Who works on a job may look at its shots and have them drawn.
WORKED = {SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: "ok", GUEST: 404, STRANGER: 404}
TRIANGLE = [[[5, 5], [30, 5], [30, 30]]]

TABLE = [
    ("get", "/api/jobs/{job}/shots/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    (
        "post",
        "/api/jobs/{job}/shots/",
        {"name": "x", "original": "{loose}", "attempts": []},
        BRINGS_IN,
    ),
    ("get", "/api/shots/{shot}/", None, SEEN),
    ("post", "/api/shots/{shot}/attempts/", {"footage": "{loose}", "method": "x"}, RULES),
    ("post", "/api/shots/{shot}/outlines/", {"frame": 0, "outlines": TRIANGLE}, RULES),
    ("delete", "/api/shots/{shot}/outlines/{shot_region}/0/", None, RULES),
    (
        "post",
        "/api/shots/{shot}/slips/",
        {
            "parts": [{"region": "{shot_region}", "ranges": [{"first": 0, "last": 0}]}],
            "method": "ground-tracked fill",
        },
        RULES,
    ),
    ("get", "/api/shot-slips/", None, EVERYBODY),
    ("post", "/api/shot-slips/{shot_slip}/", {"event": "withdrawn"}, SLIP_RULED),
    ("post", "/api/shot-slips/{shot_slip}/", {"event": "taken up"}, SLIP_WORKED),
    # Whoever works on it says what whoever works on it says.
    (
        "post",
        "/api/shot-slips/{shot_slip}/",
        {"event": "asked", "words": "which?"},
        {**SLIP_WORKED, SUPERVISOR: 403},
    ),
    # A retoucher hands in what they brought themselves.
    ("post", "/api/shot-slips/{shot_slip}/answer/", {"footage": "{loose}"}, BRINGS_IN),
    ("get", "/api/shot-slips/{shot_slip}/package/", None, SLIP_SEEN),
    ("post", "/api/shot-slips/{shot_slip}/package/", None, SLIP_WORKED),
    ("get", "/api/footage/{footage}/file/", None, SEEN),
    ("post", "/api/shot-attempts/{shot_attempt}/check/", None, RULES),
    (
        "post",
        "/api/shot-attempts/{shot_attempt}/verdicts/",
        {"region": "{shot_region}", "first": 0, "last": 1, "ruling": "passes", "revision": 1},
        RULES,
    ),
    ("delete", "/api/footage/{loose}/", None, BRINGS_IN),
    ("get", "/api/footage/{footage}/proxies/", None, SEEN),
    ("post", "/api/footage/{footage}/proxies/", None, WORKED),
    ("get", "/api/footage/{footage}/proxies/0/", None, SEEN),
    ("post", "/api/footage/{footage}/frames/0/", None, WORKED),
    ("get", "/api/footage/{footage}/frames/0/", None, SEEN),
    ("get", "/api/desk/", None, EVERYBODY),
    ("get", "/api/pictures/{picture}/bench/", None, SEEN),
    ("get", "/api/pictures/{picture}/history/", None, SEEN),
    ("get", "/api/methods/", None, EVERYBODY),
    ("get", "/api/pictures/{picture}/trials/", None, {**RULES, SUPERVISOR: 200}),
    (
        "post",
        "/api/pictures/{picture}/trials/",
        {"region": "{region}", "base": "{attempt}", "runs": [{"method": "gradient fill"}]},
        RULES,
    ),
    ("post", "/api/attempts/{attempt}/put-back/", {}, RULES),
    ("delete", "/api/trials/{trial}/", None, {**BRINGS_IN}),
    ("get", "/api/pictures/{picture}/outlines/", None, SEEN),
    ("post", "/api/pictures/{picture}/outlines/", {"name": "", "mask": "{mask}"}, RULES),
    (
        "post",
        "/api/pictures/{picture}/outlines/act/",
        {"what": "grow", "pixels": 2, "mask": "{mask}"},
        RULES,
    ),
    (
        "post",
        "/api/pictures/{picture}/outlines/merge/",
        {"regions": ["{free}", "{other_free}"]},
        RULES,
    ),
    ("patch", "/api/regions/{region}/", {"name": "another name"}, RULES),
    ("delete", "/api/regions/{free}/", None, RULES),
    ("post", "/api/regions/{free}/again/", {}, RULES),
    ("post", "/api/regions/{region}/outline/", {"mask": "{mask}", "version": 1}, RULES),
    ("post", "/api/regions/{free}/split/", {}, RULES),
    ("get", "/api/regions/{region}/versions/1/", None, SEEN),
    (
        "post",
        "/api/pictures/{picture}/seen/",
        {},
        {**SEEN, SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: "ok"},
    ),
    (
        "post",
        "/api/images/{image}/tiles/",
        {},
        {**SEEN, SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: "ok"},
    ),
    (
        "post",
        "/api/images/{image}/aids/grain/",
        {},
        {**SEEN, SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: "ok"},
    ),
    ("get", "/api/incoming/{incoming}/", None, BRINGS_IN),
    (
        "post",
        "/api/session/password/",
        {"old": "another", "new": "a longer password"},
        dict.fromkeys(SEEN, 400),
    ),
    ("get", "/api/schema/", None, EVERYBODY),
    ("get", "/api/pictures/{picture}/spot/?x=40&y=30&a={image}&b={image}", None, SEEN),
    ("get", "/api/regions/{region}/spread/", None, SEEN),
    ("post", "/api/regions/{region}/picks/", {"attempt": "{attempt}"}, RULES),
    ("get", "/api/regions/{region}/pairs/", None, {**RULES, SUPERVISOR: 200}),
    (
        "post",
        "/api/regions/{region}/pairs/",
        {"left": "{image}", "right": "{other_image}", "better": "left"},
        RULES,
    ),
    ("delete", "/api/regions/{region}/pairs/", None, RULES),
    (
        "post",
        "/api/cells/{cell}/own-findings/",
        {"kind": "lost", "severity": "clear", "polygon": [[5, 5], [40, 5], [40, 40]]},
        RULES,
    ),
    ("delete", "/api/own-findings/{own}/", None, RULES),
    ("put", "/api/jobs/{job}/bar/", {"bar": {"grain": 0.7}}, RULES),
    ("get", "/api/attempts/{attempt}/changes/?before={attempt}", None, SEEN),
    (
        "post",
        "/api/pictures/{picture}/assemblies/",
        {
            "parts": [
                {"region": "{region}", "attempt": "{attempt}"},
                {"region": "{other_region}", "attempt": "{half}"},
                {"region": "{free}", "attempt": "{attempt}"},
                {"region": "{other_free}", "attempt": "{attempt}"},
            ]
        },
        RULES,
    ),
    ("get", "/api/cold/", None, EVERYBODY),
    (
        "post",
        "/api/attempts/{attempt}/cold-looks/",
        {"clicks": [[40, 40]]},
        {**SEEN, SUPERVISOR: "ok", RETOUCHER: "ok", OTHER_RETOUCHER: "ok"},
    ),
    ("get", "/api/findings/{finding}/picture/", None, SEEN),
    ("get", "/api/kinds/", None, EVERYBODY),
    ("get", "/api/aids/", None, EVERYBODY),
    ("get", "/api/images/{image}/aids/grain/", None, SEEN),
    ("get", "/api/images/{image}/aids/grain/tiles/info.json", None, SEEN),
    ("get", "/api/pictures/{picture}/crop/", None, SEEN),
    ("get", "/api/pictures/{picture}/regions/{region}/crop/", None, SEEN),
    ("get", "/api/cells/{cell}/", None, SEEN),
    ("get", "/api/cells/{cell}/crop/", None, SEEN),
    ("get", "/api/images/{image}/tiles/info.json", None, SEEN),
    ("get", "/api/released/", None, EVERYBODY),
    ("post", "/api/cells/{cell}/verdict/", {"ruling": "passes"}, RULES),
    ("delete", "/api/cells/{ruled}/verdict/", None, RULES),
    ("post", "/api/findings/{finding}/answer/", {"answer": "confirmed"}, RULES),
    ("put", "/api/cells/{ruled}/words/", {"words": "as in the neighbour"}, RULES),
    ("post", "/api/attempts/{attempt}/check/", {}, RULES),
    (
        "post",
        "/api/attempts/{attempt}/outside/",
        {"number": 99, "answer": "acceptable"},
        {**RULES, SUPERVISOR: 400},
    ),
    ("delete", "/api/attempts/{attempt}/", None, {**RULES, SUPERVISOR: 400}),
    ("post", "/api/attempts/{attempt}/again/", {}, RULES),
    (
        "put",
        "/api/attempts/{attempt}/facts/",
        {"method": "method 3", "kind": "built in"},
        RULES,
    ),
    ("get", "/api/regions/{region}/siblings/?attempt=3", None, SEEN),
    (
        "post",
        "/api/regions/{region}/siblings/rule/?attempt=3",
        {"ruling": "passes", "cells": [{"cell": 999_999, "revision": 0}]},
        {**RULES, SUPERVISOR: 400},
    ),
    # One's own kept views.
    ("post", "/api/desk/visit/", None, EVERYBODY),
    ("get", "/api/slips/waiting/", None, EVERYBODY),
    ("post", "/api/slips/waiting/", {"pictures": [999_999]}, dict.fromkeys(RULES, 404)),
    ("post", "/api/slips/send/", {"slips": [999_999]}, dict.fromkeys(RULES, 404)),
    ("get", "/api/pictures/{picture}/original/?arrival=999999", None, {**RULES, SUPERVISOR: 404}),
    (
        "post",
        "/api/pictures/{picture}/original/",
        {"arrival": 999_999, "touched": []},
        {**RULES, SUPERVISOR: 404},
    ),
    ("put", "/api/pictures/{picture}/charge/", {"person": None}, RULES),
    ("get", "/api/desk/views/", None, dict.fromkeys(RULES, 200)),
    ("post", "/api/desk/views/", {"name": "mine", "looked": {}}, dict.fromkeys(RULES, "ok")),
    ("delete", "/api/desk/views/{kept}/", None, {**dict.fromkeys(RULES, 404), SUPERVISOR: 200}),
    # One's own tokens, and files that one has under way.
    ("get", "/api/session/tokens/", None, dict.fromkeys(RULES, 200)),
    ("post", "/api/session/tokens/", {"name": "export"}, dict.fromkeys(RULES, "ok")),
    (
        "delete",
        "/api/session/tokens/{token}/",
        None,
        {**dict.fromkeys(RULES, 404), SUPERVISOR: 200},
    ),
    ("post", "/api/jobs/{job}/uploads/", {"name": "one.png", "size": 9}, BRINGS_IN),
    ("get", "/api/uploads/{upload}/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    ("put", "/api/uploads/{upload}/0/", {}, {**BRINGS_IN, SUPERVISOR: 415}),
    ("delete", "/api/uploads/{upload}/", None, BRINGS_IN),
    # A run goes through what one supervises; it is one's own.
    (
        "post",
        "/api/runs/",
        {},
        {SUPERVISOR: "ok", RETOUCHER: 400, OTHER_RETOUCHER: 400, GUEST: 400, STRANGER: 400},
    ),
    (
        "get",
        "/api/runs/{run}/",
        None,
        {SUPERVISOR: 200, RETOUCHER: 404, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404},
    ),
    (
        "delete",
        "/api/runs/{run}/last/",
        None,
        {SUPERVISOR: 400, RETOUCHER: 404, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404},
    ),
    ("get", "/api/jobs/{job}/methods/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    ("patch", "/api/pictures/{picture}/", {"name": "Slipway"}, RULES),
    ("delete", "/api/pictures/{picture}/", None, {**RULES, SUPERVISOR: 400}),
    ("post", "/api/pictures/{picture}/again/", {}, RULES),
    ("post", "/api/cells/{cell}/ask/", {"person": 999_999}, {**RULES, SUPERVISOR: 400}),
    ("delete", "/api/second-looks/{look}/", None, {**RULES, RETOUCHER: 404, OTHER_RETOUCHER: 404}),
    (
        "post",
        "/api/second-looks/{look}/answer/",
        {"words": "It may stay."},
        # Only whoever was asked.
        {SUPERVISOR: 404, RETOUCHER: 404, OTHER_RETOUCHER: 404, GUEST: 404, STRANGER: 404},
    ),
    ("post", "/api/regions/{free}/leave/", {}, RULES),
    ("post", "/api/attempts/{failed}/slips/", {}, RULES),
    ("get", "/api/pictures/{picture}/sign-off/", None, {**RULES, SUPERVISOR: 200}),
    (
        "post",
        "/api/pictures/{picture}/sign-off/",
        {"attempt": "{attempt}"},
        {**RULES, SUPERVISOR: 400},
    ),
    ("post", "/api/pictures/{picture}/reopen/", {"reason": "so"}, {**RULES, SUPERVISOR: 409}),
    ("post", "/api/pictures/{picture}/release/", {"people": [1]}, {**RULES, SUPERVISOR: 400}),
    ("get", "/api/jobs/{job}/sheet/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    ("patch", "/api/jobs/{job}/sheet/", {"client": "Town archive"}, BRINGS_IN),
    ("post", "/api/jobs/{job}/invitations/", {"role": "guest"}, BRINGS_IN),
    ("delete", "/api/invitations/{invitation}/", None, BRINGS_IN),
    (
        "put",
        "/api/jobs/{job}/people/{member}/",
        {"role": "retoucher"},
        {**BRINGS_IN, SUPERVISOR: 200},
    ),
    ("delete", "/api/jobs/{job}/people/{member}/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    ("get", "/api/jobs/{job}/deliveries/", None, {**BRINGS_IN, SUPERVISOR: 200}),
    (
        "post",
        "/api/jobs/{job}/deliveries/",
        {"pictures": ["{picture}"], "finals": ["png"]},
        {**BRINGS_IN, SUPERVISOR: 400},
    ),
    ("post", "/api/deliveries/{delivery}/", {}, {**BRINGS_IN, SUPERVISOR: 409}),
    ("get", "/api/deliveries/{delivery}/file/", None, {**BRINGS_IN, SUPERVISOR: 404}),
    ("get", "/api/pictures/{picture}/outside/", None, {**RULES, SUPERVISOR: 200}),
    (
        "post",
        "/api/pictures/{picture}/outside/",
        {"region": "{region}", "tier": "studio", "box": [0, 0, 9, 9]},
        {**RULES, SUPERVISOR: 400},
    ),
    ("post", "/api/orders/{order}/", {}, {**BRINGS_IN, SUPERVISOR: 409}),
    ("delete", "/api/orders/{order}/", None, BRINGS_IN),
    ("put", "/api/jobs/{job}/outside-budget/", {"credits": 7}, BRINGS_IN),
    ("get", "/api/slips/", None, EVERYBODY),
    ("get", "/api/slips/{slip}/", None, SLIP_SEEN),
    ("patch", "/api/slips/{written}/", {"note": "please"}, {**BRINGS_IN}),
    ("post", "/api/slips/{written}/send/", {}, {**BRINGS_IN}),
    ("get", "/api/slips/{slip}/outside/", None, SLIP_RULED),
    ("post", "/api/slips/{slip}/withdraw/", {}, SLIP_RULED),
    ("post", "/api/slips/{slip}/say/", {"what": "asked", "words": "which one?"}, SLIP_WORKED),
    (
        "post",
        "/api/slips/{slip}/say/",
        {"what": "settled"},
        {**SLIP_RULED, SUPERVISOR: 409},
    ),
    ("post", "/api/slips/{slip}/hand-over/", {"worker": None}, SLIP_RULED),
    ("post", "/api/slips/{slip}/take-up/", {}, SLIP_WORKED),
    ("get", "/api/slips/{slip}/package/", None, SLIP_SEEN),
    ("post", "/api/slips/{slip}/package/", {}, SLIP_WORKED),
    ("post", "/api/slips/{slip}/result/", "file", SLIP_WORKED),
    # Whoever has no slip has nothing to answer.
    ("post", "/api/slips/result/", "file", {**dict.fromkeys(SEEN, 400), RETOUCHER: "ok"}),
    ("post", "/api/slips/{slip}/hand-in/", {}, {**SLIP_WORKED, SUPERVISOR: 409, RETOUCHER: 409}),
    ("post", "/api/slips/{slip}/put-back/", {}, {**SLIP_RULED, SUPERVISOR: 400}),
    ("get", "/api/slips/{slip}/regions/{slip_region}/before/", None, SLIP_SEEN),
    # Only whom it was released to says something of it; none of these is one.
    ("post", "/api/released/{release}/remarks/", {"words": "look"}, dict.fromkeys(SEEN, 404)),
    ("post", "/api/remarks/{remark}/answer/", {"words": "seen"}, BRINGS_IN),
    ("get", "/api/tally/", None, EVERYBODY),
    ("get", "/api/tally/?job={job}", None, BRINGS_IN),
    ("get", "/api/tally/table/", None, EVERYBODY),
    ("get", "/api/jobs/", None, EVERYBODY),
    (
        "post",
        "/api/jobs/",
        {"name": "Another", "sizes": [{"name": "web", "spec": "1080px"}]},
        {SUPERVISOR: "ok", **dict.fromkeys((RETOUCHER, OTHER_RETOUCHER, GUEST, STRANGER), 403)},
    ),
    ("get", "/api/colleagues/", None, EVERYBODY),
    ("get", "/api/jobs/{job}/intake/", None, BRINGS_IN),
    ("post", "/api/jobs/{job}/arrivals/", "file", BRINGS_IN),
    ("post", "/api/jobs/{job}/fit/", {"picture": "{picture}", "result": "{arrival}"}, BRINGS_IN),
    (
        "post",
        "/api/jobs/{job}/pictures/",
        {
            "name": "New",
            "original": "{arrival}",
            "mask": None,
            "results": [{"arrival": "{second}", "method": "x", "kind": "by hand"}],
        },
        BRINGS_IN,
    ),
    (
        "post",
        "/api/pictures/{picture}/attempts/",
        {"arrival": "{result}", "method": "x", "kind": "by hand"},
        RULES,
    ),
    ("get", "/api/arrivals/{arrival}/small/", None, BRINGS_IN),
    ("post", "/api/arrivals/{arrival}/hand-in/", {}, {**BRINGS_IN, SUPERVISOR: 400}),
    ("delete", "/api/arrivals/{arrival}/", None, BRINGS_IN),
]


@pytest.fixture
def ids(checked, people):
    """Everything an address can name: a ruled cell, a written slip, one sent to mona, files that
    arrived.
    """
    from shots.making import Brought, make_shot
    from shots.redrawing import draw
    from shots.singles import ask_single

    from arrivals.models import Incoming
    from arrivals.receiving import receive
    from arrivals.uploading import begin
    from attempts.intake import Facts, add_attempt, add_picture
    from checks.models import Finding
    from crew.inviting import invite
    from jobs.models import Membership, Release
    from ledger.spread import choose
    from looks.own import add_own
    from outside.models import Order
    from people.models import DeskView, Person, Token
    from regions.drafts import written as written_outline
    from regions.editing import draw_region
    from runs.models import Run
    from signing.formats import Options
    from signing.models import Delivery, Remark
    from slips.sending import send_slip
    from slips.writing import Edit, Recipient, edit_slip, write_slip
    from trials.asking import ask_put_back
    from verdicts.models import Cell, SecondLook
    from verdicts.ruling import rule
    from zweiblick_core.regions.masks import cropped

    vera = people["vera"]
    vera.makes_jobs = True
    vera.save()
    Membership.objects.create(
        job=checked.job,
        person=Person.objects.create_user("otto", password="a long password"),
        role="retoucher",
    )
    first, second, third = checked.attempts.all()
    regions = list(checked.regions.all())
    cell = lambda attempt, region: Cell.objects.get(attempt=attempt, region=region)
    rule(cell(first, regions[0]).pk, vera, "rework", None, None)
    sent = send_slip(
        edit_slip(write_slip(first, vera), vera, Edit(to=Recipient(people["mona"]))), vera
    )
    rule(cell(second, regions[1]).pk, vera, "rework", None, None)
    # Regions that nobody sent back: one of two parts, and one beside it.
    two = np.zeros((checked.original.height, checked.original.width), bool)
    two[10:30, 10:30] = two[10:30, 60:80] = True
    one = np.roll(two, 40, 0) & (np.arange(two.shape[1]) < 40)
    free = draw_region(checked, "rope", cropped(two, "rope"), vera)
    other_free = draw_region(checked, "ring", cropped(one, "ring"), vera)
    written = write_slip(second, vera)
    other = add_picture(
        checked.job,
        "Another",
        "another.png",
        png(textured(80, 80, seed=8)),
        [("one", np.pad(np.ones((20, 20), bool), 30))],
        vera,
    )
    failed = add_attempt(
        other, "another-1.png", png(textured(80, 80, seed=9)), Facts("x", "by hand"), vera
    )
    rule(cell(failed, other.regions.first()).pk, vera, "rework", None, None)
    rule(cell(third, regions[0]).pk, vera, "passes", None, None)
    choose(regions[0], vera, first, third, third)
    own = add_own(
        cell(third, regions[0]), vera, "lost", "faint", None, "", [[5, 5], [40, 5], [40, 40]]
    )
    new = textured(90, 120, seed=31)
    changed = new.copy()
    changed[30:60, 40:80] = 128
    arrivals = [
        receive(checked.job, name, [png(pixels)], len(png(pixels)), vera)
        for name, pixels in (
            ("new.png", new),
            ("new-result.png", changed),
            ("later.png", near(checked)),
        )
    ]
    footage = [_footage(checked.job, vera, seed) for seed in (41, 42, 43)]
    ask_single(footage[0], 0)
    do_all_work()
    shot = make_shot(checked.job, "Shot", footage[0].pk, [Brought(footage[1].pk, "x")], None, vera)
    shot_region = draw(shot, None, 0, TRIANGLE, vera)
    draw(shot, shot_region, 1, TRIANGLE, vera)
    visitor = Person.objects.create_user("visitor", password="a long password", name="Visitor")
    wanted = {"original": None, "mask": None, "results": []}
    incoming = Incoming.objects.create(job=checked.job, wanted=wanted, person=vera, settled=True)
    return {
        "shot": shot.pk,
        "shot_region": shot_region.pk,
        "shot_attempt": shot.attempts.get().pk,
        "shot_slip": _shot_slip(shot, shot_region, vera).pk,
        "footage": footage[0].pk,
        "loose": footage[2].pk,
        "incoming": incoming.pk,
        "picture": checked.pk,
        "mask": written_outline(cropped(two, "draft")),
        "free": free.pk,
        "trial": ask_put_back(third, 8, vera).pk,
        "invitation": invite(checked.job, "guest", "", vera)[0].pk,
        "release": Release.objects.create(
            picture=checked, attempt=third, person=visitor, released_by=vera
        ).pk,
        "remark": Remark.objects.create(
            picture=checked, attempt=third, person=visitor, words="the rope"
        ).pk,
        "look": SecondLook.objects.create(
            cell=cell(third, other_free), asked=visitor, person=vera
        ).pk,
        "kept": DeskView.objects.create(person=vera, name="quay", looked={}).pk,
        "token": Token.objects.create(person=vera, name="export", token_hash="0" * 64).pk,
        "upload": begin(checked.job, "part.png", 9, "", vera).key,
        "run": Run.objects.create(person=vera).pk,
        "member": people["ines"].pk,
        "delivery": Delivery.objects.create(
            job=checked.job, options=Options().to_dict(), person=vera, key="0" * 32
        ).pk,
        "order": Order.objects.create(
            picture=checked,
            region_version=regions[0].drawn,
            tier="studio",
            terms="any use",
            box=[0, 0, 9, 9],
            credits=3,
            person=vera,
        ).pk,
        "other_free": other_free.pk,
        "region": regions[0].pk,
        "cell": cell(third, regions[0]).pk,
        "ruled": cell(third, regions[0]).pk,
        "image": third.image_id,
        "other_image": first.image_id,
        "own": own.pk,
        "other_region": regions[1].pk,
        "half": second.pk,
        "attempt": third.pk,
        "finding": Finding.objects.first().pk,
        "failed": failed.pk,
        "slip": sent.pk,
        "written": written.pk,
        "slip_region": sent.regions.first().region_id,
        "job": checked.job_id,
        "arrival": arrivals[0].pk,
        "second": arrivals[1].pk,
        "result": arrivals[2].pk,
    }


def _footage(job, person, seed):
    """A ZIP of two frames."""
    from shots.receiving import keep

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as file:
        for number in range(2):
            noise = np.random.default_rng(seed + 10 * number).integers(
                0, 256, (60, 80, 3), np.uint8
            )
            file.writestr(f"x.{number}.png", png(noise))
    data = out.getvalue()
    return keep(job, f"shot-{seed}.zip", lambda: iter([data]), len(data), person)


def near(picture, levels=1):
    """A result that belongs to the picture and differs from its others."""
    from images.decoding import blob_bytes
    from zweiblick_core.io import read

    pixels = read(blob_bytes(picture.attempts.last().image.blob)).pixels.copy()
    pixels[140:160, 100:120] = np.clip(pixels[140:160, 100:120].astype(int) + levels, 0, 255)
    return pixels


def filled_in(body, ids):
    if isinstance(body, dict):
        return {name: filled_in(value, ids) for name, value in body.items()}
    if isinstance(body, list):
        return [filled_in(value, ids) for value in body]
    return ids[body[1:-1]] if isinstance(body, str) and body.startswith("{") else body


def asked(client, method, path, body, ids, file=b""):
    path = path.format(**ids)
    if body == "file":
        return client.post(path, {"file": SimpleUploadedFile("one.png", file)})
    if method == "get":
        return client.get(path)
    return getattr(client, method)(path, filled_in(body, ids), content_type="application/json")


def test_every_endpoint_has_a_line_and_asks_for_a_sign_in(ids):
    from config.urls import urlpatterns

    client = Client()
    for method, path, body, _ in TABLE:
        assert asked(client, method, path, body, ids).status_code == 401, path
    plain = lambda pattern: re.sub(r"<\w+:\w+>|\(\?P<\w+>[^)]*\)|\{\w+\}", "*", pattern).strip(
        "^$/"
    )
    known = {
        plain(
            path.partition("?")[0]
            .replace("tiles/info.json", "tiles/*")
            .replace("before", "*")
            .replace("}/0/", "}/*/")
            .replace("versions/1", "versions/*")
            .replace("proxies/0", "proxies/*")
            .replace("frames/0", "frames/*")
            .replace("/aids/grain", "/aids/*")
        )
        for _, path, _, _ in TABLE
    }
    served = {
        plain(str(entry.pattern))
        for entry in urlpatterns
        if str(entry.pattern).lstrip("^").startswith("api/")
    }
    # Signing in, and joining by a link, are for people without an account.
    public = {"api/session", "api/join/*"}
    assert served - known == public, "an endpoint has no line in this table"


@pytest.mark.parametrize("role", [STRANGER, GUEST, OTHER_RETOUCHER, RETOUCHER, SUPERVISOR])
def test_each_role_may_do_what_the_table_says_and_no_more(signed_in, ids, checked, role):
    from django.db import transaction

    client = signed_in(role)
    for method, path, body, expected in TABLE:
        wanted = expected[role]
        # Each line starts from the same state: what one line did is undone before the next.
        point = transaction.savepoint()
        status = asked(client, method, path, body, ids, png(near(checked, 7))).status_code
        transaction.savepoint_rollback(point)
        assert 200 <= status < 300 if wanted == "ok" else status == wanted, (path, method, status)


def test_lists_hold_only_what_one_may_see(signed_in, ids):
    numbers = {
        name: len(signed_in(name).get("/api/slips/").json())
        for name in (SUPERVISOR, RETOUCHER, OTHER_RETOUCHER, GUEST, STRANGER)
    }
    assert numbers == {SUPERVISOR: 2, RETOUCHER: 1, OTHER_RETOUCHER: 0, GUEST: 0, STRANGER: 0}
    jobs = {
        name: [job["name"] for job in signed_in(name).get("/api/jobs/").json()]
        for name in (RETOUCHER, GUEST, STRANGER)
    }
    assert jobs == {RETOUCHER: ["Harbour Year"], GUEST: [], STRANGER: ["Another job"]}
    assert signed_in(STRANGER).get("/api/desk/").json()["pictures"] == []
    assert signed_in(RETOUCHER).get("/api/colleagues/").json() == []


def test_a_guest_sees_what_was_released_to_them_and_nothing_else(signed_in, checked, ids, people):
    from jobs.models import Release

    client = signed_in(GUEST)
    assert client.get("/api/released/").json() == []
    assert client.get("/api/desk/").json()["pictures"] == []
    assert client.get(f"/api/images/{ids['image']}/tiles/info.json").status_code == 404
    Release.objects.create(
        picture=checked,
        attempt_id=ids["attempt"],
        person=people["archive"],
        released_by=people["vera"],
    )
    do_all_work()
    (row,) = client.get("/api/released/").json()
    assert (
        row["picture"] == "Slipway"
        and client.get(f"{row['image']['tiles']}info.json").status_code == 200
    )
    # What it was made from is seen too; nothing else of the picture is.
    original = f"/api/images/{checked.original.pk}/tiles/info.json"
    assert client.get(original).status_code == 200
    other = checked.attempts.first().image_id
    assert client.get(f"/api/images/{other}/tiles/info.json").status_code == 404
    for method, path, body, expected in TABLE:
        if expected[GUEST] == 404 and "tiles" not in path:
            assert asked(client, method, path, body, ids).status_code in (403, 404), path


def _shot_slip(shot, region, person):
    """Sent to the first retoucher, with its package."""
    from shots.models import ShotSlip
    from shots.packages import stored_name
    from shots.ruling import rule
    from shots.sending import Wanted, send

    from people.models import Person
    from store.places import deliveries

    attempt, mona = shot.attempts.get(), Person.objects.get(username=RETOUCHER)
    rule(attempt, region, (0, 0), "rework", "", 0, person)
    slip = send(shot, Wanted(attempt, [(region, [(0, 0)])], mona), person)
    deliveries().write(stored_name(slip), [b"PK"])
    ShotSlip.objects.update(packed=slip.key)
    return slip
