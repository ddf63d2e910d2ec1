"""The bench: parse, one action or query, render."""

from django.http import Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST
from django.views.decorators.vary import vary_on_headers

from assay.errors import AssayError
from assay.paperwork.papers import PAPERS
from casework import findings as case_findings
from casework import wording
from casework.access import case_for, open_case_for
from casework.actions import work_checkpoint, work_photo
from casework.actions.analyse_case import request_analysis
from casework.actions.note_sighting import note_sighting, take_back_sighting
from casework.actions.pin_note import pin_note
from casework.actions.read_instrument import read_instrument
from casework.agenda import after
from casework.bench import queries
from casework.bench.forms import GaugeForm, PlacesForm, SightingForm
from casework.bench.rail import TABS
from casework.grading import is_done_here
from casework.photos import queries as photo_queries
from casework.photos.forms import PointsForm
from casework.queue import stalled


@require_POST
def measure(request, number):
    request_analysis(case=open_case_for(request.user, number), user=request.user)
    return redirect("bench", number=number)


@require_GET
def progress(request, number):
    case = case_for(request.user, number)
    return render(request, "casework/bench/_progress.html", {"case": case, "stalled": stalled(case), "polled": True})


@require_GET
@vary_on_headers("HX-Request")
def bench(request, number, key=""):
    case = case_for(request.user, number)
    state = case_findings.state_of(case)
    if not state.findings:
        # No check was drawn for this release yet: its photographs are compared all over.
        return redirect("differences", number=number)
    return _bench(request, case, key or state.agenda.next or "")


def _bench(request, case, key, *, problem="", typed=None):
    template = "casework/bench/_bench.html" if request.htmx else "casework/bench/show.html"
    asked = request.GET.get("rail", "")
    tab = asked or request.COOKIES.get("rail", "")
    tab = tab if tab in TABS else next(iter(TABS))
    page = {**queries.bench(case, key, typed or {}, tab), "problem": problem}
    response = render(request, template, page, status=422 if problem else 200)
    if request.htmx and request.method == "POST" and not problem:
        response["HX-Push-Url"] = reverse("bench-at", args=[case.number, key])
    if asked == tab:
        response.set_cookie("rail", tab, samesite="Lax")
    return response


def _confirm(case, checkpoint, request):
    work_checkpoint.confirm(case=case, checkpoint=checkpoint, user=request.user)


def _correct(case, checkpoint, request):
    work_checkpoint.correct(case=case, checkpoint=checkpoint, user=request.user, centres=_points(request))


def _marks(case, checkpoint, request):
    work_checkpoint.move_marks(case=case, checkpoint=checkpoint, user=request.user, points=_points(request))


def _landmarks(case, checkpoint, request):
    form = _gauge_form(request)
    photo = photo_queries.side_photo(case, checkpoint, "suspect")
    ours, theirs = form.cleaned_data["points"], form.cleaned_data["others"]
    work_photo.lay_by_landmarks(case=case, photo=photo, user=request.user, ours=ours, theirs=theirs)


def _nudge(case, checkpoint, request):
    points = _points(request)
    if len(points) != 1:
        raise AssayError("bad_points")
    photo = photo_queries.side_photo(case, checkpoint, "suspect")
    work_photo.nudge(case=case, photo=photo, user=request.user, moved_px=tuple(points[0]))


def _pin(case, checkpoint, request):
    given = _gauge_form(request).cleaned_data
    photo = photo_queries.side_photo(case, checkpoint, given["side"])
    found = photo_queries.gauged(case, checkpoint, given)
    pin_note(case=case, user=request.user, checkpoint=checkpoint, photo=photo, given=given, gauged=found)


def _gauge_form(request):
    form = GaugeForm(request.POST)
    if not form.is_valid():
        raise AssayError("bad_points")
    return form


def _answer(case, checkpoint, request):
    work_checkpoint.answer(case=case, checkpoint=checkpoint, user=request.user, choice=request.POST.get("choice", ""))


def _places(case, checkpoint, request):
    paper = PAPERS[checkpoint.paper]
    form = PlacesForm(request.POST, places=paper.fields)
    if not form.is_valid():
        raise AssayError("nothing_typed")
    work_checkpoint.inscribe(case=case, user=request.user, places=form.cleaned_data)


def _print(case, checkpoint, request):
    work_checkpoint.confirm_print(case=case, user=request.user, shown=request.POST.dict())


def _instrument(case, checkpoint, request):
    read_instrument(case=case, user=request.user, place=PAPERS[checkpoint.paper].fields[0])


def _cannot_tell(case, checkpoint, request):
    work_checkpoint.cannot_tell(case=case, checkpoint=checkpoint, user=request.user, why=request.POST.get("why", ""))


def _points(request):
    form = PointsForm(request.POST)
    if not form.is_valid():
        raise AssayError("bad_points")
    return form.cleaned_data["points"]


# action: what it does, and whether the checker goes on to the next checkpoint after it
ACTIONS = {
    "confirm": (_confirm, True),
    "correct": (_correct, False),
    "marks": (_marks, False),
    "answer": (_answer, True),
    "places": (_places, True),
    "print": (_print, True),
    "instrument": (_instrument, True),
    "cannot-tell": (_cannot_tell, True),
    "landmarks": (_landmarks, False),
    "nudge": (_nudge, False),
    "pin": (_pin, False),
}


@require_POST
def work(request, number, key, action):
    if action not in ACTIONS:
        raise Http404
    case = open_case_for(request.user, number)
    checkpoint = get_object_or_404(case.pair.release.checkpoints, key=key)
    act, goes_on = ACTIONS[action]
    if action in ("places", "instrument", "print") and not checkpoint.paper:
        raise Http404
    try:
        act(case, checkpoint, request)
    except AssayError as error:
        return _bench(request, case, key, problem=wording.of_error(error), typed=request.POST)
    state = case_findings.state_of(case)
    here = next(f for f in state.findings if f.checkpoint_id == checkpoint.pk)
    if request.POST.get("then") == "verdict":
        return redirect("verdict", number=number)
    # What departs is shown before anybody goes on.
    goes_on = goes_on and is_done_here(here)
    onward = (after(state.agenda, state.findings, key) or key) if goes_on else key
    return _bench(request, case, onward) if request.htmx else redirect("bench-at", number=number, key=onward)


@require_POST
def seen(request, number, key):
    """Something that no check names, seen at this checkpoint's photograph or anywhere."""
    case = open_case_for(request.user, number)
    checkpoint = get_object_or_404(case.pair.release.checkpoints, key=key)
    form = SightingForm(request.POST)
    try:
        if not form.is_valid():
            return _bench(request, case, key, problem=next(iter(form.errors.values()))[0], typed=request.POST)
        given = form.as_given()
        photo = photo_queries.side_photo(case, checkpoint, "suspect") if given["points"] else None
        note_sighting(case=case, user=request.user, photo=photo, given=given)
    except AssayError as error:
        return _bench(request, case, key, problem=wording.of_error(error), typed=request.POST)
    return _bench(request, case, key) if request.htmx else redirect("bench-at", number=number, key=key)


@require_POST
def seen_back(request, number, key, pk):
    """What was seen does not count after all."""
    case = open_case_for(request.user, number)
    take_back_sighting(case=case, user=request.user, sighting=get_object_or_404(case.sightings, pk=pk))
    return _bench(request, case, key) if request.htmx else redirect("bench-at", number=number, key=key)


@require_POST
def gauge(request, number, key):
    """What the stage's tools read where they were put, in words and as lines to draw. Nothing is kept."""
    case = case_for(request.user, number)
    checkpoint = get_object_or_404(case.pair.release.checkpoints, key=key)
    try:
        given = _gauge_form(request).cleaned_data
        found = photo_queries.gauged(case, checkpoint, given)
    except AssayError as error:
        return JsonResponse({"problem": wording.of_error(error)}, status=422)
    return JsonResponse({"words": wording.gauged_words(given["tool"], found), "drawn": found.drawn})
