"""What was decided: cases, findings, opinions, and the ledger of who did what when.

Triggers in the database (see ``triggers``) keep a signed case, opinions, readings and the ledger as they are.
"""

from pathlib import PurePath
from uuid import uuid4

from django.conf import settings
from django.db import models
from django.db.models import F, Q
from django.utils import timezone

from assay.judge.grade import Grade
from assay.judge.levels import Level
from assay.judge.rules import Ultraviolet, Verdict
from guides.models import STALLED
from library.models import Checkpoint
from pairs.models import Organisation, Pair, Photo, Reading

GRADES = [(grade.value, grade.value.replace("_", " ")) for grade in Grade]
LEVELS = [(level.value, level.value) for level in Level]
VERDICTS = [(verdict.value, verdict.value) for verdict in Verdict]


class Second(models.TextChoices):
    NEVER = "never", "never"
    FAKE = "fake", "before anybody is told that it is fake"
    PRICE = "price", "from a price on"
    ALWAYS = "always", "always"


class NearBasis(models.TextChoices):
    """What a shop's belief in nearly perfect copies rests on."""

    ASSUMED = "assumed", "nothing: assumed"
    OUTCOMES = "outcomes", "this shop’s outcomes"
    NEWS = "news", "news from makers or the trade"


class OrganisationPolicy(models.Model):
    """What a shop asks before it decides. A change is a new number."""

    organisation = models.ForeignKey(
        Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="policies"
    )
    number = models.PositiveIntegerField()
    red_flags = models.PositiveSmallIntegerField(default=3)
    coverage = models.FloatField(default=0.6)
    ultraviolet = models.CharField(
        max_length=14, choices=[(one.value, one.value.replace("_", " ")) for one in Ultraviolet], default="found_counts"
    )
    second = models.CharField(max_length=7, choices=Second, default=Second.NEVER)
    second_from = models.DecimalField(
        max_digits=8, decimal_places=2, null=True, blank=True, help_text="Asked price from which two must look"
    )
    level = models.CharField(max_length=8, choices=LEVELS, default=Level.STANDARD.value, help_text="Of a new case")
    full_from = models.DecimalField(
        max_digits=8,
        decimal_places=2,
        null=True,
        blank=True,
        help_text="Asked price from which a case is looked into fully",
    )
    decision_rule = models.CharField(
        max_length=40, default="weighs_everything", db_column="school", help_text="Key of the decision rule"
    )
    near_perfect = models.FloatField(default=0.01, help_text="Share of copies believed to get nearly all right")
    near_basis = models.CharField(max_length=8, choices=NearBasis, default=NearBasis.ASSUMED)
    legit_from = models.FloatField(default=13.0, help_text="Decibans; legit from here on")
    fake_from = models.FloatField(default=-20.0, help_text="Decibans; fake from here down")
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    recalibration = models.JSONField(
        default=dict, blank=True, help_text="Thresholds before they were moved by known outcomes, slope, shift, cases"
    )

    class Meta:
        db_table = "casework_housepolicy"
        verbose_name_plural = "shop policies"
        constraints = [
            models.CheckConstraint(condition=Q(fake_from__lt=F("legit_from")), name="policy_thresholds_do_not_cross"),
            models.UniqueConstraint(fields=["organisation", "number"], name="policy_number_once_a_house"),
            models.CheckConstraint(condition=Q(red_flags__gte=1, red_flags__lte=9), name="policy_flags_in_range"),
            models.CheckConstraint(condition=Q(coverage__gte=0, coverage__lte=1), name="policy_coverage_is_a_share"),
        ]

    def __str__(self):
        return f"{self.organisation} policy {self.number}"

    @property
    def rule_name(self) -> str:
        """The decision rule in words."""
        return self.decision_rule.replace("_", " ")


class Arrival(models.TextChoices):
    OWN_BOX = "own_box", "in its own box"
    OTHER_BOX = "other_box", "in another box"
    NO_BOX = "no_box", "without a box"


class Tool(models.TextChoices):
    UV_LAMP = "uv_lamp", "UV lamp"
    CALIPER = "caliper", "caliper or tape"
    CARD = "card", "bench card"
    TAG_READER = "tag_reader", "tag reader"


class Case(models.Model):
    organisation = models.ForeignKey(Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="cases")
    number = models.PositiveIntegerField()
    token = models.UUIDField(unique=True, default=uuid4, help_text="Of the form that started it: sent twice, one case")
    pair = models.OneToOneField(Pair, on_delete=models.PROTECT, related_name="case")
    reference = models.ForeignKey(
        Pair, on_delete=models.PROTECT, related_name="+", help_text="The retail pair beside it"
    )
    arrival = models.CharField(max_length=10, choices=Arrival, blank=True)
    in_hand = models.BooleanField(default=True)
    reference_in_hand = models.BooleanField(null=True, blank=True)
    tools = models.JSONField(default=list, blank=True, help_text="What is on the table")
    source = models.CharField(max_length=120, blank=True)
    asked_price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    level = models.CharField(
        max_length=8, choices=LEVELS, default=Level.STANDARD.value, help_text="How deep it is looked into"
    )
    opened_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    opened_at = models.DateTimeField(auto_now_add=True)
    analysed = models.PositiveSmallIntegerField(default=0, help_text="Checkpoints done in the running analysis")
    to_analyse = models.PositiveSmallIntegerField(default=0, help_text="Checkpoints in it; 0 = none is running")
    runs = models.PositiveSmallIntegerField(default=0, help_text="Of the analysis, queued or at work")
    analysis_began = models.DateTimeField(null=True, blank=True)
    second_of = models.ForeignKey(
        "self", on_delete=models.PROTECT, null=True, blank=True, related_name="seconds", help_text="Looks at it again"
    )
    round = models.BooleanField(default=False, help_text="Not blind: a further round, with new photographs")
    signed_at = models.DateTimeField(null=True, blank=True)
    discarded_at = models.DateTimeField(null=True, blank=True, help_text="Given up; the ledger says why")

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["organisation", "number"], name="case_number_once_a_house"),
            models.CheckConstraint(
                condition=Q(signed_at=None) | Q(discarded_at=None), name="what_is_signed_is_not_discarded"
            ),
            models.CheckConstraint(condition=~Q(pair=models.F("reference")), name="pair_is_not_its_own_reference"),
        ]

    def __str__(self):
        return f"{self.number:04d}"


class DeskNotes(models.Model):
    """What a counter writes on a slip of paper: no evidence, in no export, and it may change after the signature."""

    case = models.OneToOneField(Case, on_delete=models.CASCADE, related_name="desk")
    ticket = models.CharField(max_length=60, blank=True, help_text="Or the seller's name")
    shelf = models.CharField(max_length=40, blank=True, help_text="Where the pair stands")
    due_on = models.DateField(null=True, blank=True)
    promised = models.CharField(max_length=200, blank=True)
    to_ask = models.CharField(max_length=300, blank=True, help_text="Questions to the seller")

    class Meta:
        verbose_name_plural = "desk notes"

    def __str__(self):
        return self.ticket or f"notes on {self.case}"


class Finding(models.Model):
    """One checkpoint in one case: reading, grade, reason."""

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="findings")
    checkpoint = models.ForeignKey(Checkpoint, on_delete=models.PROTECT, related_name="findings")
    reading = models.ForeignKey(Reading, on_delete=models.PROTECT, null=True, blank=True, related_name="findings")
    grade = models.CharField(max_length=12, choices=GRADES, default=Grade.NOT_COMPARED.value)
    tail_probability = models.FloatField(null=True, blank=True)
    retail = models.JSONField(default=list, help_text="[pair label, value] of every retail pair that was used")
    retail_uncertainty = models.JSONField(
        default=list, blank=True, help_text="Standard uncertainty of each of them; empty: not known"
    )
    compared = models.JSONField(
        default=dict, blank=True, help_text="Of comparing measures: parts, overlay and with how many verified pairs"
    )
    reason = models.CharField(max_length=40, blank=True, help_text="Why not compared")
    void = models.JSONField(
        default=dict, blank=True, help_text="The clause that does not hold, where it does not apply"
    )
    confirmed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["case", "checkpoint"], name="finding_once_a_checkpoint"),
            models.CheckConstraint(
                condition=~Q(grade=Grade.RULES_OUT.value) | Q(confirmed_by__isnull=False),
                name="only_an_eye_rules_out",
            ),
            models.CheckConstraint(
                condition=Q(grade=Grade.NOT_COMPARED.value) | Q(reading__isnull=False, tail_probability__isnull=False),
                name="a_grade_rests_on_a_reading",
            ),
        ]

    def __str__(self):
        return f"{self.case} {self.checkpoint}: {self.grade}"


class Opinion(models.Model):
    """One checker's signed conclusion. A second one on the same case is linked to the first."""

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="opinions")
    follows = models.OneToOneField("self", on_delete=models.PROTECT, null=True, blank=True, related_name="followed_by")
    checker = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="opinions")
    verdict = models.CharField(max_length=10, choices=VERDICTS)
    proposed = models.CharField(max_length=10, choices=VERDICTS, help_text="What the shop's rule said")
    words = models.TextField(max_length=2000)
    anyway = models.TextField(max_length=500, blank=True, help_text="Why it was signed against the rule")
    against = models.JSONField(default=list, blank=True, help_text="What the rule asks and was not there")
    policy = models.ForeignKey(OrganisationPolicy, on_delete=models.PROTECT, related_name="+")
    decibans = models.FloatField(null=True, blank=True, help_text="What the findings weighed then, for retail")
    batch = models.CharField(max_length=80, blank=True, help_text="The batch that it was told as, if it is a copy")
    settling = models.JSONField(default=list, blank=True, help_text="Keys of the checks that would have settled it")
    signed_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(
                fields=["case"], condition=Q(follows__isnull=True), name="one_first_opinion_a_case"
            ),
        ]

    def __str__(self):
        return f"{self.case}: {self.verdict} ({self.checker})"


class SignedDocument(models.Model):
    """The whole case as one JSON document, as it stood under an opinion. Never changed."""

    opinion = models.OneToOneField(Opinion, on_delete=models.PROTECT, related_name="document")
    packed = models.BinaryField(help_text="Canonical JSON, deflated")
    sha256 = models.CharField(max_length=64, help_text="Of the JSON")

    def __str__(self):
        return f"{self.opinion.case}: {self.sha256[:12]}"


def crop_name(note, _filename):
    """Names on disk tell nothing."""
    return str(PurePath(f"case-{note.case_id}") / f"{uuid4().hex}.jpg")


class Note(models.Model):
    """A value taken with the stage's tools and kept beside a checkpoint, with its piece of the photograph."""

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="notes")
    checkpoint = models.ForeignKey(Checkpoint, on_delete=models.PROTECT, related_name="notes")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="notes")
    tool = models.CharField(max_length=12)
    points = models.JSONField()
    value = models.FloatField()
    unit = models.CharField(max_length=10)
    uncertainty = models.FloatField()
    parts = models.JSONField(default=dict)
    words = models.CharField(max_length=300, blank=True)
    crop = models.FileField(upload_to=crop_name)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self):
        return f"{self.case} {self.checkpoint}: {self.value:.2f} {self.unit}"


class Sighting(models.Model):
    """Something seen that no checkpoint names. It departs where a person is sure that it is like a copy's fault."""

    OF_NO_PART = "seen-on-no-list"

    class Sure(models.TextChoices):
        SURE = "sure", "sure"
        LIKELY = "likely", "likely"
        UNSURE = "unsure", "not sure"

    class Like(models.TextChoices):
        FAULT = "fault", "like a copy’s fault"
        ODD = "odd", "just odd"

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="sightings")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, null=True, blank=True, related_name="sightings")
    points = models.JSONField(default=list, help_text="None, a pin, or two corners of a box, px")
    name = models.CharField(max_length=80)
    words = models.CharField(max_length=300, blank=True, help_text="Where it is, what it is like")
    group = models.SlugField(max_length=60, help_text="Part or cause: it raises one flag with that group’s checks")
    sure = models.CharField(max_length=6, choices=Sure)
    like = models.CharField(max_length=5, choices=Like)
    crop = models.FileField(upload_to=crop_name, blank=True)
    taken_back = models.BooleanField(default=False)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self):
        return f"{self.case} seen: {self.name}"

    @property
    def grade(self) -> str:
        """Departs only where a person says so and is sure; likely ones drift, the rest is noted."""
        if self.like == self.Like.FAULT and self.sure == self.Sure.SURE:
            return Grade.DEPARTS.value
        if self.like == self.Like.FAULT and self.sure == self.Sure.LIKELY:
            return Grade.DRIFTS.value
        return Grade.NOT_COMPARED.value


class UploadLink(models.Model):
    """A phone's or a client's way in: photographs for one case, or for one that they begin; and nothing else."""

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="links", null=True, blank=True)
    organisation = models.ForeignKey(Organisation, db_column="house_id", on_delete=models.CASCADE, related_name="links")
    drop = models.UUIDField(null=True, blank=True, help_text="Without a case: the drop that its photographs lie in")
    secret_sha256 = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    expires_at = models.DateTimeField()
    files = models.PositiveSmallIntegerField(default=0)
    wanted = models.JSONField(default=list, help_text="What is asked for: view, foot, why; empty: what is missing")

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=Q(case__isnull=False, drop=None) | Q(case=None, drop__isnull=False),
                name="link_leads_to_a_case_or_a_drop",
            )
        ]

    def __str__(self):
        return f"{self.case or 'a drop'} until {self.expires_at:%F %T}"


class Certificate(models.Model):
    """A verdict as a client takes it along; its link shows whether it still stands, and nothing else."""

    opinion = models.OneToOneField(Opinion, on_delete=models.PROTECT, related_name="certificate")
    number = models.CharField(max_length=24, unique=True)
    secret = models.CharField(max_length=40, unique=True, help_text="Of its link")
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    issued_at = models.DateTimeField(auto_now_add=True)
    sealed = models.CharField(max_length=70, help_text="Digest of what was signed")
    head = models.CharField(max_length=64, help_text="Last digest of the shop's ledger when it was issued")

    def __str__(self):
        return self.number

    @property
    def against(self) -> list[str]:
        """What was said otherwise since: ``superseded`` by a later opinion, ``contradicted`` by a second look,
        ``outcome`` learned otherwise."""
        case, verdict = self.opinion.case, self.opinion.verdict
        later = case.opinions.filter(pk__gt=self.opinion_id).exclude(verdict=verdict)
        second = Opinion.objects.filter(case__second_of=case, case__round=False).exclude(verdict=verdict)
        last = case.outcomes.last()
        learned = last is not None and verdict in Outcome.So.values and last.so != verdict
        told = {"superseded": later.exists(), "contradicted": second.exists(), "outcome": learned}
        return [name for name, is_so in told.items() if is_so]


def certificate_name(kept, _filename):
    """Where a certificate's PDF lies."""
    return str(PurePath("certificates") / f"{kept.certificate.number}-{uuid4().hex[:8]}.pdf")


class CertificateFile(models.Model):
    """A certificate's PDF as it was first given out, under the shop's signature."""

    certificate = models.OneToOneField(Certificate, on_delete=models.PROTECT, related_name="given")
    file = models.FileField(upload_to=certificate_name)
    sha256 = models.CharField(max_length=64)
    signed_by = models.CharField(max_length=64, help_text="SHA-256 of the certificate of the key that signed it")
    made_at = models.DateTimeField(auto_now_add=True)

    def __str__(self):
        return f"{self.certificate}.pdf"


class Outcome(models.Model):
    """What was learned of a closed case's pair later: beside what was signed, and never in its place."""

    class So(models.TextChoices):
        LEGIT = "legit", "it was legit"
        FAKE = "fake", "it was fake"

    class How(models.TextChoices):
        MAKER = "maker", "the maker confirmed it"
        RETURNED = "returned", "it came back"
        DISPUTED = "disputed", "the client disputed it"
        ORGANISATION = "house", "a second shop looked"
        OTHER = "other", "in another way"

    case = models.ForeignKey(Case, on_delete=models.PROTECT, related_name="outcomes")
    so = models.CharField(max_length=5, choices=So)
    how = models.CharField(max_length=8, choices=How)
    source = models.CharField(max_length=200, help_text="Who said so, and where it is written")
    learned_on = models.DateField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self):
        return f"{self.case}: {self.so}"


class CaliperCheck(models.Model):
    """What a person measured or counted by hand, beside what was read: the shop's own validation."""

    reading = models.OneToOneField("pairs.Reading", on_delete=models.CASCADE, related_name="by_hand")
    value = models.FloatField()
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now=True)

    def __str__(self):
        return f"{self.reading}: {self.value:g} by hand"


class Invitation(models.Model):
    """One person's way into a shop, once."""

    organisation = models.ForeignKey(
        Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="invitations"
    )
    role = models.CharField(max_length=10)
    secret_sha256 = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    expires_at = models.DateTimeField()
    used_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )
    used_at = models.DateTimeField(null=True, blank=True)

    def __str__(self):
        return f"{self.role} of {self.organisation} until {self.expires_at:%F %T}"


class LedgerEntry(models.Model):
    """Who did what when. Only ever added to."""

    organisation = models.ForeignKey(
        Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="ledger"
    )
    case = models.ForeignKey(Case, on_delete=models.PROTECT, null=True, blank=True, related_name="ledger")
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    action = models.CharField(max_length=40, db_column="deed")
    details = models.JSONField(default=dict)
    at = models.DateTimeField()
    previous = models.CharField(max_length=64, help_text="Digest of the shop's line before")
    digest = models.CharField(max_length=64)

    class Meta:
        ordering = ["id"]
        verbose_name_plural = "ledger entries"

    def __str__(self):
        return f"{self.at:%F %T} {self.actor} {self.action}"


class SignedHead(models.Model):
    """A line of the ledger under the shop's key: whoever rewrites the lines before it cannot sign them anew."""

    line = models.OneToOneField(LedgerEntry, on_delete=models.PROTECT, related_name="head")
    digest = models.CharField(max_length=64)
    key = models.CharField(max_length=64, help_text="Public, Ed25519, hexadecimal")
    signature = models.CharField(max_length=128)

    def __str__(self):
        return f"{self.digest[:12]} by {self.key[:12]}"


def dropped_name(dropped, _filename):
    """Where a photograph lies that no case has yet."""
    return str(PurePath("dropped") / f"{dropped.token.hex}-{uuid4().hex}.jpg")


class DroppedPhoto(models.Model):
    """A photograph dropped on the counter before its case is known: its print and bars say which release it is."""

    organisation = models.ForeignKey(
        Organisation, db_column="house_id", on_delete=models.CASCADE, related_name="dropped"
    )
    token = models.UUIDField(db_index=True, help_text="Of one drop")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    file = models.FileField(upload_to=dropped_name, help_text="Upright, without anything personal")
    name_given = models.CharField(max_length=120, blank=True)
    received = models.JSONField(help_text="What else is known of the file: size, digest, focal length, doubts, time")
    is_read = models.BooleanField(default=False)
    codes = models.JSONField(default=list, help_text="Style codes of releases that were read on it")
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self):
        return self.name_given


class SetComparison(models.Model):
    """Two drops of photographs side by side: neither pair is verified, and nothing of it enters library or case."""

    organisation = models.ForeignKey(Organisation, on_delete=models.CASCADE, related_name="+")
    token = models.UUIDField(unique=True, help_text="The two drops' tokens follow from it")
    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    to_do = models.PositiveSmallIntegerField(default=0, help_text="Matched photographs, once that is known")
    is_matched = models.BooleanField(default=False)
    found = models.JSONField(default=list, help_text="By matched photographs: what reads on both, and what differs")
    touched_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self):
        return f"sets {self.token}, {len(self.found)} of {self.to_do}"

    @property
    def runs(self) -> bool:
        return not self.is_matched or len(self.found) < self.to_do

    @property
    def stalled(self) -> bool:
        """Nothing was done for so long that it may be gone on with."""
        return self.runs and self.touched_at < timezone.now() - STALLED


class Revision(models.Model):
    """A random word that triggers renew with every change of what an assessment rests on (see ``revisions``)."""

    scope = models.CharField(max_length=40, primary_key=True)
    word = models.CharField(max_length=16)

    def __str__(self):
        return f"{self.scope}: {self.word}"
