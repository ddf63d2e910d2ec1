"""Put the scenario into the database, through the same actions that people's clicks run."""

import json
from collections.abc import Callable
from pathlib import Path
from uuid import NAMESPACE_URL, uuid5

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Permission
from django.db import transaction

from casework.actions.analyse_case import analyse_case, needs_of
from casework.actions.know_copy import know_copy
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import start_case
from casework.actions.work_checkpoint import answer, confirm
from casework.actions.work_checkpoint import inscribe as inscribe_case
from casework.grading import regrade
from casework.models import Case, HousePolicy
from library.known_views import keys_where
from library.models import Batch, Checkpoint, Maker, Release, ShoeModel, SizeChart, View
from pairs.actions.align_photo import align_photo
from pairs.actions.compare_feet import compare_feet
from pairs.actions.mark_photo import carry_markings, mark_photo
from pairs.actions.read_photo import read_photo
from pairs.actions.receive_photo import receive_photo
from pairs.actions.scale_photo import set_neutral
from pairs.actions.take_paper import inscribe
from pairs.actions.take_reading import SAID, measure_photo, say
from pairs.instruments import THINGS
from pairs.models import House, Marking, Pair, Photo, Standing
from pairs.queries import photos_in_use
from wahrheit.demo import boxes, close_ups, insides, papers
from wahrheit.demo import scenario as demo
from wahrheit.demo.shots import JOBS, path_of, take_all

MARA_MAY = ("change_maker", "add_checkpoint", "add_housepolicy")
TILED = (*close_ups.TAKES, *insides.TAKES)
"""Views with a grey tile in the corner."""


def load(shots_dir: Path, tell: Callable[[str], None]) -> None:
    """Load what is not there yet. ``shots_dir``: where the simulated photographs are kept."""
    users = load_people_and_library()
    house = House.objects.get(name=demo.HOUSE)
    take_all(shots_dir, tell)
    mara = users["mara"]
    for code, labels in demo.PAIRS_OF.items():
        release = Release.objects.get(style_code=code)
        for label in labels:
            if not Pair.objects.filter(house=house, label=label).exists():
                tell(f"measuring retail pair {label}")
                with transaction.atomic():
                    _retail_pair(house, release, label, shots_dir, mara)
    court = Release.objects.get(style_code=demo.RELEASES[0][3])
    for label in demo.COPIES:
        if not Pair.objects.filter(house=house, label=label).exists():
            tell(f"measuring known copy {label}")
            with transaction.atomic():
                _known_copy(house, court, label, shots_dir, mara)
    cases = [(key, facts, said) for key, _, _, facts, said in demo.CASES]
    cases += [(key, {**facts, **boxes.ON_TABLE}, {}) for key, facts in boxes.PAPER_CASES]
    for key, facts, said in cases:
        token = uuid5(NAMESPACE_URL, f"demo/{key}")
        if not Case.objects.filter(token=token).exists():
            tell(f"measuring the {key} pair")
            with transaction.atomic():
                _case(token, court, shots_dir, facts, said, mara, key)
    _lay_things_out(house, [key for key, _, _ in cases])


def load_people_and_library() -> dict:
    """Who works there and what is known, without a single photograph; users by name."""
    users = _people()
    with transaction.atomic():
        _library()
    return users


def _lay_things_out(house: House, keys: list[str]) -> None:
    """What the simulated caliper and tag reader will find: with the demo's cases, and with the next one opened."""
    labels = {key: Case.objects.get(token=uuid5(NAMESPACE_URL, f"demo/{key}")).pair.label for key in keys}
    labels["spare"] = f"S{house.cases.latest('number').number + 1:04d}"
    things = {label: boxes.THINGS[key] for key, label in labels.items() if key in boxes.THINGS}
    kept = Path(settings.DATA_DIR) / THINGS
    known = json.loads(kept.read_text()) if kept.exists() else {}
    kept.write_text(json.dumps(known | things))


def _people() -> dict:
    users = {}
    house, _ = House.objects.get_or_create(name=demo.HOUSE)
    for name, first in demo.CHECKERS.items():
        user, new = get_user_model().objects.get_or_create(username=name, defaults={"first_name": first})
        if new:
            user.set_password(demo.PASSWORD)
            user.save()
        house.members.add(user)
        users[name] = user
    # Mara owns the house and writes the guides: she may change what is known of a maker, and how the house decides.
    users["mara"].user_permissions.add(*Permission.objects.filter(codename__in=MARA_MAY))
    HousePolicy.objects.get_or_create(house=house, number=1, defaults={"made_by": users["mara"]})
    return users


def _library() -> None:
    for given in close_ups.VIEWS:
        View.objects.get_or_create(key=given["key"], defaults=given)
    for name, mask in demo.MAKERS.items():
        maker, _ = Maker.objects.get_or_create(name=name, defaults={"style_code_mask": mask, **papers.MAKERS[name]})
        for group, csv in papers.CHARTS[name]:
            SizeChart.objects.get_or_create(maker=maker, group=group, defaults={"csv": csv})
    for maker, model, colourway, code, year, generation, price in demo.RELEASES:
        shoe_model, _ = ShoeModel.objects.get_or_create(maker=Maker.objects.get(name=maker), name=model)
        release, new = Release.objects.get_or_create(
            style_code=code,
            defaults={
                "shoe_model": shoe_model,
                "house": House.objects.get(name=demo.HOUSE),
                "colourway": colourway,
                "year": year,
                "generation": generation,
                "sizes_us": demo.SIZES_US,
                "retail_price": price,
                **papers.RELEASES[code],
            },
        )
        if new:
            made = {}
            for given in demo.CHECKPOINTS_OF.get(code, ()):
                feet = {foot: made.get(given.get(foot)) for foot in ("left", "right")}
                fields = {"shared": given["section"] in demo.SHARED, **given, **feet}
                checkpoint = made[given["key"]] = Checkpoint(release=release, **fields)
                checkpoint.clean()
                checkpoint.save()
    release = Release.objects.get(style_code=demo.RELEASES[0][3])
    for name, habits in demo.BATCHES.items():
        Batch.objects.get_or_create(release=release, name=name, defaults={"habits": habits})


def _photos(pair: Pair, key: str, shots_dir: Path, user) -> dict:
    """The pair's photographs, taken in as a person would who says what each shows."""
    photos = {}
    for job in JOBS[key]:
        path = path_of(shots_dir, key, job)
        stand = None if job.scene and job.scene.cards else job.camera.mm_per_px
        place = {"view": job.view, "foot": job.foot}
        photos[job.view, job.foot] = receive_photo(
            pair=pair, data=path.read_bytes(), by=user, name=path.name, mm_per_px=stand, **place
        )
        if job.view in keys_where(ultraviolet=True):
            photo = photos[job.view, job.foot]
            photo.lamp, photo.lamp_mm = insides.LAMP, insides.LAMP_MM
            photo.save(update_fields=["lamp", "lamp_mm"])
    return photos


def _retail_pair(house: House, release: Release, label: str, shots_dir: Path, user) -> None:
    pair = Pair.objects.create(
        house=house,
        release=release,
        standing=Standing.RETAIL,
        label=label,
        size_us="9.5",
        region=demo.REGIONS[label],
        condition="deadstock",
    )
    model = Pair.objects.get(house=house, label=demo.PAIRS_OF[release.style_code][0])
    known = {} if model == pair else photos_in_use(model)
    photos = _photos(pair, label, shots_dir, user)
    for photo in photos.values():
        read_photo(photo=photo, references=known, needs=needs_of(release.checkpoints.exclude(measure="")))
        if photo.view in TILED:
            _by_the_tile(photo, label)
    _measure_retail(release, pair, model, photos, user)
    compare_feet(pair=pair)
    for key, value in demo.SAID_OF_RETAIL.get(label, {}).items():
        say(checkpoint=release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=user)
    if label in boxes.BOX_SIDES:
        inscribe(pair=pair, places={"box.outer": boxes.BOX_SIDES[label]}, by=user)


def _known_copy(house: House, release: Release, label: str, shots_dir: Path, user) -> None:
    """A copy of a known batch: the checks carried over from the first retail pair, measured, laid on retail's."""
    batch, _, said = demo.COPIES[label]
    pair = Pair.objects.create(
        house=house,
        release=release,
        standing=Standing.COPY,
        label=label,
        size_us="9.5",
        batch=release.batches.get(name=batch),
        condition="deadstock",
    )
    model = Pair.objects.get(house=house, label=demo.PAIRS_OF[release.style_code][0])
    photos = _photos(pair, label, shots_dir, user)
    for photo in photos.values():
        read_photo(
            photo=photo, references=photos_in_use(model), needs=needs_of(release.checkpoints.exclude(measure=""))
        )
    _measure_retail(release, pair, model, photos, user)
    compare_feet(pair=pair)
    for key, value in said.items():
        say(checkpoint=release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=user)
    know_copy(pair=pair)


def _measure_retail(release: Release, pair: Pair, model: Pair, photos: dict, user) -> None:
    """Draw the checks on the first pair, carry them over to the others, measure."""
    laid: dict = {}
    measured: dict = {}
    for checkpoint in release.checkpoints.exclude(view=""):
        photo = photos.get((checkpoint.view, checkpoint.foot))
        if photo is None:
            continue
        if model == pair:
            points = demo.drawn(checkpoint.key, checkpoint.view, checkpoint.foot)
            marking = mark_photo(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        else:
            drawn = Marking.objects.select_related("photo").get(checkpoint=checkpoint, photo__pair=model)
            if photo.pk not in laid:
                laid[photo.pk] = align_photo(reference=drawn.photo, photo=photo)
            (marking,) = carry_markings(drawn=[drawn], photo=photo, alignment=laid[photo.pk])
        if checkpoint.measure:
            measure_photo(marking=marking, by=user, done=measured)


def _by_the_tile(photo: Photo, key: str) -> None:
    """Take the grey tile for neutral, as a person clicks it."""
    set_neutral(photo=photo, at=close_ups.neutral_px(key, photo.view))
    photo.save(update_fields=["light"])


def _case(token, release: Release, shots_dir: Path, facts: dict, said: dict, user, key: str) -> None:
    case = start_case(user=user, typed_code=release.style_code, token=token)
    save_intake(case=case, user=user, facts=facts)
    known, needs = photos_in_use(case.reference), needs_of(release.checkpoints.exclude(measure=""))
    for photo in _photos(case.pair, key, shots_dir, user).values():
        if photo.view in TILED:
            # Before anything is measured, so that nothing is measured twice.
            read_photo(photo=photo, references=known, needs=needs)
            _by_the_tile(photo, key)
    analyse_case(case=case, user=user)
    for name, value in said.items():
        answer(case=case, checkpoint=release.checkpoints.get(key=name), user=user, choice=value)
    read = boxes.READ.get(key, {})
    places = {place: text if isinstance(text, str) else json.dumps(text) for place, text in read.items()}
    if places:
        inscribe_case(case=case, user=user, places=places)
    regrade(case)
    if key in demo.SIGNED:
        for finding in case.findings.filter(grade="departs").select_related("checkpoint"):
            confirm(case=case, checkpoint=finding.checkpoint, user=user)
        verdict, words = demo.SIGNED[key]
        sign_opinion(case=case, user=user, verdict=verdict, words=words, after=None)
