"""Draft a release's guide from its verified pairs' photographs, in the background."""

from collections.abc import Iterator
from contextlib import suppress
from itertools import groupby
from statistics import fmean, stdev

import numpy as np
from django.db import transaction
from django_tasks import task

from assay.contracts import Measurement
from assay.draft.propose import Read, propose
from assay.draft.scene import Proposal
from assay.errors import AssayError
from assay.judge.judgement import UNSURE_COUNT, Kind
from assay.measure.registry import MEASURES
from assay.pipeline.measure import Task
from guides.models import GuideDraft, ProposedCheck
from guides.places import place_of
from library.models import Release
from library.photo_kinds import keys_where, kinds_by_key
from library.writers import must_write
from pairs.actions.align_photo import offered
from pairs.actions.draw_checkpoint import Tried, believed, number_of, try_checkpoint
from pairs.models import Marking, Organisation, Pair, Photo, Standing
from pairs.pictures import facing
from pairs.pipeline import session_of
from pairs.queries import photos_in_use

SAME_PLACE = 0.02
"""Two proposals of one number are one where their middles are nearer than this share of the picture's width."""
REPEATS = 3.0
"""A number repeats where verified pairs scatter by no more than so many times what is believed of hand work."""
ALIKE = 0.06
LEAST_TONE = 40.0
"""Sizes are alike within that share; tones within that share of so many units."""
MARGIN = 0.02
"""Of a close picture's sides, where nothing is sought."""


def request_draft(*, release: Release, organisation: Organisation, user) -> GuideDraft:
    """Queue it; one that was cut off is gone on with. Raises AssayError ``not_allowed``, ``nothing_to_draft`` where no
    verified pair has photographs."""
    must_write(user, release)
    photos = photos_to_draft(release, organisation)
    if not photos:
        raise AssayError("nothing_to_draft")
    with transaction.atomic():
        draft = GuideDraft.objects.filter(release=release, organisation=organisation).first()
        if draft and draft.runs and not draft.stalled:
            return draft
        if draft and draft.stalled:
            draft.save(update_fields=["touched_at"])
        else:
            given = {"release": release, "organisation": organisation, "asked_by": user}
            draft = GuideDraft.objects.create(**given, to_do=len(photos))
        transaction.on_commit(lambda: draft_in_background.enqueue(draft.pk))
    return draft


def photos_to_draft(release: Release, organisation: Organisation) -> list[Photo]:
    """Of every kind and foot the first verified pair's photograph in use, in working order, but for print: that is
    read as it is."""
    pairs = Pair.objects.filter(release=release, organisation=organisation, standing=Standing.RETAIL)
    printed, order = set(keys_where(printed=True)), list(kinds_by_key())
    used: dict = {}
    for pair in pairs.order_by("label"):
        for place, photo in photos_in_use(pair).items():
            if photo.view not in printed:
                used.setdefault(place, photo)
    return sorted(used.values(), key=lambda photo: (order.index(photo.view), photo.foot))


@task()
def draft_in_background(draft_id: int) -> None:
    """The queue's way in."""
    go_through(GuideDraft.objects.select_related("release", "organisation").get(pk=draft_id))


def go_through(draft: GuideDraft) -> None:
    """Every photograph that is left. Cut off, it goes on with the next."""
    for photo in photos_to_draft(draft.release, draft.organisation)[draft.done :]:
        proposed: list[ProposedCheck] = []
        with suppress(AssayError):
            proposed = list(proposals_on(photo))
        _keep(draft, proposed)


@transaction.atomic
def _keep(draft: GuideDraft, proposed: list[ProposedCheck]) -> None:
    """Keep what one photograph gave, but for what was proposed before, and that it was gone through."""
    known = ProposedCheck.objects.filter(release=draft.release, organisation=draft.organisation)
    known = list(known.select_related("photo"))
    for check in proposed:
        if not any(_is_same(check, other) for other in known):
            check.release, check.organisation = draft.release, draft.organisation
            check.save()
            known.append(check)
    draft.done += 1
    draft.save(update_fields=["done", "touched_at"])


def _is_same(one: ProposedCheck, other: ProposedCheck) -> bool:
    """One number of one thing: at one place of a view, or alike on two views of one foot."""
    if (one.measure, one.quantity, one.photo.foot) != (other.measure, other.quantity, other.photo.foot):
        return False
    if one.photo.view == other.photo.view:
        return _is_near(one.points, one.photo, other.points, other.photo)
    both = [(own, theirs) for own, theirs in zip(one.likeness, other.likeness, strict=False)]
    return bool(both) and all(abs(own - theirs) < ALIKE * max(abs(own), LEAST_TONE) for own, theirs in both)


def _likeness(read: Read) -> list[float]:
    """What tells the same mark or material on another photograph: size in mm, or tone in CIELAB."""
    parts = read.reading.parts
    if read.proposal.noun == "mark" and "width_mm" in parts:
        return [parts["width_mm"], parts["height_mm"]]
    if read.proposal.noun == "panel" and "a" in parts:
        return [float(read.reading.value), parts["a"], parts["b"]]
    return []


def _is_near(points: list, photo: Photo, others: list, other: Photo) -> bool:
    own, theirs = (np.mean(given, axis=0) / shown.width for given, shown in ((points, photo), (others, other)))
    return float(np.hypot(*(own - theirs))) < SAME_PLACE


def proposals_on(photo: Photo) -> Iterator[ProposedCheck]:
    """Checks that one photograph proposes and the other verified pairs bear out; not what is drawn there already."""
    kind = kinds_by_key()[photo.view]
    outline, session = _outline(photo), session_of(photo)
    found = propose(
        session.picture,
        outline,
        lambda measure, placed: session.measure(Task("proposed", measure, placed)),
        shows="close" if kind.close_up else kind.sketch,
        ultraviolet=kind.ultraviolet,
    )
    drawn = list(Marking.objects.filter(photo=photo, checkpoint__withdrawn=False).select_related("checkpoint", "photo"))
    places = groupby(found, key=lambda one: (one.proposal.measure, one.proposal.points))
    for (measure, points), some in places:
        tried = try_checkpoint(photo=photo, measure=measure, points=[list(point) for point in points])
        for read in some:
            proposal = read.proposal
            numbers = {} if _is_drawn(proposal, drawn) else _repeated(proposal, tried)
            if numbers:
                yield ProposedCheck(
                    photo=photo,
                    measure=measure,
                    quantity=proposal.quantity,
                    points=[list(point) for point in points],
                    noun=proposal.noun,
                    place=place_of(np.array(points), outline, facing(photo)),
                    numbers=numbers,
                    likeness=_likeness(read),
                    prior=believed(measure, _kind(proposal), proposal.quantity, tried),
                )


def _is_drawn(proposal: Proposal, drawn: list[Marking]) -> bool:
    """Whether the guide measures that number there already."""
    return any(
        (proposal.measure, proposal.quantity) == (marking.checkpoint.measure, marking.checkpoint.quantity)
        and _is_near(list(proposal.points), marking.photo, marking.points, marking.photo)
        for marking in drawn
    )


def _outline(photo: Photo) -> np.ndarray:
    """(N, 2) px: the shoe's, or of a close picture all but its margin."""
    outline = np.asarray(offered(photo).outline, float)
    if len(outline) and not kinds_by_key()[photo.view].close_up:
        return outline
    x, y = MARGIN * photo.width, MARGIN * photo.height
    return np.array([[x, y], [photo.width - x, y], [photo.width - x, photo.height - y], [x, photo.height - y]])


def _kind(proposal: Proposal) -> Kind:
    return Kind.COUNT if MEASURES[proposal.measure].numbers[proposal.quantity] == "count" else Kind.CONTINUOUS


def _repeated(proposal: Proposal, tried: list[Tried]) -> dict[str, list[float]]:
    """By pair's label the number and its standard uncertainty; empty where it does not repeat."""
    measure, quantity = MEASURES[proposal.measure], proposal.quantity
    read = [one for one in tried if one.reading and number_of(one.reading, quantity) is not None]
    if len(read) < min(2, len(tried)) or len(read) < len(tried) - 1:
        return {}
    values = [number_of(one.reading, quantity) for one in read]
    unsure = [_unsure(one.reading, quantity) for one in read]
    if _kind(proposal) is Kind.COUNT:
        # One pair may be worn, dirty or badly lit: what is surely counted must agree; else all of it.
        sure = [value for value, u in zip(values, unsure, strict=True) if u < UNSURE_COUNT]
        if len(set(sure or values)) != 1:
            return {}
    elif not measure.compares(quantity) and len(values) > 1:
        belief = believed(proposal.measure, Kind.CONTINUOUS, quantity, read[:1])["scatter"]
        if stdev(values) > REPEATS * np.hypot(belief, fmean(unsure)):
            return {}
    labels = (one.pair.label for one in read)
    return {label: [round(value, 4), round(u, 4)] for label, value, u in zip(labels, values, unsure, strict=True)}


def _unsure(reading: Measurement, quantity: str) -> float:
    return reading.parts.get(f"{quantity}_uncertainty", 0.0) if quantity else reading.uncertainty
