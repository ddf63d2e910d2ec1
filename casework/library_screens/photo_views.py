"""One photograph of a library pair: parse, one action or query, render."""

from django.http import Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import organisation_of
from casework.actions import work_retail_photo as work_photo
from casework.library_screens.queries import retail_photo
from casework.library_screens.views import may
from casework.photos.forms import LampForm, LengthsForm, PointsForm
from pairs.models import Pair, Photo, Standing


@require_GET
def show(request, pk, photo):
    """The photograph, large, and what may be put right about it."""
    return _page(request, _photo(request, pk, photo))


def _photo(request, pk, photo) -> Photo:
    seen = Photo.objects.select_related("pair__release__shoe_model__maker", "pair__organisation")
    pairs = Pair.objects.filter(organisation=organisation_of(request.user)).exclude(standing=Standing.SUSPECT)
    return get_object_or_404(seen.filter(pair__in=pairs), pair=pk, pk=photo)


def _page(request, photo: Photo, problem: str = ""):
    allowed = may(request)
    locked = not allowed["may_check"] or photo.pair.standing == Standing.RETIRED
    page = {**retail_photo(photo, request.GET.get("check", "")), **allowed, "locked": locked, "problem": problem}
    page["lengths"] = request.POST.get("lengths", "") if problem else ""
    return render(request, "casework/library/photo.html", page, status=422 if problem else 200)


@require_POST
def work(request, pk, photo, action):
    """Put one thing right."""
    if action not in ACTIONS:
        raise Http404
    known = _photo(request, pk, photo)
    try:
        ACTIONS[action](known, request)
    except AssayError as error:
        known.refresh_from_db()
        return _page(request, known, wording.of_error(error))
    return redirect("library-photo", pk=pk, photo=photo)


def _valid(form, reason: str):
    """A form's cleaned data. Raises AssayError with the reason."""
    if not form.is_valid():
        raise AssayError(reason)
    return form.cleaned_data


def _sort(photo, request):
    view, _, foot = request.POST.get("place", "").partition(" ")
    work_photo.sort_retail_photo(photo=photo, user=request.user, view=view, foot=foot)


def _aside(photo, request):
    aside = request.POST.get("aside") != "no"
    work_photo.set_retail_photo_aside(photo=photo, user=request.user, aside=aside)


def _scale(photo, request):
    lengths = _valid(LengthsForm(request.POST), "bad_lengths")["lengths"]
    points = _valid(PointsForm(request.POST), "bad_points")["points"]
    work_photo.scale_retail_photo(photo=photo, user=request.user, points=points, lengths_mm=lengths)


def _id1(photo, request):
    work_photo.scale_retail_photo_by_id1(photo=photo, user=request.user)


def _height(photo, request):
    lengths = _valid(LengthsForm(request.POST), "bad_height")["lengths"]
    if len(lengths) not in (1, 2):
        raise AssayError("bad_height")
    above, unknown = [*lengths, 1.0][:2]
    work_photo.set_retail_photo_height(photo=photo, user=request.user, above_mm=above, unknown_mm=unknown)


def _neutral(photo, request):
    given = _valid(PointsForm(request.POST), "bad_points")
    work_photo.set_retail_photo_neutral(photo=photo, user=request.user, points=given["points"], tile=given["tile"])


def _lamp(photo, request):
    given = _valid(LampForm(request.POST), "not_a_lamp")
    work_photo.set_retail_photo_lamp(photo=photo, user=request.user, lamp=given["lamp"], away_mm=given["away_mm"])


def _prefer(photo, request):
    work_photo.prefer_retail_photo(photo=photo, user=request.user)


def _check(photo, request):
    return get_object_or_404(photo.pair.release.checkpoints, key=request.POST.get("check", ""))


def _confirm(photo, request):
    work_photo.confirm_retail_count(photo=photo, checkpoint=_check(photo, request), user=request.user)


def _correct(photo, request):
    value = request.POST.get("value", "").strip()
    work_photo.correct_retail_count(photo=photo, checkpoint=_check(photo, request), user=request.user, value=value)


ACTIONS = {"sort": _sort, "aside": _aside, "scale": _scale, "id1": _id1, "height": _height, "neutral": _neutral}
ACTIONS |= {"lamp": _lamp, "prefer": _prefer, "confirm-count": _confirm, "correct-count": _correct}
