"""A small shop to test in: one release, three checkpoints that need no photograph, three retail pairs."""

import io
from types import SimpleNamespace
from uuid import uuid4

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Permission
from PIL import Image

from casework.actions.start_case import start_case
from casework.models import OrganisationPolicy
from library.models import Checkpoint, Maker, Release, ShoeModel
from pairs.actions.receive_photo import receive_photo
from pairs.actions.take_reading import SAID, say
from pairs.models import Organisation, Pair, Photo, Standing

CHECKPOINTS = [
    {
        "key": "style-code",
        "name": "Style code",
        "kind": "paper",
        "paper": "code_on_tag",
        "group": "codes",
        "decisive": True,
        "mandatory": True,
        "of_shoe": False,
    },
    {
        "key": "smell",
        "name": "Smell",
        "kind": "answer",
        "group": "smell",
        "applies_when": [
            {"fact": "condition", "is": ["deadstock", "tried_on"]},
            {"fact": "in_hand", "is": [True]},
        ],
        "answers": [["faint", "Faint"], ["solvent", "Solvent"]],
        "prior": {"pairs": 2, "rare": {"solvent": 0.005}},
    },
    {
        "key": "touch",
        "name": "Touch",
        "kind": "answer",
        "group": "leather",
        "applies_when": [{"fact": "in_hand", "is": [True]}],
        "answers": [["fine", "Fine"], ["flat", "Flat"]],
        "prior": {"pairs": 2, "rare": {"flat": 0.005}},
    },
    {
        "key": "bar",
        "name": "Bar",
        "kind": "count",
        "group": "bar",
        "measure": "seam",
        "view": "side_out",
        "foot": "left",
        "prior": {"pairs": 2, "off_by_one": 0.004},
    },
]


def person(name: str, *organisations: Organisation):
    user = get_user_model().objects.create_user(name, password="a-long-password")
    for organisation in organisations:
        organisation.members.add(user)
    return user


def small_organisation() -> SimpleNamespace:
    organisation = Organisation.objects.create(name="Quay Counter")
    mara, jory = person("mara", organisation), person("jory", organisation)
    stranger = person("stranger", Organisation.objects.create(name="Elsewhere"))
    mara.user_permissions.add(Permission.objects.get(codename="add_organisationpolicy"))
    for own in Organisation.objects.all():
        OrganisationPolicy.objects.create(organisation=own, number=1, made_by=mara)
    maker = Maker.objects.create(name="Veltrane", style_code_mask="AA-99999-A")
    model = ShoeModel.objects.create(maker=maker, name="Quayside Low")
    release = Release.objects.create(
        shoe_model=model, colourway="Brackish", style_code="VQ-44127-B", year=2024, sizes_us=["8", "8.5", "9"]
    )
    for position, checkpoint in enumerate(CHECKPOINTS):
        Checkpoint.objects.create(release=release, position=position, section="All", instruction="Look.", **checkpoint)
    for label in ("R1", "R2", "R3"):
        pair = Pair.objects.create(organisation=organisation, release=release, standing=Standing.RETAIL, label=label)
        for key, value in (("smell", "faint"), ("touch", "fine"), ("bar", 13)):
            say(checkpoint=release.checkpoints.get(key=key), pair=pair, value=value, method=SAID, by=mara)
    return SimpleNamespace(organisation=organisation, mara=mara, jory=jory, stranger=stranger, release=release)


def small_case(scene: SimpleNamespace):
    return start_case(user=scene.mara, typed_code="vq44127b", token=uuid4())


def grey_photo(case, state: str = Photo.State.READ, tone: int = 90, **where) -> Photo:
    """A photograph that shows nothing, of a state that no run has brought about."""
    target = io.BytesIO()
    Image.new("RGB", (800, 600), (tone, tone, tone)).save(target, "JPEG")
    photo = receive_photo(pair=case.pair, data=target.getvalue(), by=case.opened_by, **where)
    Photo.objects.filter(pk=photo.pk).update(state=state)
    photo.refresh_from_db()
    return photo


def checkpoint(case, key: str) -> Checkpoint:
    return case.pair.release.checkpoints.get(key=key)


def finding(case, key: str):
    return case.findings.get(checkpoint__key=key)
