"""Reads for the guides: which retail photographs there are to draw on, and what is drawn on them."""

from collections.abc import Mapping
from functools import cache
from io import BytesIO

import cv2
import numpy as np
from PIL import Image, ImageDraw

from assay.catalogue import catalogue
from assay.contracts import MarkKind
from assay.judge.judgement import Kind
from assay.measure.registry import MEASURES
from casework.actions.join_feet import other_feet
from casework.guides.wording import WORDS, choices
from casework.models import Sighting
from casework.wording import of_error
from library.models import Checkpoint, Foot, Release
from library.photo_kinds import kinds_by_key
from pairs.actions.draw_checkpoint import Tried, number_of
from pairs.models import Organisation, Photo, Standing
from pairs.pictures import mark_kind
from pairs.queries import latest_readings, photos_in_use

MOST_SEEN = 30
SAMPLE_PX = (144, 96)
SAMPLE_ROOM, LEAST_ROOM = 0.65, 0.3
"""Half the width of a measure's picture, in lengths of what is marked on its sample and in widths of that."""


def guides(organisation: Organisation) -> list[dict]:
    """Releases of which the shop has verified pairs, with the first pair's photographs. Few queries a release."""
    known = Release.objects.filter(pairs__organisation=organisation, pairs__standing=Standing.RETAIL).distinct()
    known = known.select_related("shoe_model__maker").order_by("shoe_model__maker__name", "shoe_model__name", "year")
    return [_guide(release, organisation) for release in known]


def _guide(release: Release, organisation: Organisation) -> dict:
    pairs = list(
        release.pairs.filter(organisation=organisation, standing=Standing.RETAIL)
        .order_by("label")
        .prefetch_related("photos")
    )
    photos = photos_in_use(pairs[0])
    drawn = list(release.checkpoints.exclude(view="").values_list("view", "foot", "name"))
    return {
        "release": release,
        "pairs": pairs,
        "checks": release.checkpoints.count(),
        "photos": [
            {"photo": photo, "names": [name for view, foot, name in drawn if (view, foot) == (photo.view, photo.foot)]}
            for photo in sorted(photos.values(), key=lambda photo: (list(kinds_by_key()).index(photo.view), photo.foot))
        ],
    }


def question_desk(release: Release, organisation: Organisation, changed: tuple[str, Mapping] = ("", {})) -> dict:
    """A release's questions with what verified pairs answered, and the catalogue's that it does not ask. Six queries.

    ``changed``: the key of a question whose new words were refused, and what was sent.
    """
    pairs = list(release.pairs.filter(organisation=organisation, standing=Standing.RETAIL).order_by("label"))
    asked = list(release.checkpoints.filter(kind=Kind.ANSWER).order_by("position").prefetch_related("examples"))
    answered = latest_readings(pairs, checkpoints=asked)
    taken = set(Checkpoint.every.filter(release=release).values_list("key", flat=True))
    rows = []
    for one in asked:
        rare = one.prior.get("rare", {})
        sent = changed[1] if changed[0] == one.key and "answers" in changed[1] else None
        lines = "\n".join(f"{'! ' if key in rare else ''}{words}" for key, words, *_ in one.answers)
        given = [answered.get((pair.pk, one.pk)) for pair in pairs]
        rows.append(
            {
                "check": one,
                "name": sent.get("name", "") if sent else one.name,
                "instruction": sent.get("instruction", "") if sent else one.instruction,
                "caution": sent.get("caution", "") if sent else one.caution,
                "lines": sent["answers"] if sent else lines,
                "open": bool(sent),
                "pairs": [
                    {"pair": pair, "value": reading.value if reading else ""}
                    for pair, reading in zip(pairs, given, strict=True)
                ],
                "examples": {shown.answer: shown.pk for shown in one.examples.all()},
                "unpictured": _unpictured(one),
                "silent": sum(reading is None for reading in given),
            }
        )
    return {
        "release": release,
        "rows": rows,
        "catalogue": [one for one in catalogue() if one.key not in taken],
        "seen": _to_draw(sightings_of(release, organisation), pairs),
    }


def sightings_of(release: Release, organisation: Organisation) -> list[Sighting]:
    """What checkers saw on pairs of this release that no check names, the newest first. One query."""
    known = Sighting.objects.filter(case__organisation=organisation, case__pair__release=release, taken_back=False)
    return list(known.select_related("case", "photo", "made_by").order_by("-id")[:MOST_SEEN])


def _to_draw(sightings: list[Sighting], pairs: list) -> list[dict]:
    """Each with the verified pair's photograph of the same view, to draw a check on."""
    photos = photos_in_use(pairs[0]) if pairs else {}
    return [
        {"one": sighting, "draw": photos.get((sighting.photo.view, sighting.photo.foot)) if sighting.photo else None}
        for sighting in sightings
    ]


@cache
def sample_picture(measure: str) -> bytes:
    """A small JPEG of what a measure reads: its sample round the marks; a path or places are drawn on it."""
    sample = MEASURES[measure].sample()
    points = np.asarray(sample.points, float)
    low, high = points.min(0), points.max(0)
    span, shape = high - low, SAMPLE_PX[0] / SAMPLE_PX[1]
    room = max(SAMPLE_ROOM * max(span[0], shape * span[1]), LEAST_ROOM * sample.picture.rgb.shape[1])
    corner = (low + high) / 2 - [room, room / shape]
    scale = SAMPLE_PX[0] / (2 * room)
    onto = np.array([[scale, 0, -scale * corner[0]], [0, scale, -scale * corner[1]]])
    rgb = cv2.warpAffine(sample.picture.rgb, onto, SAMPLE_PX, flags=cv2.INTER_AREA, borderMode=cv2.BORDER_REFLECT_101)
    picture = Image.fromarray(rgb)
    if MEASURES[measure].marks is not MarkKind.REGION:
        draw = ImageDraw.Draw(picture)
        for x, y in (points - corner) * scale:
            draw.ellipse((x - 3, y - 3, x + 3, y + 3), fill="black", outline="white")
    made = BytesIO()
    picture.save(made, "JPEG", quality=85)
    return made.getvalue()


def places() -> list[tuple[str, str]]:
    """Every view and foot that a photograph may show, and its name."""
    return [
        (f"{view.key} {foot}".strip(), ", ".join(filter(None, (foot and Foot(foot).label, view.name))))
        for view in kinds_by_key().values()
        for foot in (Foot.values if view.feet else ("",))
    ]


def drawing_desk(photo: Photo, only: Checkpoint | None = None) -> dict:
    """One retail photograph to draw on, with what is drawn there, or ``only`` one check of it. Four queries."""
    release = photo.pair.release
    checks = list(release.checkpoints.order_by("position"))
    drawn = list(photo.markings.select_related("checkpoint").order_by("checkpoint__position"))
    here = [mark for mark in drawn if (mark.checkpoint == only if only else not mark.checkpoint.withdrawn)]
    return {
        "photo": photo,
        "release": release,
        "sections": list(dict.fromkeys(check.section for check in checks)),
        "groups": sorted({check.group for check in checks}),
        "drawn": [
            {
                "name": marking.checkpoint.name,
                "key": marking.checkpoint.key,
                "points": " ".join(f"{x:.1f},{y:.1f}" for x, y in marking.points),
                "closed": mark_kind(marking.checkpoint) is MarkKind.REGION,
            }
            for marking in here
        ],
        "taken_off": [marking.checkpoint for marking in drawn if marking.checkpoint.withdrawn],
    }


def check_desk(photo: Photo, checkpoint: Checkpoint) -> dict:
    """What can be done to one check there: its marks as dots, and checks of the other foot to hold it against."""
    own = next(mark for mark in photo.markings.all() if mark.checkpoint_id == checkpoint.pk)
    others = other_feet(checkpoint)
    choice = choices().get(f"{checkpoint.measure}:{checkpoint.quantity}")
    foot = str(photo.foot)
    held = "both" if others and others[0].foot == photo.foot else "feet"
    return {
        "check": checkpoint,
        "points": own.points,
        "choice": choice,
        "how": WORDS[choice.measure].how if choice else "",
        "closed": mark_kind(checkpoint) is MarkKind.REGION,
        "others": others,
        "feet_name": f"{checkpoint.name.removesuffix(foot).rstrip(', ')}, {held}" if others else "",
    }


def tried_table(tried: list[Tried], choices: list) -> dict:
    """Every pair's numbers in words: a row a choice, a column a pair; and why a pair has none."""
    return {
        "pairs": [one.pair for one in tried],
        "rows": [
            {"choice": choice, "numbers": [_number(one.reading, choice) if one.reading else ("–", "") for one in tried]}
            for choice in choices
        ],
        "refusals": [(one.pair, of_error(one.refusal)) for one in tried if one.refusal],
    }


def _number(reading, choice) -> tuple[str, str]:
    """A number and its standard uncertainty, which says how many digits are worth writing."""
    value = number_of(reading, choice.quantity)
    if value is None or (choice.unit == "mm" and reading.unit == "px"):
        return "–", ""
    off = reading.parts.get(f"{choice.quantity}_uncertainty") if choice.quantity else reading.uncertainty
    if choice.unit == "count":
        return f"{value:.0f}", "" if off is None else f"± {off:.1f}"
    digits = int(np.clip(1 - np.floor(np.log10(off)), 0, 3)) if off else 3
    return f"{value:.{digits}f}", f"± {off:.{digits}f}" if off else ""


def _unpictured(check: Checkpoint) -> int:
    """How many of its answers have neither photograph nor drawing."""
    shown = {example.answer for example in check.examples.all()}
    return sum(key not in shown and not any(drawing) for key, _, *drawing in check.answers)
