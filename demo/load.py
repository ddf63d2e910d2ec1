"""Put the scenario into the database, through the same actions that people's clicks run."""

import json
from collections.abc import Callable
from pathlib import Path
from uuid import NAMESPACE_URL, UUID, uuid5

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Permission
from django.db import transaction

from casework.actions import work_photo, work_retail_photo
from casework.actions.analyse_case import analyse_case, needs_of
from casework.actions.analyse_pair import analyse_pair, models_of
from casework.actions.issue_certificate import issue_certificate
from casework.actions.know_copy import know_copy
from casework.actions.save_intake import save_intake
from casework.actions.sign_opinion import sign_opinion
from casework.actions.start_case import start_case
from casework.actions.work_checkpoint import answer, confirm
from casework.actions.work_checkpoint import inscribe as inscribe_case
from casework.grading import regrade
from casework.models import Case, OrganisationPolicy
from demo import close_ups, insides
from demo import scenario as demo
from demo.shots import JOBS, Job, path_of, take_all
from demo.year import load_year
from library.models import Batch, Checkpoint, Maker, Release, ShoeModel, SizeChart, View
from library.photo_kinds import keys_where
from pairs.actions.mark_photo import mark_photo
from pairs.actions.receive_photo import receive_photo
from pairs.actions.take_paper import inscribe
from pairs.actions.take_reading import SAID, say
from pairs.instruments import THINGS
from pairs.models import Marking, Organisation, Pair, Photo, Standing
from pairs.pipeline import read_photo
from pairs.queries import photos_in_use

MARA_MAY = ("change_maker", "add_checkpoint", "add_organisationpolicy")
TILED = (*close_ups.TAKES, *insides.TAKES)
"""Views with a grey tile in the corner."""


LAMP = {"lamp": insides.LAMP, "away_mm": insides.LAMP_MM}


def load(shots_dir: Path, tell: Callable[[str], None]) -> None:
    """Load what is not there yet, all of it. ``shots_dir``: where the simulated photographs are kept."""
    take_all(shots_dir, tell, [(key, job) for key, jobs in JOBS.items() for job in jobs])
    users = load_people_and_library()
    organisation, mara = Organisation.objects.get(name=demo.ORGANISATION), users["mara"]
    court = Release.objects.get(style_code=demo.COURT)
    for said in demo.RETAIL:
        tell(f"measuring retail pair {said['label']}")
        _retail_pair(organisation, said, shots_dir, mara)
    # Copies first: a case is signed by what it weighs against them.
    for said in demo.COPIES:
        tell(f"measuring copy {said['label']}")
        _known_copy(organisation, court, said, shots_dir, mara)
    for said in demo.CASES:
        _opened(said, court, _checker(said, users))
    _lay_things_out(organisation)
    for said in demo.CASES:
        tell(f"measuring the {said['key']} pair")
        _case(court, said, shots_dir, _checker(said, users))
    load_year(organisation, court, list(users.values()), organisation.pairs.get(label=demo.first_pair_of(demo.COURT)))


def _all_read(pair: Pair, jobs: list[Job]) -> bool:
    read = pair.photos.filter(state=Photo.State.READ).values_list("view", "foot")
    return {(job.view, job.foot) for job in jobs} <= set(read)


def load_people_and_library() -> dict:
    """Who works there and what is known, without a single photograph; users by name."""
    users = _people()
    with transaction.atomic():
        _library()
    return users


def _lay_things_out(organisation: Organisation) -> None:
    """What the simulated caliper and tag reader will find: with the demo's cases, and with the next one opened."""
    labels = {said["key"]: Case.objects.get(token=_token(said["key"])).pair.label for said in demo.CASES}
    labels["spare"] = f"S{organisation.cases.latest('number').number + 1:04d}"
    things = {label: demo.ON_THE_TABLE[key] for key, label in labels.items() if key in demo.ON_THE_TABLE}
    kept = Path(settings.DATA_DIR) / THINGS
    known = json.loads(kept.read_text()) if kept.exists() else {}
    kept.write_text(json.dumps(known | things))


def _people() -> dict:
    users = {}
    organisation, _ = Organisation.objects.get_or_create(name=demo.ORGANISATION)
    for name, first in demo.CHECKERS.items():
        user, new = get_user_model().objects.get_or_create(username=name, defaults={"first_name": first})
        if new:
            user.set_password(demo.PASSWORD)
            user.save()
        organisation.members.add(user)
        users[name] = user
    # Mara owns the shop and writes the guides: she may change what is known of a maker, and how the shop decides.
    users["mara"].user_permissions.add(*Permission.objects.filter(codename__in=MARA_MAY))
    OrganisationPolicy.objects.get_or_create(
        organisation=organisation, number=1, defaults={"made_by": users["mara"], **demo.POLICY}
    )
    return users


def _library() -> None:
    for given in demo.LIBRARY["views"]:
        View.objects.get_or_create(key=given["key"], defaults=given)
    for given in demo.LIBRARY["makers"]:
        own = {name: value for name, value in given.items() if name not in ("name", "charts")}
        maker, _ = Maker.objects.get_or_create(name=given["name"], defaults=own)
        for chart in given["charts"]:
            csv = "".join(f"{line}\n" for line in chart["csv"])
            SizeChart.objects.get_or_create(maker=maker, group=chart["group"], defaults={"csv": csv})
    organisation = Organisation.objects.get(name=demo.ORGANISATION)
    for given in demo.LIBRARY["releases"]:
        maker = Maker.objects.get(name=given["maker"])
        shoe_model, _ = ShoeModel.objects.get_or_create(maker=maker, name=given["model"])
        own = {name: value for name, value in given.items() if name not in ("maker", "model", "style_code")}
        own |= {"shoe_model": shoe_model, "organisation": organisation}
        release, new = Release.objects.get_or_create(style_code=given["style_code"], defaults=own)
        if new:
            _guide(release)
    court = Release.objects.get(style_code=demo.COURT)
    for name, habits in demo.LIBRARY["batches"].items():
        Batch.objects.get_or_create(release=court, name=name, defaults={"habits": habits})


def _guide(release: Release) -> None:
    made: dict[str, Checkpoint] = {}
    for given in demo.GUIDES.get(release.style_code, ()):
        feet = {foot: made.get(given.get(foot)) for foot in ("left", "right")}
        fields = {name: value for name, value in given.items() if name != "marks"} | feet
        checkpoint = made[given["key"]] = Checkpoint(release=release, **fields)
        checkpoint.clean()
        checkpoint.save()


def _photos(pair: Pair, key: str, shots_dir: Path, user) -> list[Photo]:
    """The pair's photographs, taken in as a person would who says what each shows; those that are there stay."""
    there = {(photo.view, photo.foot): photo for photo in pair.photos.all()}
    photos = []
    for job in JOBS.get(key, []):
        place, path = {"view": job.view, "foot": job.foot}, path_of(shots_dir, key, job)
        photo = there.get((job.view, job.foot))
        if photo is None:
            stand = None if job.scene and job.scene.cards else job.camera.mm_per_px
            given = {"data": path.read_bytes(), "by": user, "name": path.name, "mm_per_px": stand}
            photo = receive_photo(pair=pair, **given, **place)
        photos.append(photo)
    return photos


def _retail_pair(organisation: Organisation, told: dict, shots_dir: Path, user) -> None:
    """A verified pair with all its photographs."""
    given = {"size_us": "9.5", "region": told["region"], "condition": "deadstock", "standing": Standing.RETAIL}
    given["release"] = Release.objects.get(style_code=told["release"])
    pair, _ = Pair.objects.get_or_create(organisation=organisation, label=told["label"], defaults=given)
    _known_pair(pair, shots_dir, user)
    _say_of(pair, told["said"], user)
    if "box" in told and not pair.inscriptions.exists():
        inscribe(pair=pair, places={"box.outer": told["box"]}, by=user)


def _known_copy(organisation: Organisation, release: Release, told: dict, shots_dir: Path, user) -> None:
    """A copy of a known batch: the checks carried over from the first retail pair, measured, laid on retail's."""
    given = {"size_us": "9.5", "condition": "deadstock", "release": release, "standing": Standing.COPY}
    given["batch"] = release.batches.get(name=told["batch"])
    pair, _ = Pair.objects.get_or_create(organisation=organisation, label=told["label"], defaults=given)
    _known_pair(pair, shots_dir, user)
    _say_of(pair, told["said"], user)
    know_copy(pair=pair)


def _known_pair(pair: Pair, shots_dir: Path, user) -> None:
    """Its photographs read, checks drawn or carried over, measured; what was done before is left."""
    first = Pair.objects.get(organisation=pair.organisation, label=demo.first_pair_of(pair.release.style_code))
    known, needs = models_of(pair), needs_of(pair.release.checkpoints.exclude(measure=""))
    for photo in _photos(pair, pair.label, shots_dir, user):
        if photo.state == Photo.State.READ:
            continue
        read_photo(photo=photo, references=known, needs=needs)
        if photo.view in keys_where(ultraviolet=True):
            work_retail_photo.set_retail_photo_lamp(photo=photo, user=user, **LAMP)
        if photo.view in TILED and pair.standing == Standing.RETAIL:
            work_retail_photo.set_retail_photo_neutral(photo=photo, user=user, points=[_tile(photo, pair.label)])
    if pair == first:
        _draw(pair)
    analyse_pair(pair=pair, user=user)


def _draw(pair: Pair) -> None:
    """Where a guide writer drew each check on the first pair."""
    photos = photos_in_use(pair)
    for checkpoint in pair.release.checkpoints.exclude(view=""):
        photo = photos.get((checkpoint.view, checkpoint.foot))
        if photo and not photo.markings.filter(checkpoint=checkpoint).exists():
            points = demo.drawn(checkpoint.key)
            mark_photo(checkpoint=checkpoint, photo=photo, points=points, origin=Marking.Origin.DRAWN)


def _say_of(pair: Pair, said: dict, user) -> None:
    known = set(pair.readings.filter(method=SAID).values_list("checkpoint__key", flat=True))
    for key, value in said.items():
        if key not in known:
            say(checkpoint=pair.release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=user)


def _tile(photo: Photo, key: str) -> tuple[float, float]:
    """Where a person clicks on the grey tile to take it for neutral."""
    return close_ups.neutral_px(key, photo.view)


def _token(key: str) -> UUID:
    return uuid5(NAMESPACE_URL, f"demo/{key}")


def _checker(told: dict, users: dict):
    """Who works on the case."""
    return users[told.get("checker", "mara")]


def _opened(told: dict, release: Release, user) -> Case:
    """The case, opened once, with its facts."""
    there = Case.objects.filter(token=_token(told["key"])).first()
    if there is None:
        there = start_case(user=user, typed_code=release.style_code, token=_token(told["key"]))
        save_intake(case=there, user=user, facts=told["facts"])
    return there


def _case_photos(case: Case, key: str, shots_dir: Path, user) -> None:
    known, needs = photos_in_use(case.reference), needs_of(case.pair.release.checkpoints.exclude(measure=""))
    for photo in _photos(case.pair, key, shots_dir, user):
        if photo.state == Photo.State.READ or photo.view not in (*TILED, *keys_where(ultraviolet=True)):
            continue
        # Before anything is measured, so that nothing is measured twice.
        read_photo(photo=photo, references=known, needs=needs)
        if photo.view in TILED:
            work_photo.set_photo_neutral(case=case, photo=photo, user=user, points=[_tile(photo, key)])
        else:
            work_photo.set_photo_lamp(case=case, photo=photo, user=user, **LAMP)
    analyse_case(case=case, user=user)


def _case(release: Release, told: dict, shots_dir: Path, user) -> None:
    """All of a case that is still open: photographs, answers, what stands in print; signed where the scenario says."""
    key, said, signed = told["key"], told["said"], told.get("signed")
    case = _opened(told, release, user)
    known = set(case.pair.readings.values_list("checkpoint__key", flat=True))
    done = _all_read(case.pair, JOBS.get(key, [])) and known.issuperset(said) and not signed
    if case.signed_at or case.discarded_at or done:
        return
    _case_photos(case, key, shots_dir, user)
    for name, value in said.items():
        if name not in known:
            answer(case=case, checkpoint=release.checkpoints.get(key=name), user=user, choice=value)
    written = set(case.pair.inscriptions.exclude(source="scanned").values_list("place", flat=True))
    places = {place: text if isinstance(text, str) else json.dumps(text) for place, text in told["read"].items()}
    if missing := {place: text for place, text in places.items() if place not in written}:
        inscribe_case(case=case, user=user, places=missing)
    regrade(case)
    if signed:
        for finding in case.findings.filter(grade="departs").select_related("checkpoint"):
            confirm(case=case, checkpoint=finding.checkpoint, user=user)
        sign_opinion(case=case, user=user, **signed, after=None)
        if told.get("certificate"):
            issue_certificate(case=case, user=user)
