"""Photographs of a case and the phone's page: parse, one action or query, render."""

from datetime import timedelta

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import RequestDataTooBig
from django.core.files.base import ContentFile
from django.http import FileResponse, Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError, CannotOpen
from casework import wording
from casework.access import case_for, open_case_for, organisation_of
from casework.actions import work_photo
from casework.actions.add_case_photo import add_case_photo
from casework.actions.open_link import count_file, link_behind, open_client_link, open_link
from casework.actions.start_from_photos import take_dropped
from casework.models import Note, Sighting
from casework.photos import queries as photo_queries
from casework.photos.forms import LampForm, LengthsForm, PhotoForm, PointsForm
from casework.photos.guessing import is_guessing, wrong_secret
from casework.photos.parts import Part
from casework.photos.phone_link import is_loopback, qr_code
from casework.photos.unpack import take_each


@require_POST
def photos(request, number):
    """Files dropped or chosen. A script that sends them one by one asks for JSON and shows what it says."""
    case = open_case_for(request.user, number)
    form = PhotoForm(request.POST)
    problems = _problems_of(form) or _take_in_all(request, case, user=request.user, **form.cleaned_data)
    if "application/json" in request.headers.get("Accept", ""):
        return JsonResponse({"problems": problems}, status=422 if problems else 200)
    for problem in problems:
        messages.error(request, problem)
    return redirect("intake", number=number)


def _problems_of(form) -> list[str]:
    return [error for errors in form.errors.values() for error in errors]


def _take_in_all(request, case, **where) -> list[str]:
    return _each(request, lambda upload: add_case_photo(case=case, upload=upload, **where))


def _each(request, take_in) -> list[str]:
    uploads = request.FILES.getlist("files")
    return take_each(uploads, take_in) if uploads else [wording.sentence("no_file")]


@require_GET
def tray(request, number):
    return _tray(request, case_for(request.user, number))


def _tray(request, case):
    """The tray; once nothing in it is being read any more, the rest of the page is told."""
    page = photo_queries.tray(case)
    response = render(request, "casework/photo/_tray.html", page)
    if not page["reading"] and not case.to_analyse:
        response["HX-Trigger"] = "photos-read"
    return response


def _photo_of(case, pk):
    return get_object_or_404(case.pair.photos.select_related("pair__organisation"), pk=pk)


@require_GET
def photo_show(request, number, pk):
    case = case_for(request.user, number)
    return _photo_page(request, case, _photo_of(case, pk))


def _photo_page(request, case, photo, problem="", lengths=""):
    page = {**photo_queries.photo_page(case, photo), "problem": problem, "lengths": lengths}
    return render(request, "casework/photo/show.html", page, status=422 if problem else 200)


def _sort(case, photo, request):
    view, _, foot = request.POST.get("place", "").partition(" ")
    work_photo.sort_photo(case=case, photo=photo, user=request.user, view=view, foot=foot)


def _aside(case, photo, request):
    work_photo.set_photo_aside(case=case, photo=photo, user=request.user, aside=request.POST.get("aside") != "no")


def _scale(case, photo, request):
    lengths, points = LengthsForm(request.POST), PointsForm(request.POST)
    if not lengths.is_valid():
        raise AssayError("bad_lengths")
    if not points.is_valid():
        raise AssayError("bad_points")
    given = {"points": points.cleaned_data["points"], "lengths_mm": lengths.cleaned_data["lengths"]}
    work_photo.scale_photo(case=case, photo=photo, user=request.user, **given)


def _id1(case, photo, request):
    work_photo.scale_photo_by_id1(case=case, photo=photo, user=request.user)


def _height(case, photo, request):
    lengths = LengthsForm(request.POST)
    if not lengths.is_valid() or len(lengths.cleaned_data["lengths"]) not in (1, 2):
        raise AssayError("bad_height")
    above, unknown = [*lengths.cleaned_data["lengths"], 1.0][:2]
    work_photo.set_photo_height(case=case, photo=photo, user=request.user, above_mm=above, unknown_mm=unknown)


def _neutral(case, photo, request):
    form = PointsForm(request.POST)
    if not form.is_valid():
        raise AssayError("bad_points")
    given = form.cleaned_data
    work_photo.set_photo_neutral(case=case, photo=photo, user=request.user, points=given["points"], tile=given["tile"])


def _lamp(case, photo, request):
    form = LampForm(request.POST)
    if not form.is_valid():
        raise AssayError("not_a_lamp")
    given = form.cleaned_data
    work_photo.set_photo_lamp(case=case, photo=photo, user=request.user, lamp=given["lamp"], away_mm=given["away_mm"])


def _prefer(case, photo, request):
    work_photo.prefer_photo(case=case, photo=photo, user=request.user)


PHOTO_ACTIONS = {"sort": _sort, "aside": _aside, "scale": _scale, "id1": _id1, "height": _height}
PHOTO_ACTIONS |= {"neutral": _neutral, "prefer": _prefer, "lamp": _lamp}


@require_POST
def photo_work(request, number, pk, action):
    if action not in PHOTO_ACTIONS:
        raise Http404
    case = open_case_for(request.user, number)
    photo = _photo_of(case, pk)
    try:
        PHOTO_ACTIONS[action](case, photo, request)
    except AssayError as error:
        photo.refresh_from_db()
        return _photo_page(request, case, photo, wording.of_error(error), request.POST.get("lengths", ""))
    if request.htmx:
        return _tray(request, case)
    return redirect("photo-show", number=number, pk=pk)


@require_POST
def link(request, number):
    """A way in for a phone beside the pair, or for the client who has it."""
    case = open_case_for(request.user, number)
    if request.POST.get("for") != "client":
        return _link_page(request, open_link(case=case, user=request.user), case=case)
    wanted, lasts = photo_queries.asked_of_client(case), timedelta(days=case.organisation.link_days)
    secret = open_link(case=case, user=request.user, lasts=lasts, wanted=wanted)
    names = [photo_queries.place_name(one["view"], one["foot"]) for one in wanted]
    return _link_page(request, secret, case=case, client=True, until=timezone.localdate() + lasts, wanted=names)


@require_POST
def client_link(request):
    """A link for a client whose photographs begin a case."""
    organisation = organisation_of(request.user)
    names = [one["name"] for one in photo_queries.wanted_first()]
    until = timezone.localdate() + timedelta(days=organisation.link_days)
    secret = open_client_link(organisation=organisation, user=request.user)
    return _link_page(request, secret, client=True, until=until, wanted=names)


def _link_page(request, secret: str, **page):
    address = request.build_absolute_uri(reverse("phone", args=[secret]))
    page |= {"address": address, "qr": qr_code(address), "alone": is_loopback(request.get_host())}
    return render(request, "casework/photo/_link.html", page)


# The secret in the address is all there is to forge; checking a token would read a stranger's files first.
@csrf_exempt
@login_not_required
@require_http_methods(["GET", "POST"])
def phone(request, secret):
    """The phone's own page: what is wanted, and a button. It shows nothing else of the case."""
    behind = _link_of(request, secret)
    if behind is None:
        return render(request, "casework/photo/phone_over.html", status=429 if is_guessing(request) else 410)
    problems = []
    if request.method == "POST":
        problems = _each(request, lambda upload: _by_link(behind, upload))
    sent = request.method == "POST"
    page = {"link": behind, "secret": secret, "problems": problems, "sent": sent}
    page["wanted"] = photo_queries.wanted(behind.case, behind) if behind.case else photo_queries.wanted_first()
    return render(request, "casework/photo/phone.html", page, status=422 if problems else 200)


@csrf_exempt
@login_not_required
@require_http_methods(["GET", "POST"])
def phone_part(request, secret, token):
    """A file that a phone sends in pieces: how much of it is there, or one piece more; whole, it is taken in."""
    behind = _link_of(request, secret)
    if behind is None:
        return JsonResponse({"problems": [wording.sentence("link_over")]}, status=429 if is_guessing(request) else 410)
    part = Part(behind.pk, token)
    if request.method == "GET":
        return JsonResponse({"have": part.have})
    try:
        at, whole = (int(request.GET[name]) for name in ("at", "whole"))
        have = part.add(request.body, at=at, whole=whole)
    except AssayError as error:
        return JsonResponse({"problems": [wording.of_error(error)]}, status=422)
    except (KeyError, ValueError, RequestDataTooBig):
        return JsonResponse({"problems": [wording.sentence("piece_too_large")]}, status=422)
    data = part.take() if have == whole else None
    if data is None:
        return JsonResponse({"have": have})
    return JsonResponse({"done": True, "problems": _take_in_part(behind, data, request.GET.get("name", ""))})


def _link_of(request, secret):
    """The link behind a secret; None where there is none, or whoever asks has tried many. Nothing of the request's body
    is read for it."""
    if is_guessing(request):
        return None
    behind = link_behind(secret)
    if behind is None:
        wrong_secret(request)
    return behind


def _take_in_part(behind, data: bytes, name: str) -> list[str]:
    def take_in(upload):
        try:
            _by_link(behind, upload)
        except CannotOpen as error:
            # Sent again because the answer was lost on its way: it is there.
            if error.reason != "same_file":
                raise

    return take_each([ContentFile(data, name=name[:120] or "phone.jpg")], take_in)


def _by_link(behind, upload) -> None:
    count_file(behind)
    if behind.case:
        add_case_photo(case=behind.case, user=behind.made_by, upload=upload, how="phone link")
    else:
        take_dropped(organisation=behind.organisation, user=behind.made_by, token=behind.drop, upload=upload)


@require_GET
def note_crop(request, pk):
    found = get_object_or_404(Note.objects.select_related("case"), pk=pk, case__organisation__members=request.user)
    case_for(request.user, found.case.number)
    return FileResponse(found.crop.open("rb"), content_type="image/jpeg")


@require_GET
def sighting_crop(request, pk):
    """What was seen on no list, cut out; for the shop's members."""
    cut_out = Sighting.objects.exclude(crop="").select_related("case")
    found = get_object_or_404(cut_out, pk=pk, case__organisation__members=request.user)
    case_for(request.user, found.case.number)
    return FileResponse(found.crop.open("rb"), content_type="image/jpeg")
