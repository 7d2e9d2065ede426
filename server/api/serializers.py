"""The shapes of what the API says; the web's types are generated from them."""

from __future__ import annotations

from rest_framework import serializers as s

from checks.models import FindingRuling
from jobs.models import Membership
from verdicts.models import Verdict


class Plain(s.Serializer):
    """A read-only shape, filled from dicts."""

    def create(self, validated_data):
        raise NotImplementedError

    def update(self, instance, validated_data):
        raise NotImplementedError


class Failure(Plain):
    error = s.CharField()


class Credentials(Plain):
    username = s.CharField(max_length=150)
    password = s.CharField(max_length=200, trim_whitespace=False)


class Session(Plain):
    signed_in = s.BooleanField()
    name = s.CharField(allow_null=True)
    username = s.CharField(allow_null=True)
    role = s.ChoiceField(choices=Membership.Role.choices, allow_null=True, help_text="the widest role in any job")
    csrf = s.CharField()


class Size(Plain):
    id = s.IntegerField()
    name = s.CharField()
    spec = s.CharField()
    scale = s.FloatField(help_text="output pixels for one pixel of the original")


class DeskPicture(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    deadline = s.DateTimeField(allow_null=True)
    state = s.CharField(help_text="done, to assemble, sent back, undecided, empty")
    regions = s.IntegerField()
    undecided = s.IntegerField()
    attempts = s.IntegerField()
    worst = s.CharField(allow_null=True, help_text="the worst severity word among undecided regions in their best attempt")
    worst_severity = s.FloatField(allow_null=True)
    checking = s.IntegerField(help_text="checks waiting or running")
    progress = s.FloatField(allow_null=True)
    failed = s.IntegerField()
    crop = s.CharField(allow_null=True, help_text="address of a small picture of the original")


class Desk(Plain):
    pictures = DeskPicture(many=True)


class ImageOf(Plain):
    id = s.IntegerField()
    width = s.IntegerField()
    height = s.IntegerField()
    tiles = s.CharField()
    ready = s.BooleanField()
    name = s.CharField()
    facts = s.CharField(help_text="format, depth and profile in words")


class CheckOf(Plain):
    id = s.IntegerField()
    state = s.CharField()
    progress = s.FloatField()
    words = s.CharField()
    overall = s.FloatField(allow_null=True)
    reason = s.CharField()


class AttemptOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    method = s.CharField()
    kind = s.CharField()
    maker = s.CharField()
    seconds = s.FloatField(allow_null=True)
    cost = s.CharField(allow_null=True)
    settings = s.DictField()
    image = ImageOf()
    check_of = CheckOf(allow_null=True)


class RegionOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    bbox = s.ListField(child=s.FloatField())
    outlines = s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField())))
    state = s.CharField(help_text="holds, rework, rebuild, undecided")
    holder = s.IntegerField(allow_null=True, help_text="the attempt in which it holds")
    order = s.ListField(child=s.IntegerField(), help_text="attempts, the one that holds best first")
    backdrop = s.CharField(allow_null=True)


class VerdictOf(Plain):
    id = s.IntegerField()
    ruling = s.ChoiceField(choices=Verdict.Ruling.choices)
    size = s.CharField(allow_null=True)
    person = s.CharField()
    at = s.DateTimeField()


class CellOf(Plain):
    id = s.IntegerField()
    region = s.IntegerField()
    attempt = s.IntegerField()
    state = s.CharField(help_text="passes, passes at size, rework, rebuild, not needed, undecided")
    revision = s.IntegerField()
    verdict = VerdictOf(allow_null=True)
    overall = s.FloatField(allow_null=True)
    findings = s.IntegerField()
    worst_kind = s.CharField(allow_null=True)
    worst_severity = s.FloatField(allow_null=True)
    worst_word = s.CharField(allow_null=True)
    crop = s.CharField(help_text="address of a small picture of this region in this attempt")


class Bench(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    deadline = s.DateTimeField(allow_null=True)
    role = s.ChoiceField(choices=Membership.Role.choices)
    state = s.CharField()
    done = s.IntegerField(allow_null=True, help_text="the attempt in which every region passes")
    undecided = s.ListField(child=s.IntegerField(), help_text="regions")
    sizes = Size(many=True)
    size = s.IntegerField(allow_null=True)
    original = ImageOf()
    regions = RegionOf(many=True)
    attempts = AttemptOf(many=True)
    cells = CellOf(many=True)


class NaturalOf(Plain):
    low = s.FloatField()
    high = s.FloatField()
    n = s.IntegerField()
    null = s.CharField()


class MeasureOf(Plain):
    name = s.CharField()
    value = s.FloatField()
    unit = s.CharField()
    natural = NaturalOf()


class SeverityOf(Plain):
    severity = s.FloatField()
    word = s.CharField()


class FindingOf(Plain):
    id = s.IntegerField()
    kind = s.CharField()
    runner_up = s.CharField(allow_null=True)
    score = s.FloatField()
    confidence = s.FloatField()
    severities = s.DictField(child=SeverityOf(), help_text="by delivery size id")
    bbox = s.ListField(child=s.FloatField())
    polygon = s.ListField(child=s.ListField(child=s.FloatField()))
    measure = MeasureOf()
    evidence = s.DictField(help_text="by kind; described in docs/formats.md")
    group = s.CharField()
    answer = s.ChoiceField(choices=FindingRuling.Answer.choices)


class GroupOf(Plain):
    id = s.CharField()
    cause = s.CharField()
    words = s.CharField()
    bbox = s.ListField(child=s.FloatField())


class CellDetail(Plain):
    cell = s.IntegerField()
    checked = s.BooleanField()
    backdrop = s.CharField(allow_null=True)
    overall = s.FloatField(allow_null=True)
    scores = s.DictField(child=s.FloatField())
    abstained = s.DictField(child=s.CharField())
    groups = GroupOf(many=True)
    findings = FindingOf(many=True)


class RulingAsked(Plain):
    ruling = s.ChoiceField(choices=[choice for choice in Verdict.Ruling.choices if choice[0] != Verdict.Ruling.TAKEN_BACK])
    size = s.IntegerField(required=False, allow_null=True, help_text="needed for “passes at size”")


class AnswerAsked(Plain):
    answer = s.ChoiceField(choices=FindingRuling.Answer.choices)


class Answered(Plain):
    id = s.IntegerField()
    answer = s.ChoiceField(choices=FindingRuling.Answer.choices)


class EntryOf(Plain):
    id = s.IntegerField()
    at = s.DateTimeField()
    person = s.CharField(allow_null=True)
    what = s.CharField()
    about = s.CharField()
    before = s.JSONField(allow_null=True)
    after = s.JSONField(allow_null=True)


class Asked(Plain):
    state = s.CharField()


class ReleasedOf(Plain):
    id = s.IntegerField()
    picture = s.CharField()
    job = s.CharField()
    image = ImageOf()
    released_at = s.DateTimeField()
