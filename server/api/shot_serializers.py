"""The shapes of shots in the API."""

from __future__ import annotations

from rest_framework import serializers as s

from zweiblick_core.rules.shots import RULINGS, STATES

from .serializers import Bounded, Plain, Points, Whole
from .shot_slip_serializers import ShotMethodOf, ShotSlipOf, ShotWorkerOf

FOOTAGE_STATES = ["reading", "ready", "refused"]


class FootageOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    state = s.ChoiceField(choices=FOOTAGE_STATES)
    reason = s.CharField()
    holds = s.ChoiceField(choices=["frames", "masks"])
    facts = s.CharField(help_text="what its file is, in words")
    frames = s.IntegerField()
    first = s.IntegerField(help_text="the number of its first frame, as its files are numbered")
    rate = s.FloatField(help_text="frames a second")
    width = s.IntegerField()
    height = s.IntegerField()
    played = s.FloatField(help_text="how large what is played is, part of the frames' own size")
    ready = s.BooleanField(help_text="whether it can be played")
    progress = s.FloatField(help_text="of what is made to play it, 0..1")


class FamilyOf(Plain):
    name = s.CharField()
    original = s.IntegerField(allow_null=True, help_text="footage")
    results = s.ListField(child=s.IntegerField())
    masks = s.IntegerField(allow_null=True)


class ShotInJob(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    frames = s.IntegerField()
    attempts = s.IntegerField()
    state = s.ChoiceField(choices=STATES, help_text="of the attempt that holds best")


class ShotsOfJob(Plain):
    shots = ShotInJob(many=True)
    waiting = FootageOf(many=True, help_text="footage that is part of no shot")
    families = FamilyOf(many=True, help_text="what of it belongs together by name")


class BroughtAttempt(Plain):
    footage = Whole()
    method = s.CharField(max_length=120)
    maker = s.CharField(max_length=120, required=False, default="", allow_blank=True)


class ShotAsked(Plain):
    name = s.CharField(max_length=160)
    original = Whole(help_text="footage")
    masks = Whole(required=False, allow_null=True, default=None, help_text="footage")
    attempts = Bounded(child=BroughtAttempt(), max_length=40)


class ShotNaturalOf(Plain):
    low = s.FloatField()
    high = s.FloatField()
    n = s.IntegerField()


class ShotFindingOf(Plain):
    kind = s.CharField()
    word = s.CharField(help_text="how visible it is")
    score = s.FloatField()
    severity = s.FloatField()
    first = s.IntegerField()
    worst = s.IntegerField()
    last = s.IntegerField()
    bbox = s.ListField(child=s.FloatField(), help_text="in the worst frame")
    measure = s.CharField(help_text="what was measured")
    value = s.FloatField()
    unit = s.CharField()
    natural = ShotNaturalOf()
    course = s.ListField(
        child=s.FloatField(allow_null=True), help_text="how bad each frame is, 1 at the worst"
    )


class RepairFirst(Plain):
    frame = s.IntegerField()
    mends = s.IntegerField(help_text="frames mended with it and those named before it")


class ShotCheckedRegion(Plain):
    region = s.IntegerField(help_text="its number")
    overall = s.FloatField()
    moves = s.BooleanField()
    covered = s.ListField(
        child=s.IntegerField(), help_text="frames in which something passes in front"
    )
    abstained = s.DictField(child=s.CharField())
    repairs = RepairFirst(many=True, help_text="which frames to repair first")
    findings = ShotFindingOf(many=True)


class KeyFrameOf(Plain):
    frame = s.IntegerField()
    why = s.CharField()


class ShotCheckOf(Plain):
    id = s.IntegerField()
    state = s.CharField()
    progress = s.FloatField()
    words = s.CharField(help_text="what is being done")
    reason = s.CharField(help_text="why there is none")
    overall = s.FloatField(allow_null=True)
    said = s.ListField(child=s.CharField(), help_text="how its frames lie to the original's")
    shows = s.ListField(
        child=s.IntegerField(), help_text="of each of its frames, the original's that it shows"
    )
    key_frames = KeyFrameOf(many=True)
    regions = ShotCheckedRegion(many=True)


class RuledOf(Plain):
    first = s.IntegerField()
    last = s.IntegerField()
    ruling = s.ChoiceField(choices=["passes", "rework"])


class ShotVerdictOf(Plain):
    first = s.IntegerField()
    last = s.IntegerField()
    ruling = s.ChoiceField(choices=RULINGS)
    words = s.CharField()
    person = s.CharField()
    made_at = s.DateTimeField()


class ShotCellOf(Plain):
    region = s.IntegerField(help_text="row")
    state = s.ChoiceField(choices=STATES)
    revision = s.IntegerField()
    stands = RuledOf(many=True)
    given = ShotVerdictOf(many=True, help_text="the newest first")


class ShotAttemptOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    method = s.CharField()
    maker = s.CharField()
    footage = FootageOf()
    state = s.ChoiceField(choices=STATES)
    check = ShotCheckOf(allow_null=True)
    cells = ShotCellOf(many=True)


class DrawnOf(Plain):
    frame = s.IntegerField()
    outlines = s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField())))


class CarriedOf(Plain):
    reference = s.IntegerField(help_text="the frame whose pixels the ground is described in")
    motion = s.ListField(
        child=s.ListField(child=s.FloatField()),
        help_text="for each frame a homography to the reference frame, nine numbers in rows",
    )
    outlines = s.ListField(
        child=s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField()))),
        help_text="for each frame its outer rings",
    )


class ShotRegionOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    version = s.IntegerField()
    drawn = DrawnOf(many=True)
    carried = CarriedOf(allow_null=True, help_text="null until an attempt was examined for it")


class RegionsWorkOf(Plain):
    state = s.CharField()
    words = s.CharField()
    error = s.CharField()


class ShotOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.IntegerField()
    job_name = s.CharField()
    rules = s.BooleanField(help_text="whether one may rule and draw here")
    size = s.CharField(help_text="the delivery size that is judged for")
    original = FootageOf()
    attempts = ShotAttemptOf(many=True)
    regions = ShotRegionOf(many=True)
    outlining = RegionsWorkOf(allow_null=True, help_text="reading the masks, or proposing regions")
    slips = ShotSlipOf(many=True, help_text="the newest first")
    methods = ShotMethodOf(many=True, help_text="what is built in")
    workers = ShotWorkerOf(many=True, help_text="the job's retouchers")
    waiting = FootageOf(
        many=True, help_text="footage that can answer a slip; of a retoucher, their own"
    )
    busy = s.BooleanField(help_text="whether something is being made or examined")


class ShotRulingAsked(Plain):
    region = Whole(help_text="row")
    first = Whole()
    last = Whole()
    ruling = s.ChoiceField(choices=RULINGS)
    words = s.CharField(max_length=2000, required=False, default="", allow_blank=True)
    revision = Whole(help_text="how many rulings of it one has seen")


class ShotOutlineAsked(Plain):
    region = Whole(required=False, allow_null=True, default=None, help_text="row; null: a new one")
    frame = Whole()
    outlines = Bounded(child=Points(max_length=5000, min_length=3), max_length=50, min_length=1)


class ProxyIndex(Plain):
    width = s.IntegerField()
    height = s.IntegerField()
    segment = s.IntegerField(help_text="frames in a segment")
    ends = s.ListField(
        child=s.ListField(child=s.IntegerField()),
        help_text="of each segment, the byte at which each of its frames ends",
    )
