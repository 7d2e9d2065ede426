"""What the server's tests share: a small picture with two regions, and doing all waiting work at
once.
"""

from __future__ import annotations

from builders import disc, textured

TRUTH = textured(300, 400, seed=4)
MASKS = (disc(TRUTH.shape[:2], 110, 150, 34), disc(TRUTH.shape[:2], 290, 150, 34))
PASSWORD = "a long password"


def do_all_work() -> None:
    from work.models import Work
    from work.tasks import do_work

    for pk in Work.objects.filter(state="waiting").values_list("pk", flat=True):
        do_work(pk)
