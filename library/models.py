"""What is known: makers, models, releases, checkpoints, batches."""

from django.db import models
from django.db.models import Q

from assay.judge.judgement import Kind


class Maker(models.Model):
    name = models.CharField(max_length=80, unique=True)
    style_code_mask = models.CharField(max_length=40, help_text="A for a letter, 9 for a figure, such as AA-99999-A")

    def __str__(self):
        return self.name


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
    colourway = models.CharField(max_length=80)
    style_code = models.CharField(max_length=40, unique=True)
    year = models.PositiveSmallIntegerField()
    generation = models.PositiveSmallIntegerField(default=1, help_text="Tooling generation")
    sizes_us = models.JSONField(default=list, help_text="US sizes it was made in, as written on the label")
    retail_price = models.DecimalField(max_digits=8, decimal_places=2, null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shoe_model", "colourway", "year"], name="release_once_a_year")]

    def __str__(self):
        return f"{self.shoe_model}, {self.colourway}"


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


OTHER_FOOT = {Foot.LEFT: Foot.RIGHT, Foot.RIGHT: Foot.LEFT}


class View(models.TextChoices):
    """Kinds of photograph."""

    SIDE_OUT = "side_out", "side, outer"
    TOP = "top", "from above"
    REAR = "rear", "from behind"
    SOLE = "sole", "sole"
    SIZE_TAG = "size_tag", "size tag"
    BOX_LABEL = "box_label", "box, label end"
    UV_SIDE = "uv_side", "side, outer, under UV"


WITHOUT_FOOT = frozenset({View.BOX_LABEL})
"""Views of things of which a pair has only one."""


class Checkpoint(models.Model):
    """One thing to compare. Measured ones name a measure and a view; the others are typed or answered."""

    KINDS = [(kind.value, kind.value) for kind in Kind]

    release = models.ForeignKey(Release, on_delete=models.PROTECT, related_name="checkpoints")
    key = models.SlugField(max_length=60)
    name = models.CharField(max_length=80)
    instruction = models.CharField(max_length=200)
    section = models.CharField(max_length=60, help_text="Heading on the rail, in working order")
    group = models.SlugField(max_length=60, help_text="Part or cause: checkpoints of one group raise one flag")
    position = models.PositiveSmallIntegerField()
    kind = models.CharField(max_length=12, choices=KINDS)
    measure = models.CharField(max_length=40, blank=True, help_text="Name in the core's registry; empty where asked")
    quantity = models.CharField(max_length=40, blank=True, help_text="Part of the reading to judge; empty: its value")
    unit = models.CharField(max_length=10, blank=True)
    view = models.CharField(max_length=20, choices=View, blank=True)
    foot = models.CharField(max_length=5, choices=Foot, blank=True)
    decisive = models.BooleanField(default=False, help_text="Retail never departs here: rules out once confirmed")
    mandatory = models.BooleanField(default=False, help_text="No legit verdict without it")
    new_only = models.BooleanField(default=False, help_text="Says nothing on a worn pair")
    in_hand = models.BooleanField(default=False, help_text="Needs touch or smell")
    minutes = models.FloatField(default=0.5)
    prior = models.JSONField(default=dict, help_text="What is believed before retail pairs are measured")
    answers = models.JSONField(default=list, help_text="For closed questions: [key, sentence] pairs")
    caution = models.CharField(max_length=300, blank=True, help_text="Shown where the step is done")

    class Meta:
        ordering = ["position"]
        constraints = [
            models.UniqueConstraint(fields=["release", "key"], name="checkpoint_key_once_a_release"),
            models.UniqueConstraint(fields=["release", "position"], name="checkpoint_place_once_a_release"),
            models.CheckConstraint(
                condition=Q(measure="", view="", foot="") | (~Q(measure="") & ~Q(view="") & ~Q(foot="")),
                name="measured_checkpoint_has_view_and_foot",
            ),
            models.CheckConstraint(condition=Q(minutes__gt=0), name="checkpoint_takes_time"),
        ]

    def __str__(self):
        return self.name
