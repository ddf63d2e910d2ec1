"""Reads about photographs: the shot list, the tray, one photograph's page, and what the stage's tools read."""

from types import MappingProxyType

import numpy as np
from django.urls import reverse

from assay.compare.colours import Compared, compare_by_card, compare_by_neutral, compare_same_frame, spot_median
from assay.errors import AssayError, CannotMeasure
from assay.imaging.gauge import GAUGES, Gauged
from casework import wording
from casework.findings import state_of
from casework.grading import VOID
from casework.models import Case
from casework.queue import stalled
from casework.waiting import waiting_words
from library.models import Foot
from library.photo_kinds import keys_where, kinds_by_key, name_of
from pairs.models import Lamp
from pairs.pictures import card_off_mm, correction, height_of_card, pixels, plane
from pairs.queries import alignment_of, beside, photos_in_use

# A point put by hand is never surer than this; and the least radius of a spot whose colour is read.
LEAST_POINT_PX = 0.5
SPOT_PX = 6
# How unsure a height is that follows from the shoe being as large as retail's: sizes scatter by 1 to 2 % of a distance
# of some 500 mm, against heights of 30 to 60 mm.
CARD_HEIGHT_UNSURE = 0.2
# One keystroke a shot, in the order of the shot list; other letters mean something else on that page.
KEYS = "123456789qwertzuop"


def shots(case: Case, checkpoints=()) -> list[dict]:
    """The shot list: every view and foot that the reference shows or a check wants, in working order. Three queries."""
    theirs, ours = photos_in_use(case.reference), photos_in_use(case.pair)
    feeds: dict[tuple[str, str], list] = {}
    for checkpoint in checkpoints:
        feeds.setdefault((checkpoint.view, checkpoint.foot), []).append(checkpoint)
    wanted = {place for place in (*theirs, *ours, *feeds) if place[0]}
    order = {view: n for n, view in enumerate(kinds_by_key())}
    found = []
    for number, (view, foot) in enumerate(sorted(wanted, key=lambda p: (order.get(p[0], len(order)), p[1])), start=1):
        photo = ours.get((view, foot))
        found.append(
            {
                "view": view,
                "foot": foot,
                "key": KEYS[number - 1] if number <= len(KEYS) else "",
                "name": place_name(view, foot),
                "how": kinds_by_key()[view].how if view in kinds_by_key() else "",
                "sketch": kinds_by_key()[view].sketch if view in kinds_by_key() else "side",
                "ultraviolet": view in kinds_by_key() and kinds_by_key()[view].ultraviolet,
                "careful": view in kinds_by_key() and bool(kinds_by_key()[view].caution),
                "photo": photo,
                "feeds": feeds.get((view, foot), []),
                "asked": (view, foot) in feeds or not feeds,
                "fitness": wording.fitness_words(photo.fitness) if photo else "",
                "moved": photo and belongs_elsewhere(photo),
            }
        )
    return found


def belongs_elsewhere(photo) -> str:
    """What a photograph looks like, where that is not what somebody said it is."""
    place = photo.guess.place
    if photo.sorted_by != "person" or place is None or place == (photo.view, photo.foot):
        return ""
    return place_name(*place)


def tray(case: Case) -> dict:
    """The photographs of a case: the shot list, what is being read, what nobody could sort. Eight queries."""
    places = shots(case, _fed(case))
    photos = list(case.pair.photos.all())
    return {
        "case": case,
        "shots": places,
        "reading": [p for p in photos if p.state in ("arrived", "reading")],
        "broken": [{"photo": p, "why": wording.sentence(p.guess.refusal)} for p in photos if p.state == "broken"],
        "unsorted": [
            {
                "photo": p,
                "fitness": wording.fitness_words(p.fitness),
                "ultraviolet": p.guess.ultraviolet,
                "between": _between(p, places),
            }
            for p in reversed(photos)
            if p.state == "read" and not p.view and not p.set_aside
        ],
        "stalled": stalled(case),
        "waits": waiting_words(case.pair),
    }


def _between(photo, places: list[dict]) -> list[dict]:
    """The places that explain a photograph almost equally, best first; key where it is on the shot list."""
    keys = {(place["view"], place["foot"]): place["key"] for place in places}
    return [
        {"name": place_name(view, foot), "key": keys.get((view, foot), "")} for view, foot in photo.guess.between or ()
    ]


def place_name(view: str, foot: str) -> str:
    """What a photograph there shows, in words."""
    return ", ".join(filter(None, (foot and Foot(foot).label, name_of(view))))


def _places() -> list[tuple[str, str, str]]:
    """View, foot and name of whatever a photograph may show: also the foot that the retail pair has none of."""
    return [
        (key, foot, place_name(key, foot))
        for key, view in kinds_by_key().items()
        for foot in (Foot.values if view.feet else ("",))
    ]


def photo_page(case: Case, photo) -> dict:
    """One photograph of a case, large, with what was found in it. About eight queries."""
    reference = beside(photos_in_use(case.reference), photo.view, photo.foot) if photo.view else None
    alignment = alignment_of(reference, photo) if reference else None
    return {
        "case": case,
        "locked": bool(case.signed_at),
        "work": reverse("photo-show", args=[case.number, photo.pk]),
        "box": photo.guess.box if photo.guess.found else None,
        "alignment": wording.alignment_words(alignment) if alignment else "",
        "moved": belongs_elsewhere(photo),
        **photo_facts(photo),
    }


def photo_facts(photo) -> dict:
    """What is known of one photograph and may be put right, whoever's pair it shows. Two queries."""
    scale, used = photo.scale, photos_in_use(photo.pair).get((photo.view, photo.foot))
    others = photo.pair.photos.filter(view=photo.view, foot=photo.foot).exclude(pk=photo.pk) if photo.view else []
    return {
        "photo": photo,
        "fitness": wording.fitness_words(photo.fitness),
        "scale": wording.scale_words(photo),
        "light": wording.light_words(photo),
        "tile_percent": round(100 * (photo.pair.organisation.tile_reflectance or 0)),
        "corners": " ".join(f"{x},{y}" for x, y in scale.corners_px or ()),
        "relative": f"{100 * _relative(photo):.1f}" if scale.is_known else "",
        "height": scale.height_mm or 0.0,
        "height_unknown": card_off_mm(photo) if scale.height_uncertainty_mm is None else scale.height_uncertainty_mm,
        "caution": kinds_by_key()[photo.view].caution if photo.view in kinds_by_key() else "",
        "under_uv": photo.view in keys_where(ultraviolet=True),
        "lamps": Lamp.choices,
        "used": used == photo,
        "places": _places(),
        "others": [{"pk": one.pk, "name_given": one.name_given, "used": one == used} for one in others],
        "card_lay": _card_lay(photo),
        "carded": scale.source in ("card", "id1", "rectangle"),
    }


def _relative(photo) -> float:
    """Relative standard uncertainty of lengths in the middle of a photograph."""
    return plane(photo).relative_at(np.array([[photo.width / 2, photo.height / 2]]))


def _card_lay(photo) -> dict | None:
    """Where the card seems to have lain, if its scale disagrees with retail's: the height to offer, and in words."""
    height = height_of_card(photo)
    if height is None:
        return None
    factor = photo.scale.too_long_by
    return {
        "percent": f"{100 * abs(factor - 1):.0f}",
        "longer": factor > 1,
        "lengths": f"{height:.0f} {max(CARD_HEIGHT_UNSURE * abs(height), 1.0):.0f}",
        "height": f"{abs(height):.0f}",
        "under": height > 0,
    }


def wanted(case: Case, link=None) -> list[dict]:
    """What a phone is asked for: shots that should be taken again and those that have no photograph yet, or those that
    its link names. Names, how to take them and why, nothing else."""
    if link is not None and link.wanted:
        return [_wanted(case, link, one) for one in link.wanted]
    asked = [s for s in shots(case, _fed(case)) if s["asked"]]
    again = [s for s in asked if s["photo"] and s["photo"].fitness.retake]
    told = [s | {"come": s["fitness"], "again": True} for s in again]
    return told + [s for s in asked if not s["photo"]]


MOST_ASKED = 6
"""A client photographs no more than so many things well."""


def asked_of_client(case: Case) -> list[dict]:
    """The photographs that would settle most, and that anybody can take without harm, under no lamp and with nothing
    lifted: view, foot, why; what should be taken again first. The bench's queries for its state, and four more."""
    told = {one.key: one.bits for one in (state_of(case).plan.worths if state_of(case).plan else ())}
    wanted = []
    for shot in shots(case, _fed(case)):
        again = bool(shot["photo"] and shot["photo"].fitness.retake)
        if shot["asked"] and not shot["careful"] and (again or not shot["photo"]):
            worth = sum(told.get(one.key, 0.0) + one.mandatory for one in shot["feeds"])
            wanted.append((again, worth, shot))
    wanted.sort(key=lambda one: (-one[0], -one[1]))
    return [{"view": shot["view"], "foot": shot["foot"], "why": ""} for _, _, shot in wanted[:MOST_ASKED]]


PLAINLY = {
    "side": "Level with the shoe, straight from the side, on a plain ground.",
    "top": "Straight from above, on a plain ground.",
    "rear": "Straight on, level with the shoe.",
    "sole": "The whole sole, straight on.",
    "tag": "Near and sharp, the light from the side so that nothing glares.",
    "box": "All of it, straight on, every letter sharp.",
    "close": "As near as it stays sharp, the light from the side.",
}
"""How a client takes a picture, by what its sketch shows."""
FIRST = ("size_tag", "box_label", "side_out", "rear", "top", "sole")
"""What a client is asked for before anybody knows which release it is."""


def wanted_first() -> list[dict]:
    """The same for a case that is still to begin."""
    kinds = kinds_by_key()
    known = [kinds[key] for key in FIRST if key in kinds]
    return [{"name": one.name, "how": PLAINLY.get(one.sketch, ""), "sketch": one.sketch} for one in known]


def _wanted(case: Case, link, one: dict) -> dict:
    """One that the link names, and how the latest that came for it is."""
    name = place_name(one["view"], one["foot"])
    known = kinds_by_key().get(one["view"])
    # Of the round before it has the same photographs; what came since is new.
    before = link.case.second_of.pair.photos.values("sha256") if link.case.second_of_id else []
    came = case.pair.photos.filter(view=one["view"], foot=one["foot"]).exclude(sha256__in=before)
    latest = came.exclude(state__in=("arrived", "reading")).first()
    return {
        "name": name,
        "how": " ".join(filter(None, (one["why"], PLAINLY.get(known.sketch, "") if known else ""))),
        "sketch": known.sketch if known else "side",
        "foot": one["foot"],
        "come": latest and wording.fitness_words(latest.fitness),
        "again": bool(latest and latest.fitness.retake),
    }


def _fed(case: Case) -> list:
    """Checkpoints that photographs feed and that apply. One query."""
    findings = case.findings.exclude(reason=VOID).exclude(checkpoint__view="").select_related("checkpoint")
    return [finding.checkpoint for finding in findings.order_by("checkpoint__position")]


def side_photo(case: Case, checkpoint, side: str):
    """The photograph on one side of the stage. Raises AssayError ``no_photo``. One query."""
    place = (checkpoint.view, checkpoint.foot)
    theirs = side == "retail"
    photo = beside(photos_in_use(case.reference), *place) if theirs else photos_in_use(case.pair).get(place)
    if photo is None:
        raise AssayError("no_photo")
    return photo


def gauged(case: Case, checkpoint, given: dict) -> Gauged:
    """What a tool reads at the given points. Raises AssayError."""
    tool, points = given["tool"], np.asarray(given["points"], float).reshape(-1, 2)
    if tool == "colour":
        return _colour(case, checkpoint, given)
    if tool not in GAUGES:
        raise AssayError("unknown_tool")
    photo = side_photo(case, checkpoint, given["side"])
    return GAUGES[tool](points, plane(photo), max(LEAST_POINT_PX, given["pixel"]))


def _colour(case: Case, checkpoint, given: dict) -> Gauged:
    """The first point of each picture compared; a second one in each is the same neutral part. Both points in one
    picture: the same light."""
    here = side_photo(case, checkpoint, given["side"])
    reach = max(SPOT_PX, given["pixel"] * SPOT_PX)
    spots = [spot_median(pixels(here.full.path), tuple(p), reach) for p in given["points"]]
    if len(spots) == 2 and not given["others"]:
        return _gauged_colour(compare_same_frame(spots[0], spots[1]))
    there = side_photo(case, checkpoint, "retail" if given["side"] == "suspect" else "suspect")
    others = [spot_median(pixels(there.full.path), tuple(p), reach) for p in given["others"]]
    if len(spots) == 2 and len(others) == 2:
        return _gauged_colour(compare_by_neutral(spots[0], others[0], (spots[1], others[1])))
    if not spots or not others:
        raise CannotMeasure("gauge_needs_points", wanted=2, got=len(spots) + len(others))
    lights = correction(here), correction(there)
    if not all(lights):
        bare = next(p for p, light in zip((here, there), lights, strict=True) if light is None)
        why = wording.sentence(bare.light.refusal or "no_card", {"markers": "some"})
        raise CannotMeasure("no_true_colour", why=why)
    at_px = (given["points"][0], given["others"][0])
    return _gauged_colour(compare_by_card(spots[0], others[0], lights, at_px))


def _gauged_colour(compared: Compared) -> Gauged:
    labs = {
        f"{name}_{axis}": round(float(value), 2)
        for name, lab in zip(("one", "other"), compared.lab, strict=True)
        for axis, value in zip("Lab", lab, strict=True)
    }
    return Gauged(compared.delta_e_2000, "dE00", compared.uncertainty_de00, MappingProxyType(labs))
