"""Models and releases: added and changed by those who may."""

from collections.abc import Mapping

from django.core.exceptions import ValidationError
from django.db import transaction

from assay.errors import AssayError
from assay.paperwork.style_code import normalise
from casework.grading import regrade
from casework.ledger import note_of_organisation
from casework.models import Case
from library.models import Release, ShoeModel
from library.writers import MAY_MAKER, must, must_write
from pairs.models import Organisation


@transaction.atomic
def keep_release(*, organisation: Organisation, user, given: Mapping, release: Release | None = None) -> Release:
    """A new release, or a known one's facts; its model is made where nobody named it before.

    ``given``: the fields of ``Release`` but for the model, ``maker`` and ``model`` (a name). Open cases are graded
    anew. Raises AssayError ``not_allowed``, ``code_taken``, ``release_exists``, ``bad_packing``, or what the maker's
    pattern says of the code.
    """
    must(user, MAY_MAKER)
    if release:
        must_write(user, release, MAY_MAKER)
    given = dict(given)
    maker, name = given.pop("maker"), given.pop("model").strip()
    given["style_code"] = normalise(given["style_code"], maker.style_code_mask)
    others = Release.objects.exclude(pk=release and release.pk)
    if taken := others.filter(style_code=given["style_code"]).select_related("shoe_model__maker").first():
        raise AssayError("code_taken", code=given["style_code"], name=str(taken))
    model = ShoeModel.objects.filter(maker=maker, name__iexact=name).first()
    model = model or ShoeModel.objects.create(maker=maker, name=name)
    if others.filter(shoe_model=model, colourway__iexact=given["colourway"], year=given["year"]).exists():
        raise AssayError("release_exists", name=f"{model}, {given['colourway']}, {given['year']}")
    action = "release_changed" if release else "release_added"
    release = release or Release(organisation=organisation)
    release.shoe_model = model
    for field, value in given.items():
        setattr(release, field, value)
    try:
        release.clean()
    except ValidationError as error:
        raise AssayError("bad_packing", what=" ".join(error.messages)) from error
    release.save()
    for case in Case.objects.filter(organisation=organisation, pair__release=release, signed_at=None):
        regrade(case)
    note_of_organisation(organisation, user, action, code=release.style_code)
    return release
