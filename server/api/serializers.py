"""The shapes of what the API says; the web's types are generated from them."""

from __future__ import annotations

import math
from typing import Any

from rest_framework import serializers as s

from checks.models import FindingRuling, OutsideRuling
from jobs.models import Membership
from verdicts.models import Verdict
from zweiblick_core.rules.bar import SAID
from zweiblick_core.rules.rights import USES
from zweiblick_core.visibility import WORDS


class Plain(s.Serializer[Any]):
    """A read-only shape, filled from dicts."""

    def create(self, validated_data: Any) -> None:
        raise NotImplementedError

    def update(self, instance: Any, validated_data: Any) -> None:
        raise NotImplementedError


class Whole(s.IntegerField):
    """A whole number that is asked for: a row, a pixel. Nothing of ours is larger."""

    def __init__(self, **more: Any) -> None:
        super().__init__(**{"min_value": 0, "max_value": 2**63 - 1, **more})


class Finite(s.FloatField):
    """A number that is asked for: neither infinite nor not a number."""

    def to_internal_value(self, data: Any) -> Any:
        value = super().to_internal_value(data)
        if not math.isfinite(value):
            raise s.ValidationError("A number is needed.")
        return value


class Bounded(s.ListField):
    """A list that is asked for: counted before any of it is looked at."""

    def to_internal_value(self, data: Any) -> Any:
        if isinstance(data, list | tuple) and self.max_length and len(data) > self.max_length:
            raise s.ValidationError(f"At most {self.max_length} are taken.")
        return super().to_internal_value(data)


class Points(Bounded):
    """Places in a picture, [x, y] each."""

    def __init__(self, **more: Any) -> None:
        super().__init__(
            child=Bounded(child=Finite(min_value=-1e6, max_value=1e6), min_length=2, max_length=2),
            **more,
        )


class Failure(Plain):
    error = s.CharField()


class Credentials(Plain):
    username = s.CharField(max_length=150)
    password = s.CharField(max_length=200, trim_whitespace=False)


class Session(Plain):
    signed_in = s.BooleanField()
    id = s.IntegerField(allow_null=True)
    name = s.CharField(allow_null=True)
    username = s.CharField(allow_null=True)
    role = s.ChoiceField(
        choices=Membership.Role.choices, allow_null=True, help_text="the widest role in any job"
    )
    makes_jobs = s.BooleanField()
    csrf = s.CharField()


class Size(Plain):
    id = s.IntegerField()
    name = s.CharField()
    spec = s.CharField()
    scale = s.FloatField(help_text="output pixels for one pixel of the original")
    millimetres = s.FloatField(
        allow_null=True,
        help_text="on paper for one pixel of the original; null for sizes in pixels",
    )
    distance = s.FloatField(help_text="from eye to picture, millimetres")
    seen_whole = s.BooleanField(help_text="whether passing at it asks for a look at 100 % first")


#: How the Desk can be sorted; the first is how it is.
SORTS = ("deadline", "worst", "name")
#: What a picture can need: its state while it is not signed off, that it is, or another check.
NEEDS = (
    "undecided",
    "sent back",
    "changed outside",
    "to assemble",
    "asked",
    "asked of you",
    "done",
    "signed off",
    "empty",
    "failed checks",
)


#: How soon a picture's job is due.
DUE = ("", "overdue", "today", "week", "none")
#: Severity words that say something is visible, the least visible first.
SEEN_WORDS = WORDS[1:]


class PersonNamed(Plain):
    id = s.IntegerField()
    name = s.CharField()


class DeskPicture(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    role = s.ChoiceField(choices=Membership.Role.choices, help_text="the person's, in that job")
    deadline = s.DateTimeField(allow_null=True)
    state = s.CharField(
        help_text="done, changed outside, to assemble, asked, sent back, undecided, empty"
    )
    signed = s.BooleanField(help_text="it is signed off")
    charge = PersonNamed(allow_null=True, help_text="the supervisor in charge of it")
    asks_you = s.IntegerField(help_text="regions at which one's own second look is waited for")
    regions = s.IntegerField()
    undecided = s.IntegerField()
    unexamined = s.IntegerField(
        help_text="undecided regions of which no attempt has been examined yet"
    )
    attempts = s.IntegerField()
    worst = s.CharField(
        allow_null=True,
        help_text="the worst severity word among undecided regions in their best attempt",
    )
    worst_kind = s.CharField(allow_null=True)
    worst_severity = s.FloatField(allow_null=True)
    checking = s.IntegerField(help_text="checks waiting or running")
    progress = s.FloatField(allow_null=True)
    failed = s.IntegerField()
    crop = s.CharField(
        allow_null=True,
        help_text="address of a small picture of the original; null until the person has opened the picture, so that a cold look stays possible",
    )


class DeskAsked(Plain):
    q = s.CharField(
        max_length=200,
        allow_blank=True,
        required=False,
        default="",
        help_text="words of the picture's or job's name, or its number; all must be there",
    )
    job = Whole(required=False, allow_null=True, default=None)
    need = s.ChoiceField(choices=("", *NEEDS), required=False, default="", allow_blank=True)
    kind = s.CharField(
        max_length=20,
        allow_blank=True,
        required=False,
        default="",
        help_text="the worst flaw in the attempts that rank best is of this kind",
    )
    severity = s.ChoiceField(
        choices=("", *SEEN_WORDS),
        required=False,
        default="",
        allow_blank=True,
        help_text="the worst flaw is at least this visible",
    )
    method = s.CharField(
        max_length=120,
        allow_blank=True,
        required=False,
        default="",
        help_text="an attempt of it is by this method",
    )
    due = s.ChoiceField(choices=DUE, required=False, default="", allow_blank=True)
    charge = s.RegexField(
        r"^(|mine|nobody|[0-9]{1,15})$",
        allow_blank=True,
        required=False,
        default="",
        help_text="who is in charge: mine, nobody, or a person's number",
    )
    sort = s.ChoiceField(choices=SORTS, required=False, default=SORTS[0])


class JobNamed(Plain):
    id = s.IntegerField()
    name = s.CharField()


class Desk(Plain):
    pictures = DeskPicture(many=True)
    matching = s.IntegerField(help_text="pictures that are looked for, on all pages")
    jobs = JobNamed(many=True, help_text="to choose one from")
    kinds = s.ListField(child=s.CharField(), help_text="to choose one from")
    methods = s.ListField(child=s.CharField(), help_text="to choose one from")
    supervisors = PersonNamed(many=True, help_text="of one's jobs; to choose one from")
    total = s.IntegerField(help_text="pictures there are, on all pages")
    more = s.IntegerField(allow_null=True, help_text="where the next page begins; null at the end")
    done = s.IntegerField(help_text="pictures that are done, on all pages")
    undecided = s.IntegerField(help_text="regions that are undecided, on all pages")
    awaiting = s.IntegerField(help_text="pictures with undecided regions, on all pages")
    stamp = s.CharField(help_text="changes with anything that is shown; ask with it as `since`")
    changed = s.BooleanField(help_text="false if nothing changed since: then no picture is listed")


class ImageOf(Plain):
    id = s.IntegerField()
    width = s.IntegerField()
    height = s.IntegerField()
    tiles = s.CharField()
    ready = s.BooleanField()
    name = s.CharField()
    facts = s.CharField(help_text="format, depth and profile in words")


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
    under_bar = s.BooleanField(help_text="below the severity from which it fails for this client")


class OutsideOf(Plain):
    number = s.IntegerField()
    kind = s.CharField()
    words = s.CharField()
    confidence = s.FloatField()
    severities = s.DictField(child=SeverityOf(), help_text="by delivery size id")
    bbox = s.ListField(child=s.FloatField())
    polygon = s.ListField(child=s.ListField(child=s.FloatField()))
    measure = MeasureOf()
    evidence = s.DictField()
    answer = s.ChoiceField(choices=OutsideRuling.Answer.choices)
    answered_by = s.CharField(allow_null=True)


class CheckOf(Plain):
    id = s.IntegerField()
    state = s.CharField()
    progress = s.FloatField()
    words = s.CharField()
    overall = s.FloatField(allow_null=True)
    reason = s.CharField()
    about = s.ListField(
        child=s.CharField(),
        help_text="how it was brought into register, and what is known of it before any flaw",
    )
    outside = OutsideOf(many=True, help_text="what changed outside every region")


class AttemptOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    method = s.CharField()
    kind = s.CharField()
    maker = s.CharField()
    seconds = s.FloatField(allow_null=True)
    cost = s.CharField(allow_null=True)
    settings = s.DictField()
    made_from = s.ListField(child=s.IntegerField(), help_text="attempts it was made from")
    left_house = s.BooleanField(allow_null=True, help_text="null: nobody said")
    cropped_when = s.CharField(help_text="before or after it was worked on; empty: nobody said")
    barred = s.CharField(
        allow_null=True, help_text="why its terms, or of what it is made from, don't allow the job"
    )
    slip = s.IntegerField(allow_null=True, help_text="the slip that it answers")
    image = ImageOf()
    check_of = CheckOf(allow_null=True)


class SpentOf(Plain):
    rounds = s.IntegerField(help_text="how often it was sent back")
    seconds = s.FloatField(help_text="of work, over all rounds")
    cost = s.CharField(allow_null=True)
    stop = s.CharField(allow_null=True, help_text="why to stop sending it back, if one should")


class PersonOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    role = s.ChoiceField(choices=Membership.Role.choices)


class SecondOf(Plain):
    id = s.IntegerField()
    cell = s.IntegerField()
    asked = s.CharField()
    mine = s.BooleanField(help_text="it is asked of whoever reads this")
    by = s.CharField()
    words = s.CharField()
    at = s.DateTimeField()
    ruling = s.ChoiceField(choices=Verdict.Ruling.choices, allow_null=True)
    size = s.CharField(allow_null=True)
    answer = s.CharField(help_text="in words, as it was said")
    answered_at = s.DateTimeField(allow_null=True)


class WithdrawnAttempt(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    method = s.CharField()


class LeftOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    person = s.CharField()
    words = s.CharField()
    at = s.DateTimeField()


class RegionOf(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    bbox = s.ListField(child=s.FloatField())
    outlines = s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField())))
    state = s.CharField(help_text="holds, rework, rebuild, asked, undecided")
    holder = s.IntegerField(allow_null=True, help_text="the attempt in which it holds")
    order = s.ListField(child=s.IntegerField(), help_text="attempts, the one that holds best first")
    backdrop = s.CharField(allow_null=True)
    spent = SpentOf(allow_null=True, help_text="null: it was never sent back")
    second = SecondOf(allow_null=True, help_text="the second look that was asked for last")


class VerdictOf(Plain):
    id = s.IntegerField()
    ruling = s.ChoiceField(choices=Verdict.Ruling.choices)
    carried = s.BooleanField(
        help_text="came over from an earlier attempt, the pixels being proven the same"
    )
    size = s.CharField(allow_null=True)
    person = s.CharField()
    words = s.CharField()
    at = s.DateTimeField()


class CellOf(Plain):
    id = s.IntegerField()
    region = s.IntegerField()
    attempt = s.IntegerField()
    state = s.CharField(help_text="passes, passes at size, rework, rebuild, not needed, undecided")
    asked = s.BooleanField(
        help_text="not needed, and asked for all the same: one in twenty, by lot"
    )
    revision = s.IntegerField()
    verdict = VerdictOf(allow_null=True)
    overall = s.FloatField(allow_null=True)
    findings = s.IntegerField()
    worst_kind = s.CharField(allow_null=True)
    worst_severity = s.FloatField(allow_null=True)
    worst_word = s.CharField(allow_null=True)
    passes_at = s.ListField(
        child=s.IntegerField(),
        help_text="delivery sizes at which no finding reaches the client's bar, the one that shows most first; empty before a check",
    )
    worked = s.CharField(
        allow_null=True,
        help_text="how the area that was worked lies to the region's outline, in words",
    )
    outcome = s.CharField(
        allow_null=True,
        help_text="of a region that was sent back, in the attempt that came back: fixed, to be looked at, still there, worse, new flaw",
    )
    crop = s.CharField(help_text="address of a small picture of this region in this attempt")
    cold_looks = s.IntegerField(help_text="cold looks at the attempt")
    noticed = s.IntegerField(help_text="in how many of them this region was noticed")


class BenchSlip(Plain):
    id = s.IntegerField()
    round = s.IntegerField()
    state = s.CharField()
    attempt = s.IntegerField()
    regions = s.ListField(child=s.IntegerField())


class AssemblyPartOf(Plain):
    region = Whole()
    attempt = Whole()


class AssemblyOf(Plain):
    id = s.IntegerField()
    state = s.CharField(help_text="waiting, running, done, refused")
    progress = s.FloatField()
    reason = s.CharField()
    attempt = s.IntegerField(allow_null=True)
    parts = AssemblyPartOf(many=True)


class AssemblyAsked(Plain):
    parts = AssemblyPartOf(many=True, allow_empty=False)


class BenchSigned(Plain):
    attempt = s.IntegerField()
    person = s.CharField()
    at = s.DateTimeField()


class Bench(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    job = s.CharField()
    job_id = s.IntegerField()
    bar = s.DictField(
        child=s.FloatField(), help_text="the client's bar: severity by kind from which it fails"
    )
    deadline = s.DateTimeField(allow_null=True)
    role = s.ChoiceField(choices=Membership.Role.choices)
    state = s.CharField()
    done = s.IntegerField(allow_null=True, help_text="the attempt in which every region passes")
    held_up = s.ListField(
        child=s.IntegerField(),
        help_text="attempts that what they changed outside every region keeps from being done",
    )
    signed = BenchSigned(allow_null=True, help_text="the sign-off that stands")
    undecided = s.ListField(child=s.IntegerField(), help_text="regions")
    withdrawn = WithdrawnAttempt(many=True, help_text="attempts that were withdrawn")
    siblings = s.IntegerField(help_text="near-identical pictures of the job")
    left = LeftOf(many=True, help_text="regions of which it was ruled that the thing stays")
    askable = PersonOf(many=True, help_text="whose eyes can be asked for")
    opens_marks = s.ListField(
        child=s.ChoiceField(choices=["original", "attempt"]),
        help_text="what must have been seen of a cell before its findings are shown",
    )
    sizes = Size(many=True)
    size = s.IntegerField(allow_null=True)
    original = ImageOf()
    regions = RegionOf(many=True)
    attempts = AttemptOf(many=True)
    cells = CellOf(many=True)
    failed = s.ListField(
        child=s.IntegerField(), help_text="attempts with regions that a slip can take"
    )
    slips = BenchSlip(many=True)
    assembly = AssemblyOf(
        allow_null=True, help_text="the last attempt that was asked to be put together from others"
    )


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
    words = s.CharField(help_text="what a person said of it")


class GroupOf(Plain):
    id = s.CharField()
    cause = s.CharField()
    words = s.CharField()
    bbox = s.ListField(child=s.FloatField())


class OwnFindingOf(Plain):
    id = s.IntegerField()
    kind = s.CharField()
    severity = s.FloatField()
    word = s.CharField()
    size = s.CharField(allow_null=True, help_text="the delivery size that the severity counts for")
    size_id = s.IntegerField(allow_null=True)
    words = s.CharField()
    polygon = s.ListField(child=s.ListField(child=s.FloatField()))
    bbox = s.ListField(child=s.FloatField())
    person = s.CharField()
    carried_from = s.IntegerField(
        allow_null=True, help_text="the number of the attempt it was marked in, the same here"
    )
    at = s.DateTimeField()


class OwnFindingAsked(Plain):
    kind = s.CharField(max_length=20)
    severity = s.ChoiceField(choices=list(SAID))
    size = Whole(allow_null=True, required=False, default=None)
    words = s.CharField(max_length=2000, allow_blank=True, required=False, default="")
    polygon = Points(min_length=3, max_length=2000)


class KindOf(Plain):
    name = s.CharField()
    says = s.CharField(help_text="what a person sees")
    machine = s.BooleanField(help_text="whether the machine looks for it")


class BarAsked(Plain):
    bar = s.DictField(
        child=Finite(),
        help_text="severity 0..1 by kind from which it fails; a kind that is missing fails as soon as it can be seen; above 1 never",
    )


class CellDetail(Plain):
    cell = s.IntegerField()
    own = OwnFindingOf(many=True, help_text="flaws that people outlined")
    checked = s.BooleanField()
    backdrop = s.CharField(allow_null=True)
    overall = s.FloatField(allow_null=True)
    scores = s.DictField(child=s.FloatField())
    abstained = s.DictField(child=s.CharField())
    groups = GroupOf(many=True)
    findings = FindingOf(many=True)
    order = s.DictField(
        child=s.ListField(child=s.IntegerField()),
        help_text="by size: the findings in the order they are walked",
    )
    covers = s.DictField(
        child=s.BooleanField(),
        help_text="by size: whether findings cover so much that one ruling is offered",
    )
    covered = s.DictField(
        child=s.FloatField(),
        help_text="by size: the share of the region under what is visible there, reaches the bar and was not denied or let pass",
    )


class SizeAsked(Plain):
    name = s.CharField(max_length=80)
    spec = s.CharField(max_length=80)


class SizeNamed(SizeAsked):
    id = s.IntegerField()


class PictureNamed(Plain):
    id = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()


class JobOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    client = s.CharField()
    use = s.CharField(help_text="what its pictures are for")
    deadline = s.DateTimeField(allow_null=True)
    role = s.ChoiceField(choices=Membership.Role.choices)
    sizes = SizeNamed(many=True)
    people = PersonOf(many=True)
    pictures = PictureNamed(many=True)
    waiting = s.IntegerField(help_text="files that arrived and are not brought in yet")


class MemberAsked(Plain):
    person = Whole()
    role = s.ChoiceField(choices=Membership.Role.choices)


class JobAsked(Plain):
    name = s.CharField(max_length=160)
    client = s.CharField(max_length=160, allow_blank=True, required=False, default="")
    deadline = s.DateTimeField(allow_null=True, required=False, default=None)
    use = s.ChoiceField(choices=USES, required=False, default="paying client")
    sizes = SizeAsked(many=True, allow_empty=False)
    people = MemberAsked(many=True, required=False, default=list)


class Upload(Plain):
    file = s.FileField(allow_empty_file=True)


class AnsweredOf(Plain):
    id = s.IntegerField()
    words = s.CharField()
    worker = s.CharField(help_text="with whom the slip is")


class ArrivalOf(Plain):
    id = s.IntegerField()
    name = s.CharField()
    state = s.CharField(help_text="reading, ready, refused")
    reason = s.CharField(help_text="why it was refused")
    size = s.IntegerField(help_text="bytes")
    width = s.IntegerField()
    height = s.IntegerField()
    facts = s.CharField()
    small = s.CharField(allow_null=True)
    part = s.CharField(
        allow_null=True, help_text="what its name or content tells: original, result, mask"
    )
    words = s.ListField(
        child=s.CharField(),
        help_text="of its name, without what says its part or number: the picture's name, the method",
    )
    answers = AnsweredOf(allow_null=True, help_text="the slip that it comes back on")
    kept_until = s.DateTimeField(help_text="when it is forgotten, unless it is brought in")


class OutlineSuggested(Plain):
    result = s.IntegerField()
    mask = s.IntegerField()


class GroupSuggested(Plain):
    name = s.CharField()
    picture = s.IntegerField(
        allow_null=True, help_text="the one that is there already, of which these are results"
    )
    original = s.IntegerField(allow_null=True)
    mask = s.IntegerField(allow_null=True)
    results = s.ListField(child=s.IntegerField())
    outlines = OutlineSuggested(many=True, help_text="masks that results were made with")


class FitAsked(Plain):
    original = Whole(required=False, allow_null=True, help_text="an arrival")
    picture = Whole(required=False, allow_null=True, help_text="or a picture of the job")
    result = Whole()


class FitOf(Plain):
    state = s.CharField(help_text="working, done, failed; ask again while it is working")
    fits = s.BooleanField()
    reason = s.CharField()
    regions = s.IntegerField(help_text="that would be proposed from what changed")
    cropped = s.BooleanField(help_text="it shows a part of the original only")
    words = s.ListField(
        child=s.CharField(),
        help_text="how it lies on the original, and what of its saving is another",
    )


class BroughtIn(Plain):
    id = s.IntegerField()
    state = s.CharField(help_text="working, done, refused")
    progress = s.FloatField()
    reason = s.CharField(help_text="why it was refused; nothing was stored then")
    picture = s.IntegerField(allow_null=True)
    regions = s.IntegerField()
    attempts = s.IntegerField()


#: What can be ruled.
RULINGS = [choice for choice in Verdict.Ruling.choices if choice[0] != Verdict.Ruling.TAKEN_BACK]


class RulingAsked(Plain):
    ruling = s.ChoiceField(choices=RULINGS)
    size = Whole(required=False, allow_null=True, help_text="needed for “passes at size”")
    run = Whole(required=False, allow_null=True, default=None, help_text="ruled in this run")
    seconds = Finite(
        min_value=0,
        max_value=86_400,
        required=False,
        allow_null=True,
        default=None,
        help_text="how long the cell was looked at",
    )


class WordsAsked(Plain):
    words = s.CharField(max_length=2000, allow_blank=True)


class AnswerAsked(Plain):
    answer = s.ChoiceField(
        choices=FindingRuling.Answer.choices,
        required=False,
        allow_null=True,
        default=None,
        help_text="null: as it was answered before",
    )
    words = s.CharField(
        max_length=2000,
        required=False,
        allow_null=True,
        allow_blank=True,
        default=None,
        help_text="said of the finding; null: as before",
    )


class OutsideAsked(Plain):
    number = Whole(help_text="the change, as the attempt's newest check numbers it")
    answer = s.ChoiceField(choices=OutsideRuling.Answer.choices)


class Answered(Plain):
    id = s.IntegerField()
    answer = s.ChoiceField(choices=FindingRuling.Answer.choices)
    words = s.CharField()


class EntryOf(Plain):
    id = s.IntegerField()
    at = s.DateTimeField()
    person = s.CharField(allow_null=True)
    what = s.CharField()
    about = s.CharField()
    before = s.JSONField(allow_null=True)
    after = s.JSONField(allow_null=True)


class HistoryPage(Plain):
    entries = EntryOf(many=True)
    more = s.IntegerField(
        allow_null=True, help_text="ask with it as `before` for what came earlier; null at the end"
    )


class PasswordAsked(Plain):
    old = s.CharField(max_length=200, trim_whitespace=False)
    new = s.CharField(max_length=200, trim_whitespace=False)


class Asked(Plain):
    state = s.CharField()


class RemarkOf(Plain):
    id = s.IntegerField()
    person = s.CharField()
    words = s.CharField()
    place = s.ListField(
        child=s.FloatField(), allow_null=True, help_text="x, y in the picture; null: of the whole"
    )
    attempt = s.IntegerField(help_text="its number")
    made_at = s.DateTimeField()
    answer = s.CharField()
    answered_by = s.CharField(allow_null=True)
    answered_at = s.DateTimeField(allow_null=True)
    kind = s.CharField(allow_null=True, help_text="of the finding that it became")


class QuestionOf(Plain):
    id = s.IntegerField()
    words = s.CharField()
    by = s.CharField()
    bbox = s.ListField(child=s.FloatField())
    answered = s.BooleanField()


class ReleasedOf(Plain):
    id = s.IntegerField()
    picture = s.CharField()
    job = s.CharField()
    original = ImageOf()
    image = ImageOf()
    released_at = s.DateTimeField()
    remarks = RemarkOf(many=True, help_text="one's own")
    questions = QuestionOf(many=True, help_text="what one is asked about it")


class SecondAsked(Plain):
    person = Whole(help_text="of the Bench's `askable`")
    words = s.CharField(max_length=2000, required=False, default="", allow_blank=True)


class Words(Plain):
    words = s.CharField(max_length=4000)


class LeftAsked(Plain):
    words = s.CharField(max_length=2000, required=False, default="", allow_blank=True)


class RemarkAsked(Plain):
    words = s.CharField(max_length=4000)
    place = Bounded(
        child=Finite(min_value=0, max_value=1e6),
        min_length=2,
        max_length=2,
        allow_null=True,
        required=False,
        default=None,
        help_text="x, y in the picture; null: of the whole",
    )


class RemarkAnswered(Plain):
    words = s.CharField(max_length=4000, allow_blank=True, required=False, default="")
    region = Whole(allow_null=True, required=False, default=None)
    kind = s.CharField(
        max_length=20,
        allow_null=True,
        required=False,
        default=None,
        help_text="it becomes a person's finding of this kind in that region",
    )
    severity = s.ChoiceField(choices=tuple(SAID), required=False, default="clear")


class SpotAsked(Plain):
    x = Whole(min_value=0)
    y = Whole(min_value=0)
    a = Whole()
    b = Whole()


class Spot(Plain):
    srgb = s.ListField(child=s.FloatField(), min_length=3, max_length=3)
    lab = s.ListField(child=s.FloatField(), min_length=3, max_length=3)
    noise = s.FloatField(help_text="deviation of the finest detail around it, levels of 255")


class Spots(Plain):
    x = s.IntegerField()
    y = s.IntegerField()
    a = Spot()
    b = Spot()
    ciede2000 = s.FloatField()


class AidOf(Plain):
    name = s.CharField()
    words = s.CharField()
    says = s.CharField(help_text="what it shows, in one line")


class AidState(Plain):
    ready = s.BooleanField(help_text="whether the whole frame stands; full-size tiles always do")
    state = s.CharField()
    progress = s.FloatField()


class SettingOf(Plain):
    name = s.CharField()
    before = s.JSONField(allow_null=True)
    after = s.JSONField(allow_null=True)


class StrengthOf(Plain):
    chance = s.FloatField(
        help_text="of being found better than an average attempt, by blind pairs (Bradley and Terry)"
    )
    low = s.FloatField(help_text="of its 90 % interval")
    high = s.FloatField()
    pairs = s.IntegerField()


class SpreadRow(Plain):
    attempt = s.IntegerField()
    differs = SettingOf(many=True, help_text="settings that its better neighbour did not have so")
    group = s.CharField(allow_null=True, help_text="the most visible group of findings, in words")
    word = s.CharField(allow_null=True)
    strength = StrengthOf(allow_null=True)


class PickedOf(Plain):
    attempt = s.IntegerField()
    person = s.CharField()


class Spread(Plain):
    region = s.IntegerField()
    rows = SpreadRow(many=True, help_text="in order of how well they hold")
    pairs = s.IntegerField(help_text="blind pairs chosen so far")
    picked = PickedOf(allow_null=True)
    agreement = s.FloatField(
        allow_null=True, help_text="Kendall's tau of the machine's order and the pairs'"
    )


class Became(Plain):
    kind = s.CharField()
    word = s.CharField(help_text="fixed, to be looked at, new flaw, still there, worse")


class RegionChanged(Plain):
    region = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    word = s.CharField(
        allow_null=True, help_text="the worst of its kinds; null where nothing was found in either"
    )
    kinds = Became(many=True)


class ChangesOf(Plain):
    before = s.IntegerField()
    after = s.IntegerField()
    judged = s.BooleanField(help_text="whether both were judged")
    settings = SettingOf(many=True)
    regions = RegionChanged(many=True)
    outside = Became(many=True)


class PickAsked(Plain):
    attempt = Whole()


class PairOf(Plain):
    region = s.IntegerField()
    left = ImageOf(allow_null=True, help_text="without its name")
    right = ImageOf(allow_null=True)
    pairs = s.IntegerField()
    mine = s.IntegerField()


class PairAsked(Plain):
    left = Whole(help_text="an image")
    right = Whole()
    better = s.ChoiceField(choices=["left", "right", "no difference"])


class ColdOne(Plain):
    attempt = s.IntegerField()
    image = ImageOf(help_text="without its name")
    cold = s.BooleanField(
        help_text="whether the person has seen neither the original nor any attempt"
    )


class ColdAsked(Plain):
    clicks = Points(
        max_length=50,
        help_text="where the eye stopped, [x, y]; none is “nothing”",
    )
    flipped = s.BooleanField(default=False)
    seconds = Finite(min_value=0, max_value=1e8, allow_null=True, required=False, default=None)


class ClickOf(Plain):
    x = s.FloatField()
    y = s.FloatField()
    regions = s.ListField(child=s.IntegerField(), help_text="numbers of the regions it fell on")
    kinds = s.ListField(child=s.CharField(), help_text="of the findings it fell on")


class NoticedOf(Plain):
    region = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    outlines = s.ListField(child=s.ListField(child=s.ListField(child=s.FloatField())))
    noticed = s.BooleanField()
    times = s.IntegerField(help_text="in how many cold looks at this attempt it was noticed")
    looks = s.IntegerField(help_text="of how many")


class Uncovered(Plain):
    id = s.IntegerField()
    cold = s.BooleanField()
    flipped = s.BooleanField()
    picture = s.IntegerField()
    number = s.IntegerField()
    name = s.CharField()
    attempt = s.IntegerField()
    clicks = ClickOf(many=True)
    regions = NoticedOf(many=True)


class EvidenceCurve(Plain):
    what = s.ChoiceField(
        choices=["step", "spectrum"],
        help_text="colour steps across the rim, or contrast of detail by its size",
    )
    unit = s.CharField()
    at = s.ListField(
        child=s.FloatField(), help_text="shares of the way around the rim, or wavelengths in pixels"
    )
    value = s.ListField(child=s.FloatField())
    low = s.ListField(child=s.FloatField(), help_text="5th percentile of the surroundings")
    high = s.ListField(child=s.FloatField(), help_text="95th percentile of the surroundings")
    found = s.ListField(child=s.BooleanField(), help_text="whether the finding covers the place")


class EvidencePicture(Plain):
    says = s.CharField(help_text="what is where in it")
    width = s.IntegerField()
    height = s.IntegerField()
    agreement = s.FloatField(
        allow_null=True, help_text="of the grain of a copy and its source, -1..1"
    )
    curve = EvidenceCurve(allow_null=True)
    png = s.CharField(help_text="the picture, as a data address")
