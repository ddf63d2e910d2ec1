"""Look at a photograph once: preview, card, scale, light, fitness, view, alignment. One decode serves everything."""

from dataclasses import asdict, dataclass

import numpy as np
from django.core.files.base import ContentFile
from django.db import transaction

from assay.errors import AssayError, CannotMeasure, CannotOpen
from assay.imaging import card
from assay.imaging.fitness import Fit, Fitness, Needs, judge_fitness
from assay.imaging.foreground import Foreground, find_foreground
from assay.imaging.opening import preview
from assay.imaging.plane import scaled
from assay.imaging.pyramid import Pyramid, pyramid_of
from assay.imaging.view import Guess, KnownView, sort_view
from assay.imaging.white_balance import Correction, correction_from_card
from assay.paperwork import barcode
from assay.register.affine import Alignment
from assay.register.features import Features, features_of
from library.known_views import keys_where, views
from library.models import OTHER_FOOT
from pairs.actions.align_photo import keep_alignment, offered
from pairs.actions.check_scale import hold_scale_against
from pairs.models import Photo
from pairs.pictures import camera, features_file, light_kept, pixels

# What reading finds; whatever else a person does to the photograph meanwhile stands.
FOUND = (
    *("state", "view", "foot", "sorted_by", "preview", "features"),
    *("mm_per_px", "scale", "light", "codes", "guess", "fitness"),
)
# A fixed stand's scale is read off a ruler once; the shoe then stands a little nearer or further.
STAND_RELATIVE = 0.01


@dataclass(frozen=True, slots=True)
class Look:
    """What a photograph shows to whoever does not know yet what it is of."""

    pyramid: Pyramid
    card: card.FoundCard | CannotMeasure
    light: Correction | AssayError
    foreground: Foreground
    features: Features
    preview: bytes


def look_at(path: str, bar_mm: float) -> Look:
    """Look at a stored photograph. Raises CannotOpen.

    ``bar_mm``: what the check bar measures on the house's card.
    """
    pyramid = pyramid_of(pixels(path))
    light: Correction | AssayError
    try:
        found = card.find_card(pyramid, bar_mm=bar_mm)
    except CannotMeasure as refusal:
        found = light = refusal
        foreground = find_foreground(pyramid)
    else:
        foreground = find_foreground(pyramid, found.corners_px)
        try:
            light = correction_from_card(pyramid.rgb, found.plane, bar_mm / card.BAR_MM)
        except AssayError as refusal:
            light = refusal
    return Look(pyramid, found, light, foreground, features_of(pyramid, foreground), preview(pyramid))


def known_views(photos) -> list[KnownView]:
    """The views of a retail pair that a photograph can be recognised by."""
    kinds = views()
    return [
        KnownView(
            str(one.pk),
            one.view,
            one.view in kinds and kinds[one.view].ultraviolet,
            bool(one.foot),
            offered(one),
            close_up=one.view in kinds and kinds[one.view].close_up,
            side=one.view in kinds and kinds[one.view].one_sided,
        )
        for one in photos
    ]


def read_photo(
    *,
    photo: Photo,
    references: dict[tuple[str, str], Photo],
    needs: dict[str, Needs],
) -> tuple[Photo, Alignment] | None:
    """Read an arrived photograph and keep what was found; a file that breaks on decoding is kept as broken.

    ``references``: the retail pair's photographs by view and foot; ``needs``: what the checks of a view ask. Returns
    the one that was laid onto it, and how.
    """
    try:
        look = look_at(photo.full.path, photo.pair.house.card_bar_mm)
    except CannotOpen as error:
        photo.state, photo.guess = Photo.State.BROKEN, {"refusal": error.reason}
        photo.save(update_fields=["state", "guess"])
        return None
    pyramid, foreground = look.pyramid, look.foreground
    _scale(photo, look)
    by_person = photo.sorted_by == Photo.SortedBy.PERSON and references.get((photo.view, photo.foot))
    guess = sort_view(
        pyramid,
        look.features,
        known_views(references.values()),
        lambda: features_of(pyramid, foreground, mirror=True),
        said=str(by_person.pk) if by_person else "",
    )
    laid_onto = _sort(photo, guess, references)
    photo.codes = _codes(photo, pyramid)
    photo.guess |= {
        "box": [round(n) for n in foreground.box],
        "found": foreground.found,
        "ultraviolet": guess.ultraviolet,
    }
    _judge(photo, pyramid, foreground, needs.get(photo.view, Needs()))
    photo.state = Photo.State.READ
    laid = (laid_onto, guess.alignment) if laid_onto and not photo.set_aside else None
    if laid:
        hold_scale_against(photo, *laid)
    _keep(photo, look, laid)
    return laid


def _keep(photo: Photo, look: Look, laid: tuple[Photo, Alignment] | None) -> None:
    with transaction.atomic():
        photo.preview.save("preview.jpg", ContentFile(look.preview), save=False)
        photo.features.save("features.npz", features_file(look.features), save=False)
        # A person may have said meanwhile what it shows: their word stands.
        said = Photo.objects.filter(pk=photo.pk, sorted_by=Photo.SortedBy.PERSON).values("view", "foot").first()
        if said and photo.sorted_by != Photo.SortedBy.PERSON:
            photo.view, photo.foot, photo.sorted_by = said["view"], said["foot"], Photo.SortedBy.PERSON
            laid = laid if laid and (laid[0].view, laid[0].foot) == (photo.view, photo.foot) else None
        photo.save(update_fields=FOUND)
        if laid:
            keep_alignment(reference=laid[0], photo=photo, alignment=laid[1])


def read_codes(photo: Photo) -> None:
    """Keep the barcodes on a photograph that was found only now to be of a thing that carries them."""
    photo.codes = _codes(photo, pyramid_of(pixels(photo.full.path)))
    if doubts := _code_doubts(photo.codes):
        doubts += photo.fitness["doubts"]
        photo.fitness |= {"verdict": _verdict(Fitness(photo.fitness["verdict"]), doubts), "doubts": doubts}
    photo.save(update_fields=["codes", "fitness"])


def _codes(photo: Photo, pyramid: Pyramid) -> list[dict]:
    """Barcodes on a label; other photographs are not looked through."""
    return [asdict(code) for code in barcode.find(pyramid)] if photo.view in keys_where(codes=True) else []


def _scale(photo: Photo, look: Look) -> None:
    """Scale and light from the card where there is one; otherwise the reason why not."""
    found, light = look.card, look.light
    photo.light = {"refusal": light.reason} if isinstance(light, AssayError) else light_kept(light)
    if isinstance(found, CannotMeasure):
        photo.scale = {"refusal": found.reason}
        if photo.mm_per_px:
            known = scaled(photo.mm_per_px, STAND_RELATIVE, "stand")
            photo.scale = {"source": "stand", "matrix": known.matrix.tolist(), "relative": STAND_RELATIVE}
        return
    photo.scale = {
        "source": "card",
        "matrix": found.plane.matrix.tolist(),
        "relative": found.plane.relative_uncertainty,
        "corners": np.round(found.corners_px, 1).tolist(),
        "tilt_deg": round(found.plane.tilt_deg(camera(photo)), 1),
        "doubts": list(found.doubts),
        "bar_mm": photo.pair.house.card_bar_mm,
    }
    photo.mm_per_px = found.plane.mm_per_px(((photo.width - 1) / 2, (photo.height - 1) / 2))


def _sort(photo: Photo, guess: Guess, references: dict[tuple[str, str], Photo]) -> Photo | None:
    """Put the photograph where it belongs. What a person said stands; a guess that differs is kept as a doubt.

    Returns the reference photograph that the guess lays onto it, where the guess stands: mirrored, the other foot's.
    """
    places = {str(known.pk): place for place, known in references.items()}
    place = places.get(guess.key)
    reference = references.get(place)
    photo.guess = {"how": guess.how, "matches": guess.alignment.matches if guess.alignment else 0}
    if guess.between:
        photo.guess["between"] = [_turned(places[key]) if other else places[key] for key, other in guess.between]
    if place and guess.how == "mirror":
        photo.guess["mirrored"] = not place[1]
        place = _turned(place) if place[1] else None
    if place:
        photo.guess |= {"view": place[0], "foot": place[1], "assumed": _foot_assumed(place, references)}
    if not photo.view and place:
        photo.view, photo.foot = place
        photo.sorted_by = Photo.SortedBy.MACHINE
    return reference if place and place == (photo.view, photo.foot) else None


def _turned(place: tuple[str, str]) -> tuple[str, str]:
    """The same view of the other foot."""
    return place[0], OTHER_FOOT[place[1]]


def _foot_assumed(place: tuple[str, str], references: dict) -> bool:
    """Whether left and right look so alike from there that, with one of them known, the foot is an assumption."""
    view, foot = place
    return bool(foot) and view not in keys_where(one_sided=True) and (view, OTHER_FOOT[foot]) not in references


def _judge(photo: Photo, pyramid: Pyramid, foreground: Foreground, needs: Needs) -> None:
    fit = judge_fitness(pyramid, foreground, needs, mm_per_px=photo.mm_per_px, tilt_deg=photo.scale.get("tilt_deg"))
    extra = [*photo.fitness.get("doubts", []), *_code_doubts(photo.codes)]
    if photo.scale.get("refusal") == "mirrored_photo" or photo.guess.get("mirrored"):
        extra = [*extra, "mirrored_photo"]
    photo.fitness = fitness_kept(fit, extra)


def _code_doubts(codes: list[dict]) -> list[str]:
    numbers = [code for code in codes if code["gtin14"]]
    doubts = ["several_codes"] if len(numbers) > 1 else []
    return [*doubts, *(["upside_down"] if any(not code["upright"] for code in numbers) else [])]


def fitness_kept(fit: Fit, extra: list[str]) -> dict:
    """A verdict as it is stored, with doubts that came from elsewhere."""
    doubts = [*extra, *fit.doubts]
    verdict = _verdict(fit.fitness, doubts)
    return {"verdict": verdict, "doubts": doubts, "retake": list(fit.retake), "numbers": dict(fit.numbers)}


def _verdict(found: Fitness, doubts: list[str]) -> str:
    return (Fitness.DOUBTS if found is Fitness.USABLE and doubts else found).value
