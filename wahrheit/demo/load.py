"""Put the scenario into the database, through the same actions that people's clicks run."""

from collections.abc import Callable
from pathlib import Path
from uuid import NAMESPACE_URL, uuid5

from django.contrib.auth import get_user_model
from django.db import transaction

from casework.actions.analyse_case import analyse_case, needs_of
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import start_case
from casework.actions.work_checkpoint import answer, confirm, type_code
from casework.grading import regrade
from casework.models import Case, HousePolicy
from library.models import Batch, Checkpoint, Maker, Release, ShoeModel
from pairs.actions.align_photo import align_photo
from pairs.actions.mark_photo import carry_marking, mark_photo
from pairs.actions.read_photo import read_photo
from pairs.actions.receive_photo import receive_photo
from pairs.actions.take_reading import SAID, measure_photo, say
from pairs.models import House, Marking, Pair, Standing
from pairs.queries import photos_in_use
from wahrheit.demo import scenario as demo
from wahrheit.demo.shots import BENCH_AT, JOBS, path_of, take_all


def load(shots_dir: Path, tell: Callable[[str], None]) -> None:
    """Load what is not there yet. ``shots_dir``: where the simulated photographs are kept."""
    users = _people()
    house = House.objects.get(name=demo.HOUSE)
    _library()
    take_all(shots_dir, tell)
    mara = users["mara"]
    court = Release.objects.get(style_code=demo.RELEASES[0][3])
    runner = Release.objects.get(style_code=demo.RUNNER_CODE)
    for label in (*demo.RETAIL_PAIRS, demo.RUNNER_PAIR):
        if not Pair.objects.filter(house=house, label=label).exists():
            tell(f"measuring retail pair {label}")
            with transaction.atomic():
                _retail_pair(house, runner if label == demo.RUNNER_PAIR else court, label, shots_dir, mara)
    for key, _, _, facts, said in demo.CASES:
        token = uuid5(NAMESPACE_URL, f"demo/{key}")
        if not Case.objects.filter(token=token).exists():
            tell(f"measuring the {key} pair")
            with transaction.atomic():
                _case(token, court, shots_dir, facts, said, mara, key)


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
    HousePolicy.objects.get_or_create(house=house, number=1, defaults={"made_by": users["mara"]})
    return users


def _library() -> None:
    for maker, mask in demo.MAKERS.items():
        Maker.objects.get_or_create(name=maker, defaults={"style_code_mask": mask})
    for maker, model, colourway, code, year, price in demo.RELEASES:
        shoe_model, _ = ShoeModel.objects.get_or_create(maker=Maker.objects.get(name=maker), name=model)
        Release.objects.get_or_create(
            style_code=code,
            defaults={
                "shoe_model": shoe_model,
                "colourway": colourway,
                "year": year,
                "sizes_us": demo.SIZES_US,
                "retail_price": price,
            },
        )
    release = Release.objects.get(style_code=demo.RELEASES[0][3])
    runner = Release.objects.get(style_code=demo.RUNNER_CODE)
    for of, checkpoints in ((release, demo.CHECKPOINTS), (runner, demo.RUNNER_CHECKPOINTS)):
        for checkpoint in checkpoints:
            Checkpoint.objects.get_or_create(release=of, key=checkpoint["key"], defaults=checkpoint)
    Batch.objects.get_or_create(release=release, name="Bowline", defaults={"habits": "Same heel bar on both feet."})


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
    return photos


def _retail_pair(house: House, release: Release, label: str, shots_dir: Path, user) -> None:
    pair = Pair.objects.create(
        house=house,
        release=release,
        standing=Standing.RETAIL,
        label=label,
        size_us="9.5",
        region="eu",
        condition="deadstock",
    )
    first = label in (next(iter(demo.RETAIL_PAIRS)), demo.RUNNER_PAIR)
    model = pair if first else Pair.objects.get(house=house, label=next(iter(demo.RETAIL_PAIRS)))
    known = {} if first else photos_in_use(model)
    measured = release.checkpoints.exclude(measure="")
    photos = _photos(pair, label, shots_dir, user)
    for photo in photos.values():
        read_photo(photo=photo, references=known, needs=needs_of(measured))
    for checkpoint in measured:
        photo = photos[checkpoint.view, checkpoint.foot]
        if first:
            key = checkpoint.key.rsplit("-", 1)[0]
            points = demo.drawn(key, checkpoint.foot, demo.FRAMING.mm_per_px, BENCH_AT)
            marking = mark_photo(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        else:
            drawn = Marking.objects.select_related("photo").get(checkpoint=checkpoint, photo__pair=model)
            alignment = align_photo(reference=drawn.photo, photo=photo)
            marking = carry_marking(drawn=drawn, photo=photo, alignment=alignment)
        measure_photo(marking=marking, by=user)
    for key, value in demo.SAID_OF_RETAIL.get(label, {}).items():
        say(checkpoint=release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=user)


def _case(token, release: Release, shots_dir: Path, facts: dict, said: dict, user, key: str) -> None:
    case = start_case(user=user, typed_code=release.style_code, token=token)
    save_intake(case=case, user=user, facts=facts)
    _photos(case.pair, key, shots_dir, user)
    analyse_case(case=case, user=user)
    for name, value in said.items():
        checkpoint = release.checkpoints.get(key=name)
        if checkpoint.kind == "code":
            type_code(case=case, checkpoint=checkpoint, user=user, typed=value)
        else:
            answer(case=case, checkpoint=checkpoint, user=user, choice=value)
    regrade(case)
    if key in demo.SIGNED:
        for finding in case.findings.filter(grade="departs").select_related("checkpoint"):
            confirm(case=case, checkpoint=finding.checkpoint, user=user)
        verdict, words = demo.SIGNED[key]
        sign_opinion(case=case, user=user, verdict=verdict, words=words, after=None)
