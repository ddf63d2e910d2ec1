"""What was seen: pairs, photographs, marks, readings."""

from pathlib import PurePath
from uuid import uuid4

from django.conf import settings
from django.db import models
from django.db.models import Q

from assay.contracts import CORRECTED_BY_HAND
from assay.pipeline.facts import PhotoFitness, PhotoLight, Scale, Sorting
from library import photo_kinds
from library.models import BOTH_FEET, Batch, Checkpoint, Foot, Release
from pairs.fields import StoredField


class Organisation(models.Model):
    """Who owns pairs and cases: one counter. Its members see all of it, nobody else sees any."""

    name = models.CharField(max_length=80, unique=True)
    members = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="organisations")
    private = models.BooleanField(default=False, help_text="Keeps its releases and guides to itself")
    link_days = models.PositiveSmallIntegerField(default=7, help_text="How long a client's link lasts")
    says_counterfeit = models.BooleanField(default=False, help_text="Words for clients may say “counterfeit”")
    two_verify = models.BooleanField(default=False, help_text="Two people say that a pair is retail before it counts")
    card_bar_mm = models.FloatField(default=100.0, help_text="What the check bar on its bench card really measures")
    tile_reflectance = models.FloatField(null=True, blank=True, help_text="Of its grey tile, 0 to 1; none: it has none")

    class Meta:
        db_table = "pairs_house"
        constraints = [
            models.CheckConstraint(condition=Q(card_bar_mm__gte=80, card_bar_mm__lte=120), name="card_bar_is_likely"),
            models.CheckConstraint(
                condition=Q(tile_reflectance=None) | Q(tile_reflectance__gte=0.05, tile_reflectance__lte=0.95),
                name="tile_is_likely",
            ),
        ]

    def __str__(self):
        return self.name


class Standing(models.TextChoices):
    SUSPECT = "suspect", "suspect"
    RETAIL = "retail", "retail, verified"
    COPY = "copy", "known copy"
    CANDIDATE = "candidate", "to be verified"
    RETIRED = "retired", "no longer used"


class Condition(models.TextChoices):
    DEADSTOCK = "deadstock", "deadstock, never worn"
    TRIED_ON = "tried_on", "tried on"
    WORN = "worn", "worn"


class Region(models.TextChoices):
    EU = "eu", "Europe"
    US = "us", "North America"
    ASIA = "asia", "Asia"


class Feet(models.TextChoices):
    BOTH = BOTH_FEET, "both shoes"
    LEFT = "left", "the left shoe only"
    RIGHT = "right", "the right shoe only"


def proof_name(pair, _filename):
    """Where the photograph of a receipt lies: the name tells nothing of what was uploaded."""
    return str(PurePath(f"pair-{pair.pk}") / f"{uuid4().hex}-proof.jpg")


class Pair(models.Model):
    organisation = models.ForeignKey(Organisation, db_column="house_id", on_delete=models.PROTECT, related_name="pairs")
    release = models.ForeignKey(Release, on_delete=models.PROTECT, related_name="pairs")
    standing = models.CharField(max_length=10, choices=Standing, default=Standing.SUSPECT)
    label = models.CharField(max_length=20, help_text="How the shop calls it, such as R2")
    size_us = models.CharField(max_length=6, blank=True)
    region = models.CharField(max_length=5, choices=Region, blank=True)
    condition = models.CharField(max_length=10, choices=Condition, blank=True)
    generation = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Empty: the release's own")
    feet = models.CharField(max_length=5, choices=Feet, default=Feet.BOTH)
    box_size_us = models.CharField(max_length=6, blank=True, help_text="Size on the box, where it is another")
    bought_on = models.DateField(null=True, blank=True)
    verified_how = models.CharField(max_length=200, blank=True, help_text="Why it is taken for retail, or for a copy")
    verified_by = models.ManyToManyField(settings.AUTH_USER_MODEL, related_name="+", blank=True)
    proof = models.FileField(upload_to=proof_name, blank=True, help_text="Photograph of how it was verified")
    retired_why = models.CharField(max_length=200, blank=True)
    batch = models.ForeignKey(Batch, on_delete=models.PROTECT, null=True, blank=True, related_name="pairs")
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["organisation", "label"], name="pair_label_once_a_house"),
            models.CheckConstraint(
                condition=Q(batch__isnull=True) | Q(standing=Standing.COPY), name="only_copies_belong_to_a_batch"
            ),
        ]

    def __str__(self):
        return self.label


def _random_name(photo, suffix):
    """Names on disk tell nothing of what was uploaded."""
    return str(PurePath(f"pair-{photo.pair_id}") / f"{uuid4().hex}{suffix}")


def full_name(photo, _filename):
    return _random_name(photo, ".jpg")


def preview_name(photo, _filename):
    return _random_name(photo, "-preview.jpg")


def features_name(photo, _filename):
    return _random_name(photo, "-features.npz")


class Lamp(models.TextChoices):
    FILTERED_365 = "365f", "365 nm, filtered"
    PLAIN_365 = "365", "365 nm, no filter"
    PLAIN_395 = "395", "395 nm"


class Photo(models.Model):
    """A photograph of a pair: upright, without anything personal. The latest of a view and foot is the one used."""

    class State(models.TextChoices):
        ARRIVED = "arrived", "waiting to be read"
        READING = "reading", "being read"
        READ = "read", "read"
        BROKEN = "broken", "cannot be read"

    class SortedBy(models.TextChoices):
        NOBODY = "", "not sorted"
        MACHINE = "machine", "sorted by the application"
        PERSON = "person", "sorted by hand"

    pair = models.ForeignKey(Pair, on_delete=models.PROTECT, related_name="photos")
    view = models.CharField(max_length=40, blank=True, help_text="Key of the kind of photograph")
    foot = models.CharField(max_length=5, choices=Foot, blank=True)
    state = models.CharField(max_length=8, choices=State, default=State.ARRIVED)
    sorted_by = models.CharField(max_length=8, choices=SortedBy, blank=True, default=SortedBy.NOBODY)
    set_aside = models.BooleanField(default=False, help_text="Kept, but not used")
    preferred = models.BooleanField(default=False, help_text="A person wants this one of its view")
    full = models.FileField(upload_to=full_name)
    preview = models.FileField(upload_to=preview_name, blank=True)
    features = models.FileField(upload_to=features_name, blank=True, help_text="What it offers for recognition")
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    stored_sha256 = models.CharField(max_length=64, blank=True, help_text="Of the file as it is kept")
    sha256 = models.CharField(max_length=64, help_text="Of the file as it came")
    name_given = models.CharField(max_length=120, blank=True)
    taken_at = models.CharField(max_length=19, blank=True, help_text="By the camera's own clock, ISO 8601 without zone")
    focal_35mm = models.FloatField(
        null=True, blank=True, help_text="Focal length in 35 mm terms, as the camera wrote it"
    )
    mm_per_px = models.FloatField(null=True, blank=True, help_text="In the middle of the picture")
    fitness = StoredField(PhotoFitness, help_text="Verdict, doubts, reasons to retake, numbers; empty: not judged")
    scale = StoredField(Scale, help_text="The object's plane: source, matrix (mm to px), relative, height")
    light = StoredField(PhotoLight, help_text="Curves, matrix, residual; or why colour is not true")
    lamp = models.CharField(max_length=4, choices=Lamp, blank=True, help_text="Under UV: which lamp; empty: not known")
    lamp_mm = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Under UV: how far away it was held")
    codes = models.JSONField(default=list, help_text="Barcodes seen in it: text, kind, corners, gtin14, upright")
    print_lines = models.JSONField(
        null=True, blank=True, help_text="Lines of print read on it: text, confidence, corners; null: not read"
    )
    differences = models.JSONField(
        null=True, blank=True, help_text="Where it differs from the verified pairs' (retail: their keys; regions)"
    )
    guess = StoredField(Sorting, help_text="What it seems to show, and where the thing is")
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    added_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["pair", "sha256"], name="same_file_once_a_pair"),
            models.CheckConstraint(condition=Q(mm_per_px__isnull=True) | Q(mm_per_px__gt=0), name="scale_is_positive"),
            models.CheckConstraint(condition=Q(foot="") | ~Q(view=""), name="a_foot_belongs_to_a_view"),
        ]

    def __str__(self):
        return f"{self.pair}: {self.showing}"

    @property
    def showing(self) -> str:
        """View and foot in words."""
        if not self.view:
            return "not sorted yet"
        return ", ".join(filter(None, (self.foot and self.get_foot_display(), photo_kinds.name_of(self.view))))


class Marking(models.Model):
    """Where a checkpoint lies on a photograph: drawn on the reference, carried over to the others, or put right."""

    class Origin(models.TextChoices):
        DRAWN = "drawn", "drawn on the reference"
        CARRIED = "carried", "carried over from the reference"
        MOVED = "moved", "put in place by hand"

    checkpoint = models.ForeignKey(Checkpoint, on_delete=models.PROTECT, related_name="markings")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="markings")
    points = models.JSONField()
    origin = models.CharField(max_length=8, choices=Origin)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["checkpoint", "photo"], name="marked_once_a_photo")]

    def __str__(self):
        return f"{self.checkpoint} on {self.photo}"


class Inscription(models.Model):
    """What stands at one place of box, label or tag. Never changed: what is read again is a new one."""

    class Source(models.TextChoices):
        TYPED = "typed", "typed"
        SCANNED = "scanned", "read off a photograph"
        INSTRUMENT = "instrument", "from an instrument"

    pair = models.ForeignKey(Pair, on_delete=models.PROTECT, related_name="inscriptions")
    place = models.CharField(max_length=30)
    text = models.TextField(max_length=4000)
    source = models.CharField(max_length=10, choices=Source)
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, null=True, blank=True, related_name="inscriptions")
    read_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    read_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["pair", "place", "-id"])]

    def __str__(self):
        return f"{self.pair} {self.place}: {self.text[:40]}"


class PhotoAlignment(models.Model):
    """How a reference photograph lies on another one of the same view and foot."""

    reference = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="+")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="alignments")
    matrix = models.JSONField(help_text="2 × 3, reference pixels to the photograph's pixels")
    anchors = models.JSONField(default=list, help_text="Places that agree, and what the matrix misses there")
    matches = models.PositiveIntegerField()
    error_px = models.FloatField()
    how = models.CharField(max_length=10, default="features", help_text="features, outline, appearance, …")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["reference", "photo"], name="aligned_once")]

    def __str__(self):
        return f"{self.reference} on {self.photo}"


PLACED = "placed"
"""Key among a reading's details: a person put its marks where they are, or put right what was read there."""


class Reading(models.Model):
    """A value on one pair, or the reason why there is none. Never changed: a correction is a new reading."""

    pair = models.ForeignKey(Pair, on_delete=models.PROTECT, related_name="readings")
    checkpoint = models.ForeignKey(Checkpoint, on_delete=models.PROTECT, related_name="readings")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, null=True, blank=True, related_name="readings")
    corrects = models.ForeignKey("self", on_delete=models.PROTECT, null=True, blank=True, related_name="corrections")
    value = models.JSONField(null=True, blank=True)
    unit = models.CharField(max_length=10, blank=True)
    uncertainty = models.FloatField(default=0.0)
    method = models.CharField(max_length=40)
    marks = models.JSONField(default=list)
    parts = models.JSONField(default=dict)
    details = models.JSONField(
        default=dict,
        help_text="Of print and packing: what stood where, what is off; else the other photograph held beside",
    )
    overlay = models.JSONField(default=list)
    descriptor = models.JSONField(
        null=True, blank=True, help_text="Of comparing measures: what is laid beside other pairs' when it is graded"
    )
    doubts = models.JSONField(default=list)
    refusal = models.JSONField(null=True, blank=True, help_text="Reason code and numbers where nothing was measured")
    taken_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    taken_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]
        indexes = [models.Index(fields=["pair", "checkpoint", "-id"])]
        constraints = [
            models.CheckConstraint(
                condition=Q(value__isnull=True, refusal__isnull=False) | Q(value__isnull=False, refusal__isnull=True),
                name="value_or_refusal",
            ),
            models.CheckConstraint(condition=Q(uncertainty__gte=0), name="uncertainty_not_negative"),
        ]

    def __str__(self):
        return f"{self.checkpoint} of {self.pair}: {self.value}"

    @property
    def put_right(self) -> bool:
        """Whether a person put its marks where they are, or put right what was read there."""
        return CORRECTED_BY_HAND in self.doubts or bool(self.details.get(PLACED))


class ReadingComparison(models.Model):
    """What came of comparing one reading with another: kept, because readings never change."""

    ours = models.ForeignKey(Reading, on_delete=models.CASCADE, related_name="compared_with")
    theirs = models.ForeignKey(Reading, on_delete=models.CASCADE, related_name="+")
    mirrored = models.BooleanField(default=False, help_text="Theirs as a mirror shows it: the other foot's")
    parts = models.JSONField(default=dict)
    overlay = models.JSONField(default=list, help_text="Strokes in our descriptor's unit")
    refusal = models.JSONField(null=True, blank=True, help_text="Why the two cannot be compared")

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["ours", "theirs", "mirrored"], name="readings_compared_once"),
        ]

    def __str__(self):
        return f"{self.ours} beside {self.theirs}"
