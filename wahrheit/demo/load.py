"""Put the scenario into the database, through the same actions that people's clicks run."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from uuid import NAMESPACE_URL, uuid5

from django.contrib.auth import get_user_model
from django.db import transaction

from assay.simulator.court_shoe import photograph
from casework.actions.analyse_case import analyse_case
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import start_case
from casework.actions.work_checkpoint import answer, confirm, type_code
from casework.grading import regrade
from casework.models import Case, HousePolicy
from library.models import Batch, Checkpoint, Maker, Release, ShoeModel
from pairs.actions.add_photo import add_photo
from pairs.actions.align_photo import align_photo
from pairs.actions.mark_photo import carry_marking, mark_photo
from pairs.actions.take_reading import SAID, measure_photo, say
from pairs.models import House, Marking, Pair, Standing
from wahrheit.demo import scenario as demo


def load(shots_dir: Path, tell: Callable[[str], None]) -> None:
    """Load what is not there yet. ``shots_dir``: where the simulated photographs are kept."""
    users = _people()
    house = House.objects.get(name=demo.HOUSE)
    _library()
    release = Release.objects.get(style_code=demo.RELEASES[0][3])
    wanted = [*demo.RETAIL_PAIRS, *(key for key, *_ in demo.CASES), "spare"]
    shots = _shots(shots_dir, wanted, tell)
    mara = users["mara"]
    for label in demo.RETAIL_PAIRS:
        if not Pair.objects.filter(house=house, label=label).exists():
            tell(f"measuring retail pair {label}")
            with transaction.atomic():
                _retail_pair(house, release, label, shots, mara)
    for key, _, _, facts, said in demo.CASES:
        token = uuid5(NAMESPACE_URL, f"demo/{key}")
        if not Case.objects.filter(token=token).exists():
            tell(f"measuring the {key} pair")
            with transaction.atomic():
                _case(token, release, shots[key], facts, said, mara, key)


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
    for checkpoint in demo.CHECKPOINTS:
        Checkpoint.objects.get_or_create(release=release, key=checkpoint["key"], defaults=checkpoint)
    Batch.objects.get_or_create(release=release, name="Bowline", defaults={"habits": "Same heel bar on both feet."})


def _render(job) -> bytes:
    shoe, camera = job
    return photograph(shoe, camera).jpeg


def _shots(kept: Path, wanted: list[str], tell) -> dict[str, dict[str, bytes]]:
    """Photographs of every pair, taken once and kept."""
    kept.mkdir(parents=True, exist_ok=True)
    pairs = {label: (shoes, camera) for label, (shoes, camera, _) in demo.RETAIL_PAIRS.items()}
    pairs |= {key: (shoes, camera) for key, shoes, camera, _, _ in demo.CASES}
    pairs["spare"] = (demo.SPARE, demo.camera(0.5, (2, 2)))
    jobs = {
        kept / f"{key}-{foot}.jpg": (pairs[key][0][foot], pairs[key][1]) for key in wanted for foot in ("left", "right")
    }
    missing = [path for path in jobs if not path.exists()]
    if missing:
        tell(f"taking {len(missing)} simulated photographs (once, about {4 * len(missing)} s)")
        with ProcessPoolExecutor(2) as pool:
            for path, jpeg in zip(missing, pool.map(_render, [jobs[path] for path in missing]), strict=True):
                path.write_bytes(jpeg)
    return {key: {foot: (kept / f"{key}-{foot}.jpg").read_bytes() for foot in ("left", "right")} for key in wanted}


def _photos(pair: Pair, shots: dict[str, bytes], user) -> dict:
    return {
        foot: add_photo(
            pair=pair,
            data=data,
            view="side_out",
            foot=foot,
            by=user,
            name=f"{foot}.jpg",
            mm_per_px=demo.FRAMING.mm_per_px,
        )
        for foot, data in shots.items()
    }


def _retail_pair(house: House, release: Release, label: str, shots: dict, user) -> None:
    pair = Pair.objects.create(
        house=house,
        release=release,
        standing=Standing.RETAIL,
        label=label,
        size_us="9.5",
        region="eu",
        condition="deadstock",
    )
    photos = _photos(pair, shots[label], user)
    first = Pair.objects.get(house=house, label="R1")
    for checkpoint in release.checkpoints.exclude(measure=""):
        photo = photos[checkpoint.foot]
        if label == "R1":
            key = checkpoint.key.rsplit("-", 1)[0]
            points = demo.drawn(key, checkpoint.foot, demo.FRAMING.mm_per_px)
            marking = mark_photo(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)
        else:
            drawn = Marking.objects.select_related("photo").get(checkpoint=checkpoint, photo__pair=first)
            alignment = align_photo(reference=drawn.photo, photo=photo)
            marking = carry_marking(drawn=drawn, photo=photo, alignment=alignment)
        measure_photo(marking=marking, by=user)
    for key, value in demo.RETAIL_PAIRS[label][2].items():
        say(checkpoint=release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=user)


def _case(token, release: Release, shots: dict, facts: dict, said: dict, user, key: str) -> None:
    case = start_case(user=user, typed_code=release.style_code, token=token)
    save_intake(case=case, user=user, facts=facts)
    _photos(case.pair, shots, user)
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
