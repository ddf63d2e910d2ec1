"""What is known: makers, models, releases, checkpoints, batches."""

from uuid import uuid4

from django.conf import settings
from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Q

from assay.errors import AssayError
from assay.judge import applicability
from assay.judge.judgement import Kind, checked_prior
from assay.judge.levels import Level
from assay.measure.registry import MEASURES
from assay.paperwork import accessories, size_rule, sizes
from library import photo_kinds

GROUPS = [(group.value, group.value) for group in sizes.Group]


class Maker(models.Model):
    ORDERS = [("DMY", "day, month, year"), ("MDY", "month, day, year"), ("YMD", "year, month, day")]

    name = models.CharField(max_length=80, unique=True)
    style_code_mask = models.CharField(max_length=40, help_text="A for a letter, 9 for a figure, such as AA-99999-A")
    date_order = models.CharField(max_length=3, choices=ORDERS, default="DMY", help_text="How its tags write dates")
    label_layouts = models.JSONField(default=dict, blank=True, help_text="Size systems on a label, by region")
    box_classes = models.JSONField(default=list, blank=True, help_text="[from US size, to US size, name] of each box")
    inlay_from_year = models.PositiveSmallIntegerField(null=True, blank=True, help_text="Radio inlays since then")

    def __str__(self):
        return self.name


class MakerChange(models.Model):
    """What one shop would change of a maker that other shops work with as well: made once one of them agrees."""

    maker = models.ForeignKey(Maker, on_delete=models.CASCADE, related_name="proposed")
    organisation = models.ForeignKey(
        "pairs.Organisation",
        db_column="house_id",
        on_delete=models.CASCADE,
        related_name="+",
        help_text="That proposes it",
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    given = models.JSONField(help_text="Facts of the maker, or a chart's group and CSV under ``chart``")
    made_at = models.DateTimeField(auto_now_add=True)
    decided_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, blank=True, related_name="+"
    )
    agreed = models.BooleanField(null=True, blank=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self):
        return f"{self.maker}, proposed by {self.organisation}"


class SizeChart(models.Model):
    """A maker's own sizes for one group, as CSV."""

    maker = models.ForeignKey(Maker, on_delete=models.PROTECT, related_name="size_charts")
    group = models.CharField(max_length=6, choices=GROUPS)
    csv = models.TextField(max_length=20_000)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["maker", "group"], name="one_chart_a_group")]

    def __str__(self):
        return f"{self.maker}, {self.group}"


class ShoeModel(models.Model):
    maker = models.ForeignKey(Maker, on_delete=models.PROTECT, related_name="shoe_models")
    name = models.CharField(max_length=80)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["maker", "name"], name="shoe_model_once_a_maker")]

    def __str__(self):
        return f"{self.maker} {self.name}"


class Release(models.Model):
    """A model in one colourway, with its style code."""

    shoe_model = models.ForeignKey(ShoeModel, on_delete=models.PROTECT, related_name="releases")
    organisation = models.ForeignKey(
        "pairs.Organisation",
        db_column="house_id",
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="+",
        help_text="Who keeps its guide; empty: every guide writer",
    )
    colourway = models.CharField(max_length=80)
    style_code = models.CharField(max_length=40, unique=True)
    year = models.PositiveSmallIntegerField()
    generation = models.PositiveSmallIntegerField(default=1, help_text="Tooling generation")
    sizes_us = models.JSONField(default=list, help_text="US sizes it was made in, as written on the label")
    retail_price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)
    group = models.CharField(max_length=6, choices=GROUPS, default=sizes.Group.MEN.value)
    released_on = models.DateField(null=True, blank=True)
    colour_wording = models.CharField(max_length=80, blank=True, help_text="As the box label has it, in capitals")
    barcodes = models.JSONField(default=dict, blank=True, help_text="GTIN-14 by US size")
    factory_codes = models.JSONField(default=list, blank=True)
    stamp_mask = models.CharField(
        max_length=20, blank=True, help_text="Ink stamp in the lid, such as A9 9999; NONE: never one; empty: not known"
    )
    serials_differ = models.BooleanField(null=True, blank=True, help_text="Left and right tag; empty: not known")
    packing = models.JSONField(default=list, blank=True, help_text="What lies in the box: see docs/formats.md")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shoe_model", "colourway", "year"], name="release_once_a_year")]

    def __str__(self):
        return f"{self.shoe_model}, {self.colourway}"

    @property
    def siblings(self):
        """Releases of the same model and tooling generation, itself among them."""
        return Release.objects.filter(shoe_model=self.shoe_model_id, generation=self.generation)

    @property
    def checkpoints(self):
        """Its guide: its own checks, those that its model's generation shares, and those that a sibling model lends;
        its own of a key comes first."""
        own = Checkpoint.objects.filter(release=self)
        shared = Q(shared=True, release__shoe_model=self.shoe_model_id, release__generation=self.generation)
        lent = Q(pk__in=self._loans.values("checkpoint"))
        return Checkpoint.objects.filter(Q(release=self) | ((shared | lent) & ~Q(key__in=own.values("key"))))

    @property
    def _loans(self):
        loans = Checkpoint.lent_to.through.objects
        return loans.filter(release__shoe_model=self.shoe_model_id, release__generation=self.generation)

    @property
    def lenders(self):
        """Releases whose verified pairs teach the checks that this model's generation borrows: the lenders, and the
        colourways of their moulds."""
        lent = Release.objects.filter(own_checkpoints__in=self._loans.values("checkpoint"))
        same = Q(pk__in=[])
        for model, generation in lent.values_list("shoe_model", "generation").distinct():
            same |= Q(shoe_model=model, generation=generation)
        return Release.objects.filter(same)

    def clean(self):
        """The packing list must be one that the core understands."""
        try:
            accessories.items_from(self.packing)
        except AssayError as error:
            raise ValidationError({"packing": f"{error.reason}: {error.numbers}"}) from error


class Batch(models.Model):
    """Copies from one source, with habitual faults."""

    release = models.ForeignKey(Release, on_delete=models.PROTECT, related_name="batches")
    name = models.CharField(max_length=80)
    habits = models.TextField(blank=True)

    class Meta:
        verbose_name_plural = "batches"
        constraints = [models.UniqueConstraint(fields=["release", "name"], name="batch_once_a_release")]

    def __str__(self):
        return self.name


class Foot(models.TextChoices):
    LEFT = "left", "left shoe"
    RIGHT = "right", "right shoe"


def example_name(example, _filename):
    """Where an answer's photograph lies: the name tells nothing of what was uploaded."""
    return f"examples/{uuid4().hex}.jpg"


class View(models.Model):
    """A kind of photograph: what it shows, how it is taken. Data, not code."""

    key = models.SlugField(primary_key=True, max_length=40)
    release = models.ForeignKey(
        Release,
        on_delete=models.CASCADE,
        null=True,
        blank=True,
        related_name="views",
        help_text="Empty: of every guide",
    )
    name = models.CharField(max_length=60)
    position = models.PositiveSmallIntegerField(help_text="In working order, on the shot list")
    feet = models.BooleanField(default=True, help_text="One of either foot; else there is one a pair")
    one_sided = models.BooleanField(default=False, help_text="Left and right show as mirror images, toe to either side")
    ultraviolet = models.BooleanField(default=False)
    printed = models.BooleanField(
        default=False, help_text="Print is compared: both pictures are turned level, cut alike"
    )
    codes = models.BooleanField(default=False, help_text="Barcodes are looked for")
    codes_at = models.CharField(max_length=30, blank=True, help_text="The place that its barcodes are read for")
    close_up = models.BooleanField(default=False, help_text="A part fills the picture: no card needed, no shoe sought")
    card_gap_mm = models.FloatField(default=4.0, help_text="How far the card may lie from what is measured, standard")
    how = models.CharField(max_length=300, blank=True, help_text="What to show, and how")
    sketch = models.CharField(max_length=20, default="side")
    caution = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["position", "key"]
        constraints = [models.CheckConstraint(condition=Q(card_gap_mm__gte=0), name="card_gap_not_negative")]

    def __str__(self):
        return self.name


class Relation(models.TextChoices):
    LESS = "", "first minus second"
    SHARE = "share", "the first as a share of the second"


class InUse(models.Manager):
    """Checkpoints that are on the guide: what a release's checks are, unless somebody asks for ``every`` one."""

    def get_queryset(self):
        return super().get_queryset().filter(withdrawn=False)


BOTH_FEET = "both"
MOST_MINUTES, MOST_CAP = 60, 60
"""A check takes no longer, and weighs no more decibans."""


class Checkpoint(models.Model):
    """One thing to compare: measured on a photograph, read off print or packing, or answered."""

    KINDS = [(kind.value, kind.value) for kind in Kind]

    release = models.ForeignKey(Release, on_delete=models.PROTECT, related_name="own_checkpoints")
    key = models.SlugField(max_length=60)
    name = models.CharField(max_length=80)
    instruction = models.CharField(max_length=200)
    section = models.CharField(max_length=60, help_text="Heading on the rail, in working order")
    group = models.SlugField(max_length=60, help_text="Part or cause: checkpoints of one group raise one flag")
    position = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=12, choices=KINDS)
    measure = models.CharField(max_length=40, blank=True, help_text="Name in the core's registry; empty where asked")
    paper = models.CharField(max_length=40, blank=True, help_text="Check of print or packing in the core's registry")
    quantity = models.CharField(max_length=40, blank=True, help_text="Part of the reading to judge; empty: its value")
    unit = models.CharField(max_length=10, blank=True)
    view = models.CharField(max_length=40, blank=True, help_text="Key of the kind of photograph")
    foot = models.CharField(max_length=5, choices=Foot, blank=True)
    left = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="+", help_text="Left against right: left"
    )
    right = models.ForeignKey("self", on_delete=models.CASCADE, null=True, blank=True, related_name="+")
    decisive = models.BooleanField(default=False, help_text="Retail never departs here: rules out once confirmed")
    mandatory = models.BooleanField(default=False, help_text="No legit verdict without it")
    level = models.CharField(
        max_length=8,
        choices=[(level.value, level.value) for level in Level],
        blank=True,
        help_text="The level that asks for it; empty: by what it tells a minute",
    )
    cap_for = models.FloatField(null=True, blank=True, help_text="Most decibans for retail; empty: as its kind")
    cap_against = models.FloatField(null=True, blank=True, help_text="Most decibans for a copy; empty: as its kind")
    of_shoe = models.BooleanField(default=True, help_text="On the shoe itself, not on its box, label, tag or packing")
    applies_when = models.JSONField(
        default=list, blank=True, help_text="Clauses that must all hold, see docs/formats.md"
    )
    size_rule = models.JSONField(default=dict, blank=True, help_text="How lengths go from size to size; empty: fixed")
    minutes = models.FloatField(default=0.5)
    prior = models.JSONField(default=dict, help_text="What is believed before retail pairs are measured")
    answers = models.JSONField(default=list, help_text="For closed questions: [key, sentence, drawing]")
    caution = models.CharField(max_length=300, blank=True, help_text="Shown where the step is done")
    shared = models.BooleanField(
        default=False, help_text="Of the model's tooling generation: every colourway has it, any one's pairs teach it"
    )
    lent_to = models.ManyToManyField(
        Release, related_name="borrowed", blank=True, help_text="Of other models, which share the part that it looks at"
    )
    relation = models.CharField(
        max_length=5, choices=Relation, blank=True, default=Relation.LESS, help_text="Of two checks: how they are held"
    )
    withdrawn = models.BooleanField(default=False, help_text="Taken off the guide; what it read and signed stays")

    objects, every = InUse(), models.Manager()

    class Meta:
        ordering = ["position", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["release", "key"], name="checkpoint_key_once_a_release"),
            models.UniqueConstraint(fields=["release", "position"], name="checkpoint_place_once_a_release"),
            models.CheckConstraint(
                condition=(Q(measure="") | (~Q(view="") & Q(paper=""))) & (Q(foot="") | ~Q(view="")),
                name="measured_checkpoint_has_a_view",
            ),
            models.CheckConstraint(condition=Q(minutes__gt=0), name="checkpoint_takes_time"),
            models.CheckConstraint(
                condition=(Q(cap_for=None) | Q(cap_for__gte=0)) & (Q(cap_against=None) | Q(cap_against__gte=0)),
                name="caps_have_no_sign",
            ),
            models.CheckConstraint(
                condition=Q(left=None, right=None) | Q(left__isnull=False, right__isnull=False, measure="", paper=""),
                name="feet_are_compared_two_by_two",
            ),
        ]

    def __str__(self):
        return self.name

    @property
    def conditions(self) -> list[dict]:
        """Clauses that must all hold: those that follow from what it looks at, and the guide's own."""
        if self.left_id:
            return [*self.left.conditions, *self.right.conditions, *self.applies_when]
        follow = [{"fact": "feet", "is": [BOTH_FEET, self.foot]}] if self.foot and not self.paper else []
        follow += [{"fact": "feet", "is": [BOTH_FEET]}] if self.paper == "serials" else []
        if self.shared or (self.measure in MEASURES and MEASURES[self.measure].of_tooling):
            follow.append({"fact": "generation", "same_as": "release_generation"})
        return [*follow, *self.applies_when]

    @property
    def view_name(self) -> str:
        """What its photograph shows, in words."""
        return photo_kinds.name_of(self.view)

    def clean(self):
        """Conditions and rules are data: they must be ones that the core understands."""
        problems = {}
        if self.view and self.view not in photo_kinds.kinds_by_key():
            problems["view"] = f"no_such_view: {self.view}"
        elif self.view and photo_kinds.kinds_by_key()[self.view].feet != bool(self.foot):
            problems["foot"] = f"foot_of_view: {self.view}"
        problems |= self._problems_of_measure() | self._problems_of_numbers()
        for name, check in (("applies_when", applicability.checked), ("size_rule", _checked_rule)):
            try:
                check(getattr(self, name))
            except AssayError as error:
                problems[name] = f"{error.reason}: {error.numbers}"
        if problems:
            raise ValidationError(problems)

    def _problems_of_numbers(self) -> dict[str, str]:
        """What it weighs at most, and how long it takes."""
        bounds = {"minutes": (0.05, MOST_MINUTES), "cap_for": (0, MOST_CAP), "cap_against": (0, MOST_CAP)}
        values = {name: getattr(self, name) for name in bounds}
        return {
            name: f"out_of_range: {least:g} to {most:g}"
            for name, (least, most) in bounds.items()
            if values[name] is not None and not least <= values[name] <= most
        }

    def _problems_of_measure(self) -> dict[str, str]:
        """What it judges must be a number that its measure gives, in that number's unit; its belief must be numbers."""
        try:
            checked_prior(self.prior)
        except AssayError as error:
            return {"prior": error.reason}
        if not self.measure:
            return {}
        if self.measure not in MEASURES:
            return {"measure": f"no_such_measure: {self.measure}"}
        numbers = MEASURES[self.measure].numbers
        if self.quantity not in numbers:
            return {"quantity": f"no_such_number: {self.quantity}"}
        if self.unit and self.unit != numbers[self.quantity]:
            return {"unit": f"other_unit: {self.unit}, not {numbers[self.quantity]}"}
        return {}


class AnswerPhoto(models.Model):
    """What one answer of a question looks like: a photograph, upright, without anything personal."""

    checkpoint = models.ForeignKey(Checkpoint, on_delete=models.CASCADE, related_name="examples")
    answer = models.CharField(max_length=60)
    picture = models.FileField(upload_to=example_name)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["checkpoint", "answer"], name="one_example_an_answer")]

    def __str__(self):
        return f"{self.checkpoint}: {self.answer}"


BY_BOX_CLASS = {"rule": "box_class"}


def _checked_rule(rule):
    return rule if rule == BY_BOX_CLASS else size_rule.checked(rule)


def rule_of(checkpoint: Checkpoint, maker: Maker) -> dict:
    """The checkpoint's size rule, the maker's box classes filled in."""
    bands = {"rule": "bands", "bands": maker.box_classes}
    return bands if checkpoint.size_rule == BY_BOX_CLASS else checkpoint.size_rule
