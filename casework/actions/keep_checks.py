"""Checks of a guide, drawn or not: their facts, their order, and checks of print and packing."""

from collections.abc import Mapping

from django.db import transaction

from assay.errors import AssayError
from assay.paperwork.papers import PAPERS
from casework.actions.change_check import change_check
from casework.grading import regrade
from casework.ledger import note_of_organisation
from casework.models import Case
from library.models import Checkpoint, Release
from library.photo_kinds import kinds_by_key
from library.writers import must_write
from pairs.actions.draw_checkpoint import free_key, place_in
from pairs.models import Organisation

BOX = [{"fact": "arrival", "is": ["own_box"]}]
PAPER_WORDS = {
    # paper: name, instruction, section, group, view, applies only with its own box
    "code_on_box": ("Label: style code", "Type the code from the box label.", "Box label", "codes", "box_label"),
    "code_on_tag": (
        "Size tag: style code",
        "Read the code on the size tag and type it.",
        "Size tag",
        "codes",
        "size_tag",
    ),
    "sizes_on_box": ("Label: size row", "Type the label’s size row.", "Box label", "sizes", "box_label"),
    "sizes_on_tag": ("Size tag: size row", "Type the tag’s size row.", "Size tag", "sizes", "size_tag"),
    "barcode": ("Barcode", "Type the figures under the bars.", "Box label", "codes", "box_label"),
    "colour_wording": (
        "Label: colour wording",
        "Type the colour as the label words it.",
        "Box label",
        "codes",
        "box_label",
    ),
    "production": ("Size tag: production dates", "Type both dates of the tag.", "Size tag", "tag", "size_tag"),
    "serials": ("Size tags: serials, left and right", "Type the serial of both tags.", "Size tag", "tag", "size_tag"),
    "factory": ("Size tag: factory code", "Type the factory code of the tag.", "Size tag", "tag", "size_tag"),
    "stamp": ("Lid: ink stamp", "Read the ink stamp inside the lid.", "Box", "box", "box_lid"),
    "radio_inlay": ("Label: radio inlay", "Hold the reader to the label.", "Box label", "inlay", ""),
    "words_on_insole": ("Insole: words", "Read the words on the insole.", "Inside", "insole-print", "insole-face"),
    "words_on_sole": ("Sole: words", "Read the words on the sole.", "Sole", "sole-print", "sole"),
    "words_on_card": ("Packing card: words", "Read the words on the card.", "Packing", "packing", "packing_card"),
    "words_on_tab": ("Price tab: words", "Read the words on the price tab.", "Box label", "tab", "price_tab"),
    "packing": ("Packing: what is in the box", "Lay everything out. What is there?", "Packing", "packing", ""),
}
PEEL = "Look at it where it sits. Do not peel it: that damages the pair and the evidence."


def papers_left(release: Release) -> list[tuple[str, str]]:
    """Checks of print and packing that a release's guide does not hold yet: key and name."""
    there = set(release.checkpoints.exclude(paper="").values_list("paper", flat=True))
    return [(key, words[0]) for key, words in PAPER_WORDS.items() if key in PAPERS and key not in there]


@transaction.atomic
def add_paper(*, release: Release, paper: str, organisation: Organisation, user) -> Checkpoint:
    """A check of print or packing, with the usual words. Raises AssayError ``not_allowed``, ``no_such_paper``."""
    must_write(user, release)
    if paper not in dict(papers_left(release)):
        raise AssayError("no_such_paper")
    name, instruction, section, group, view = PAPER_WORDS[paper]
    on_shoe = bool(view) and kinds_by_key()[view].feet
    made = Checkpoint(
        release=release, key=free_key(release, name), name=name, instruction=instruction, section=section, group=group,
        position=place_in(release, section), kind="paper", paper=paper, unit="text", of_shoe=False, minutes=0.2,
        view=view, foot="left" if on_shoe else "", caution=PEEL if view else "",
        applies_when=[] if on_shoe else BOX, decisive=paper in ("code_on_tag", "code_on_box"),
    )  # fmt: skip
    made.clean()
    made.save()
    _regrade(release, organisation)
    note_of_organisation(organisation, user, "question_added", check=made.key)
    return made


@transaction.atomic
def keep_check(*, checkpoint: Checkpoint, organisation: Organisation, user, given: Mapping) -> None:
    """Its facts. Raises what ``change_check`` raises, and AssayError ``key_taken`` where a sibling has one of that
    key."""
    if given.get("shared") and not checkpoint.shared:
        same = Checkpoint.objects.filter(release__in=checkpoint.release.siblings, key=checkpoint.key, shared=True)
        if same.exclude(pk=checkpoint.pk).exists():
            raise AssayError("key_taken", name=checkpoint.name)
    shared = checkpoint.shared
    change_check(checkpoint=checkpoint, organisation=organisation, user=user, given=given)
    note_of_organisation(organisation, user, "check_changed", check=checkpoint.key)
    if shared != checkpoint.shared:
        _regrade(checkpoint.release, organisation)


@transaction.atomic
def move_check(*, checkpoint: Checkpoint, organisation: Organisation, user, up: bool) -> None:
    """One place up or down among its release's own. Raises AssayError ``not_allowed``."""
    must_write(user, checkpoint.release)
    checkpoint.refresh_from_db(fields=["position"])
    own = list(Checkpoint.every.filter(release=checkpoint.release).order_by("position"))
    at = own.index(checkpoint)
    other = at - 1 if up else at + 1
    if not 0 <= other < len(own):
        return
    mine, theirs = checkpoint.position, own[other].position
    free = own[-1].position + 1
    for one, place in ((checkpoint, free), (own[other], mine), (checkpoint, theirs)):
        Checkpoint.every.filter(pk=one.pk).update(position=place)
    note_of_organisation(organisation, user, "check_moved", check=checkpoint.key)


@transaction.atomic
def place_check(*, checkpoint: Checkpoint, before: Checkpoint | None, organisation: Organisation, user) -> None:
    """Put it before another check of its release, or behind the last of its heading. Raises AssayError
    ``not_allowed``, ``no_such_place``."""
    must_write(user, checkpoint.release)
    if before and before.release_id != checkpoint.release_id:
        raise AssayError("no_such_place")
    checkpoint.refresh_from_db(fields=["position"])
    own = list(Checkpoint.every.filter(release=checkpoint.release).exclude(pk=checkpoint.pk).order_by("position"))
    same = [n for n, one in enumerate(own) if one.section == checkpoint.section]
    at = own.index(before) if before else (same[-1] + 1 if same else len(own))
    places = sorted([checkpoint.position, *(one.position for one in own)])
    own.insert(at, checkpoint)
    moved = [(one, place) for one, place in zip(own, places, strict=True) if one.position != place]
    free = places[-1] + 1
    # Two may never stand at one place: first out of the way, then in.
    for n, (one, _) in enumerate(moved):
        Checkpoint.every.filter(pk=one.pk).update(position=free + n)
    for one, place in moved:
        Checkpoint.every.filter(pk=one.pk).update(position=place)
    note_of_organisation(organisation, user, "check_moved", check=checkpoint.key)


def _regrade(release: Release, organisation: Organisation) -> None:
    for case in Case.objects.filter(organisation=organisation, pair__release__in=release.siblings, signed_at=None):
        regrade(case)
