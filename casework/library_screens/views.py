"""The library's pages: parse, one action or query, render."""

from urllib.parse import urlencode
from uuid import uuid4

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from assay.paperwork.accessories import TOKENS
from casework import wording
from casework.access import case_for, key_in, organisation_of
from casework.actions.guide_file import MOST_BYTES, export_guide, import_guide, preview_guide
from casework.actions.keep_library import keep_release
from casework.actions.keep_maker import decide_change, keep_maker
from casework.actions.keep_pair import (
    add_pair,
    add_pair_photo,
    add_proof,
    pair_from_case,
    place_photo,
    retire_pair,
    verify_pair,
)
from casework.actions.start_from_photos import pair_from_photos
from casework.library_screens import queries, uploads
from casework.library_screens.forms import FromPhotosForm, MakerForm, PackingForm, PairForm, ReleaseForm
from casework.photos.forms import PhotoForm
from casework.photos.unpack import take_each
from casework.visibility import hidden_cases
from library.models import Batch, Maker, MakerChange, Release
from library.writers import MAY_CHECK, MAY_MAKER, visible_to
from pairs.models import Pair, Standing


@require_GET
def library(request):
    """Makers and releases, with how much is known of each."""
    return _library(request, FromPhotosForm())


def _library(request, form):
    organisation = organisation_of(request.user)
    page = {
        "organisation": organisation,
        "makers": queries.library(organisation),
        "form": form,
        "token": uuid4(),
        **may(request),
    }
    return render(request, "casework/library/show.html", page, status=422 if form.errors else 200)


FOR_RELEASE = "for_release"
"""Of a maker's address: the style code of the release that waits for it."""


def may(request) -> dict:
    return {"may_maker": request.user.has_perm(MAY_MAKER), "may_check": request.user.has_perm(MAY_CHECK)}


@require_http_methods(["GET", "POST"])
def maker(request, pk=None):
    """A maker's facts, new or changed."""
    organisation, known = organisation_of(request.user), get_object_or_404(Maker, pk=pk) if pk else None
    form = MakerForm(request.POST or None, initial=MakerForm.of(known) if known else {"date_order": "DMY"})
    problem = ""
    if request.method == "POST" and form.is_valid():
        try:
            kept = keep_maker(organisation=organisation, user=request.user, given=form.as_given(), maker=known)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            if isinstance(kept, MakerChange):
                messages.success(request, "Proposed: other shops work with this maker, and one of them must agree.")
                return redirect("library-maker", known.pk)
            messages.success(request, f"Kept: {kept.name}. Its size charts are in the kit.")
            if FOR_RELEASE in request.GET:
                asked = urlencode({"code": request.GET[FOR_RELEASE][:40], "maker": kept.pk})
                return redirect(f"{reverse('library-release-new')}?{asked}")
            return redirect("library")
    page = {"organisation": organisation, "form": form, "maker": known, "problem": problem, **may(request)}
    page["changes"] = queries.proposed(known, organisation) if known else []
    return render(request, "casework/library/maker.html", page, status=422 if problem or form.errors else 200)


@require_POST
def maker_change(request, pk, action):
    """What another shop proposes of a maker, agreed to or not."""
    change, organisation = get_object_or_404(MakerChange, pk=pk), organisation_of(request.user)
    if action not in ("agree", "decline"):
        raise Http404
    try:
        decide_change(change=change, organisation=organisation, user=request.user, agreed=action == "agree")
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    return redirect("library-maker", change.maker_id)


@require_http_methods(["GET", "POST"])
def release_new(request):
    """A new release; of a sibling nearly everything is known. Without any maker that comes first."""
    organisation = organisation_of(request.user)
    like, code = request.GET.get("like", ""), request.GET.get("code", "")[:40]
    if request.method == "GET" and may(request)["may_maker"] and not Maker.objects.exists():
        messages.info(request, "Add its maker first; then the release.")
        return redirect(f"{reverse('library-maker-new')}?{urlencode({FOR_RELEASE: code})}")
    sibling = visible_to(organisation).filter(pk=key_in(like)).select_related("shoe_model").first()
    sibling = sibling or queries.nearest_release(code, organisation)
    start = {"style_code": code, "year": "", "generation": 1, "maker": key_in(request.GET.get("maker", "")) or None}
    if sibling:
        start = ReleaseForm.of(sibling) | {"style_code": start["style_code"], "colourway": "", "barcodes": ""}
    return _release_form(request, organisation, start, None)


@require_http_methods(["GET", "POST"])
def release_facts(request, pk):
    """A release's facts, changed."""
    release = release_of(request, pk)
    return _release_form(request, organisation_of(request.user), ReleaseForm.of(release), release)


def _release_form(request, organisation, start: dict, release):
    form, problem = ReleaseForm(request.POST or None, initial=start), ""
    if request.method == "POST" and form.is_valid():
        try:
            kept = keep_release(organisation=organisation, user=request.user, given=form.as_given(), release=release)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"Kept: {kept}. Now its first verified pair, and its checks.")
            return redirect("library-release", kept.pk)
    page = {"organisation": organisation, "form": form, "problem": problem, "release": release, **may(request)}
    page |= {"models": sorted(set(visible_to(organisation).values_list("shoe_model__name", flat=True)))}
    return render(request, "casework/library/release_facts.html", page, status=422 if problem or form.errors else 200)


def release_of(request, pk) -> Release:
    seen = visible_to(organisation_of(request.user)).select_related("shoe_model__maker", "organisation")
    return get_object_or_404(seen, pk=pk)


@require_http_methods(["GET", "POST"])
def packing(request, pk):
    """What lies in the box of a release."""
    organisation, known, problem = organisation_of(request.user), release_of(request, pk), ""
    form = PackingForm(request.POST if request.method == "POST" else None, known.packing)
    if request.method == "POST":
        try:
            kept = form.as_given(known.packing)
            given = {**ReleaseForm.of(known), "maker": known.shoe_model.maker, "packing": kept}
            given |= {name: getattr(known, name) for name in ("sizes_us", "factory_codes", "barcodes")}
            keep_release(organisation=organisation, user=request.user, given=given, release=known)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"Kept: {len(kept)} things lie in its box.")
            return redirect("library-release", known.pk)
    page = {
        "organisation": organisation,
        "release": known,
        "form": form,
        "problem": problem,
        "tokens": sorted(TOKENS),
        **may(request),
    }
    return render(request, "casework/library/packing.html", page, status=422 if problem else 200)


@require_GET
def release(request, pk):
    """One release: verified pairs, known copies, its guide."""
    organisation = organisation_of(request.user)
    page = queries.release_page(release_of(request, pk), organisation)
    return render(request, "casework/library/release.html", {"organisation": organisation, **page, **may(request)})


@require_http_methods(["GET", "POST"])
def pair_new(request, pk):
    """A pair to be verified, or a known copy."""
    organisation, of_release = organisation_of(request.user), release_of(request, pk)
    copy = request.GET.get("copy") == "yes" or bool(request.POST.get("batch"))
    form, problem = PairForm(request.POST or None), ""
    if request.method == "POST" and form.is_valid():
        batch = form.cleaned_data["batch"]
        try:
            made = add_pair(
                organisation=organisation, user=request.user, release=of_release, given=form.as_given(), batch=batch
            )
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            return redirect("library-pair", made.pk)
    batches = Batch.objects.filter(release__in=of_release.siblings).order_by("name")
    page = {
        "organisation": organisation,
        "release": of_release,
        "form": form,
        "problem": problem,
        "copy": copy,
        "batches": batches,
    }
    return render(
        request, "casework/library/pair_new.html", page | may(request), status=422 if problem or form.errors else 200
    )


@require_POST
def pair_from_drop(request):
    """A pair to be verified, from photographs alone: the release is read off them."""
    form = FromPhotosForm(request.POST)
    if form.is_valid():
        try:
            made = pair_from_photos(organisation=organisation_of(request.user), user=request.user, **form.cleaned_data)
        except AssayError as error:
            form.add_error(None, wording.of_error(error))
        else:
            return redirect("library-pair", made.pk)
    return _library(request, form)


def _pair(request, pk) -> Pair:
    known = Pair.objects.select_related("release__shoe_model__maker", "organisation", "batch")
    return get_object_or_404(
        known.exclude(standing=Standing.SUSPECT), pk=pk, organisation=organisation_of(request.user)
    )


@require_GET
def pair(request, pk):
    """One pair of the library."""
    return _pair_page(request, _pair(request, pk))


def _pair_page(request, known: Pair, problem: str = ""):
    page = {"organisation": known.organisation, **queries.pair_page(known), "problem": problem, **may(request)}
    return render(request, "casework/library/pair.html", page, status=422 if problem else 200)


@require_GET
def proof(request, pk):
    """The photograph of how it was verified."""
    known = _pair(request, pk)
    if not known.proof:
        raise Http404
    return FileResponse(known.proof.open("rb"), content_type="image/jpeg")


@require_GET
def pair_tray(request, pk):
    """Its photographs alone, asked for while they are read."""
    known = _pair(request, pk)
    return _tray(request, known)


def _tray(request, pair: Pair):
    return render(request, "casework/library/_tray.html", {"pair": pair, "tray": queries.tray(pair), **may(request)})


@require_POST
def pair_photos(request, pk):
    """Files dropped or chosen; a script that sends them one by one asks for JSON."""
    known, form, problems = _pair(request, pk), PhotoForm(request.POST), []
    uploads = request.FILES.getlist("files")
    if not uploads:
        problems.append(wording.sentence("no_file"))
    scale = form.cleaned_data.get("mm_per_px") if form.is_valid() else None
    problems += [error for errors in form.errors.values() for error in errors]
    if not problems:
        given = {"pair": known, "user": request.user, "mm_per_px": scale}
        problems = take_each(uploads, lambda upload: add_pair_photo(**given, upload=upload))
    if "application/json" in request.headers.get("Accept", ""):
        return JsonResponse({"problems": problems}, status=422 if problems else 200)
    for problem in problems:
        messages.error(request, problem)
    return redirect("library-pair", known.pk)


@require_POST
def pair_work(request, pk, action):
    """Sort a photograph, add a receipt, verify, retire."""
    known = _pair(request, pk)
    try:
        if action == "place":
            photo = get_object_or_404(known.photos, pk=key_in(request.POST.get("photo", "")))
            view, _, foot = request.POST.get("place", "").partition(" ")
            place_photo(photo=photo, user=request.user, view=view, foot=foot)
            return _tray(request, known) if request.htmx else redirect("library-pair", known.pk)
        if action == "verify":
            done = verify_pair(pair=known, user=request.user)
            counts = done.standing == Standing.RETAIL
            said = "It counts from now on." if counts else "A second person must say so as well."
            messages.success(request, f"{done.label}: {said}")
            return redirect("library-pair", known.pk)
        if action == "proof":
            if "file" not in request.FILES:
                raise AssayError("no_file")
            add_proof(pair=known, user=request.user, upload=request.FILES["file"])
            messages.success(request, "Kept with the pair.")
            return redirect("library-pair", known.pk)
        if action == "retire":
            retire_pair(pair=known, user=request.user, why=request.POST.get("why", ""))
            messages.success(request, f"{known.label} is no longer compared with.")
            return redirect("library-release", known.release_id)
    except AssayError as error:
        return _pair_page(request, known, wording.of_error(error))
    return redirect("library-pair", known.pk)


@require_GET
def guide_file(request, pk):
    """A release's guide as one file."""
    known = release_of(request, pk)
    response = HttpResponse(
        export_guide(release=known, organisation=organisation_of(request.user)), content_type="application/zip"
    )
    response["Content-Disposition"] = f'attachment; filename="guide-{slugify(known.style_code)}.zip"'
    return response


@require_http_methods(["GET", "POST"])
def take_in(request):
    """A guide file: looked at first, then taken in."""
    organisation, problem, found = organisation_of(request.user), "", None
    kept = request.POST.get("kept", "")
    if request.method == "POST":
        try:
            if kept:
                release = import_guide(
                    organisation=organisation, user=request.user, data=uploads.taken(organisation, kept),
                    overwrite=set(request.POST.getlist("overwrite")),
                )  # fmt: skip
                messages.success(request, f"Taken in: {release}. Its pairs wait for your word that they are retail.")
                return redirect("library-release", release.pk)
            upload = request.FILES.get("file")
            if upload is None:
                raise AssayError("no_file")
            if upload.size > MOST_BYTES:
                raise AssayError("bad_guide_file", what="it is larger than any guide")
            data = upload.read()
            found = preview_guide(organisation=organisation, user=request.user, data=data)
            kept = uploads.keep(organisation, data)
        except AssayError as error:
            problem = wording.of_error(error)
    page = {"organisation": organisation, "found": found, "kept": kept, "problem": problem, **may(request)}
    return render(request, "casework/library/take_in.html", page, status=422 if problem else 200)


@require_GET
def batch(request, pk):
    """What tells one batch, and what it gets right."""
    organisation = organisation_of(request.user)
    seen = Batch.objects.filter(release__in=visible_to(organisation)).select_related("release__shoe_model__maker")
    known = get_object_or_404(seen, pk=pk)
    page = queries.batch_page(known, organisation, hidden_cases(request.user, organisation))
    return render(request, "casework/library/batch.html", {"organisation": organisation, **page})


@require_POST
def take_over(request, number):
    """A closed case's pair joins the library."""
    case = case_for(request.user, number)
    try:
        taken = pair_from_case(case=case, user=request.user, batch=request.POST.get("batch", ""))
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        return redirect("verdict", number=number)
    messages.success(request, f"{taken.label} is in the library now.")
    return redirect("library-pair", taken.pk)
