"""The guides: retail photographs, and drawing a new check on one. Parse, one action or query, render."""

from dataclasses import asdict
from functools import partial

from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from assay.measure.registry import MEASURES
from casework import wording
from casework.access import organisation_of
from casework.actions.add_check import add_check
from casework.actions.add_retail_photo import add_retail_photo
from casework.actions.add_view import add_view
from casework.actions.ask_questions import (
    add_question,
    answer_for_retail,
    change_question,
    show_answer,
    write_question,
)
from casework.actions.change_check import bring_back, change_check, move_marks, withdraw_check
from casework.actions.join_feet import join_feet
from casework.bench.drawings import marks_drawn
from casework.guides import queries as guide_queries
from casework.guides.forms import ChangeForm, CheckForm, QuestionForm, RetailPhotoForm, ViewForm
from casework.guides.wording import WORDS, choices, choices_of, pickable
from casework.photos.forms import points_from
from library.models import AnswerPhoto, Checkpoint, Release
from library.photo_kinds import kinds_by_key
from library.writers import MAY_CHECK, visible_to
from pairs.actions.draw_checkpoint import try_checkpoint
from pairs.models import Pair, Photo, Standing

# What is done to a check besides changing it, and what is said then.
ACTIONS = {
    "withdraw": (withdraw_check, "Taken off the guide: {}. Signed cases keep what they were signed with."),
    "bring-back": (bring_back, "Back on the guide: {}. Open cases have it again."),
}


@require_GET
def guides(request):
    """Retail pairs by release, with what is drawn on their photographs."""
    organisation = organisation_of(request.user)
    page = {
        "organisation": organisation,
        "guides": guide_queries.guides(organisation),
        "places": guide_queries.places(),
    }
    page["may"] = request.user.has_perm(MAY_CHECK)
    return render(request, "casework/guides/show.html", page)


@require_http_methods(["GET", "POST"])
def kinds(request):
    """Kinds of photograph: those there are, and a new one."""
    form, problem = ViewForm(request.POST or None), ""
    if request.method == "POST" and form.is_valid():
        try:
            made = add_view(organisation=organisation_of(request.user), user=request.user, given=form.as_given())
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"Kept: {made.name}. Add a photograph of it to a retail pair, then draw on it.")
            return redirect("guide-kinds")
    page = {"form": form, "problem": problem, "kinds": kinds_by_key().values(), "may": request.user.has_perm(MAY_CHECK)}
    return render(request, "casework/guides/kinds.html", page, status=422 if problem or form.errors else 200)


@require_http_methods(["GET", "POST"])
def questions(request, pk):
    """A release's questions, those of the catalogue it does not ask yet, and a new one."""
    organisation, release = organisation_of(request.user), _release(request, pk)
    form, problem = QuestionForm(request.POST if "name" in request.POST else None), ""
    if request.method == "POST" and (not form.is_bound or form.is_valid()):
        try:
            if form.is_bound:
                made = write_question(
                    release=release, organisation=organisation, user=request.user, given=form.as_given()
                )
            else:
                key = request.POST.get("add", "")
                made = add_question(release=release, key=key, organisation=organisation, user=request.user)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"Asked now: {made.name}. Say below what the verified pairs answer.")
            return redirect("guide-questions", release.pk)
    page = guide_queries.question_desk(release, organisation) | {"form": form, "problem": problem}
    page["may"] = request.user.has_perm(MAY_CHECK)
    return render(request, "casework/guides/questions.html", page, status=422 if problem or form.errors else 200)


@require_POST
def question(request, pk, key):
    """One question: its words, what a verified pair answers, what an answer looks like, or off the guide."""
    organisation, release = organisation_of(request.user), _release(request, pk)
    checkpoint = get_object_or_404(release.checkpoints.filter(kind="answer"), key=key)
    try:
        if "pair" in request.POST:
            pairs = Pair.objects.filter(organisation=organisation, release=release, standing=Standing.RETAIL)
            pair = get_object_or_404(pairs, label=request.POST["pair"])
            answer_for_retail(
                checkpoint=checkpoint, pair=pair, choice=request.POST.get("choice", ""), user=request.user
            )
        elif "answer" in request.POST:
            shown = {"answer": request.POST["answer"], "upload": request.FILES.get("file")}
            show_answer(checkpoint=checkpoint, organisation=organisation, user=request.user, **shown)
        elif request.POST.get("action") == "withdraw":
            withdraw_check(checkpoint=checkpoint, organisation=organisation, user=request.user)
        else:
            form = QuestionForm(request.POST)
            if not form.is_valid():
                page = guide_queries.question_desk(release, organisation, changed=(key, request.POST))
                page |= {"problem": next(iter(form.errors.values()))[0], "form": QuestionForm(), "may": True}
                return render(request, "casework/guides/questions.html", page, status=422)
            change_question(checkpoint=checkpoint, organisation=organisation, user=request.user, given=form.as_given())
    except AssayError as error:
        page = guide_queries.question_desk(release, organisation, changed=(key, request.POST))
        page |= {"problem": wording.of_error(error), "form": QuestionForm(), "may": request.user.has_perm(MAY_CHECK)}
        return render(request, "casework/guides/questions.html", page, status=422)
    messages.success(request, f"Kept: {checkpoint.name}.")
    return redirect("guide-questions", release.pk)


@require_GET
def example(request, pk):
    """What an answer looks like."""
    seen = AnswerPhoto.objects.filter(checkpoint__release__in=visible_to(organisation_of(request.user)))
    return FileResponse(get_object_or_404(seen, pk=pk).picture.open("rb"), content_type="image/jpeg")


@require_GET
@cache_control(max_age=86400, private=True)
def measure_picture(request):
    """What a measure reads, small."""
    measure = request.GET.get("of", "")
    if measure not in WORDS or measure not in MEASURES:
        raise Http404
    return HttpResponse(guide_queries.sample_picture(measure), content_type="image/jpeg")


def _release(request, pk) -> Release:
    seen = visible_to(organisation_of(request.user)).select_related("shoe_model__maker", "organisation")
    return get_object_or_404(seen, pk=pk)


@require_POST
def retail_photo(request, pk):
    """One more photograph of a verified pair."""
    known = Pair.objects.filter(organisation=organisation_of(request.user), standing=Standing.RETAIL).select_related(
        "release", "organisation"
    )
    pair, form = get_object_or_404(known, pk=pk), RetailPhotoForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, next(iter(form.errors.values()))[0])
        return redirect("guides")
    view, _, foot = form.cleaned_data["place"].partition(" ")
    try:
        photo = add_retail_photo(pair=pair, user=request.user, upload=form.cleaned_data["file"], view=view, foot=foot)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        return redirect("guides")
    messages.success(request, f"Added to {pair.label}: {photo.showing}.")
    return redirect("guide-draw", photo.pk)


@require_http_methods(["GET", "POST"])
def draw(request, pk):
    """One retail photograph: draw marks, name them, keep them as a check."""
    photo, problem = _retail_photo(request, pk), ""
    form = CheckForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            made = add_check(
                organisation=organisation_of(request.user), photo=photo, user=request.user, **form.as_given()
            )
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(
                request, f"Kept: {made.name}. Every open case of this release has it now, and is being measured."
            )
            return redirect("guide-draw", photo.pk)
    page = guide_queries.drawing_desk(photo) | {"measures": pickable()}
    return _desk(request, "casework/guides/draw.html", page, form, problem)


@require_POST
def attempt(request, pk):
    """Measure what is drawn, on this photograph and on the other verified pairs; keep nothing."""
    photo = _retail_photo(request, pk)
    form = CheckForm(request.POST)
    form.full_clean()
    choice, points = choices().get(request.POST.get("choice", "")), form.cleaned_data.get("points")
    if choice is None or not points:
        problem = next((errors[0] for field, errors in form.errors.items() if field in ("choice", "points")), "")
        return render(request, "casework/guides/_tried.html", {"problem": problem}, status=422)
    try:
        tried = try_checkpoint(photo=photo, measure=choice.measure, points=points)
    except AssayError as error:
        return render(request, "casework/guides/_tried.html", {"problem": wording.of_error(error)}, status=422)
    numbers = choices_of(choice.measure)
    own = tried[0].reading
    page = guide_queries.tried_table(tried, numbers) | {
        "chosen": choice,
        "marks": marks_drawn([asdict(stroke) for stroke in own.overlay]) if own else [],
        "doubts": [wording.DOUBTS.get(doubt) or wording.PHOTO_DOUBTS.get(doubt, doubt) for doubt in own.doubts]
        if own
        else [],
    }
    return render(request, "casework/guides/_tried.html", page)


@require_http_methods(["GET", "POST"])
def check(request, pk, key):
    """One check that is drawn on a retail photograph: change words and caps, take it off or bring it back."""
    photo, checkpoint = _drawn_check(request, pk, key)
    action = ACTIONS.get(request.POST.get("action", ""))
    form = ChangeForm(checkpoint, request.POST if request.method == "POST" and not action else None)
    if not action and not form.is_valid():
        return _check_page(request, photo, checkpoint, form)
    act, done = action or (partial(change_check, given=form.words()), "Changed: {}.")
    return _done(request, photo, checkpoint, partial(act, checkpoint=checkpoint), done, form=form)


@require_POST
def check_marks(request, pk, key):
    """Its marks put elsewhere on the photograph."""
    photo, checkpoint = _drawn_check(request, pk, key)
    try:
        points = points_from(request.POST.get("points", ""))
    except ValidationError:
        problem = wording.of_error(AssayError("bad_points"))
        return _check_page(request, photo, checkpoint, ChangeForm(checkpoint), problem)
    act = partial(move_marks, checkpoint=checkpoint, photo=photo, points=points)
    return _done(request, photo, checkpoint, act, "Moved: {}. Open cases are being measured there.", points=points)


@require_POST
def check_feet(request, pk, key):
    """It and a check of the other foot, held against each other."""
    photo, checkpoint = _drawn_check(request, pk, key)
    sent = {"other": request.POST.get("other", ""), "name": request.POST.get("feet_name", "")[:80]}
    act = partial(join_feet, checkpoint=checkpoint, **sent)
    return _done(request, photo, checkpoint, act, "{} is held against the other now.", feet_name=sent["name"])


def _done(request, photo, checkpoint, act, said: str, form=None, **sent):
    """Do it and go back to the photograph; or say what is wrong, with what was sent."""
    try:
        act(organisation=photo.pair.organisation, user=request.user)
    except AssayError as error:
        return _check_page(request, photo, checkpoint, form or ChangeForm(checkpoint), wording.of_error(error), **sent)
    messages.success(request, said.format(checkpoint.name))
    return redirect("guide-draw", photo.pk)


def _drawn_check(request, pk, key) -> tuple[Photo, Checkpoint]:
    photo = _retail_photo(request, pk)
    known = Checkpoint.every.filter(markings__photo=photo)
    return photo, get_object_or_404(known, key=key)


def _check_page(request, photo, checkpoint, form, problem: str = "", **sent):
    page = guide_queries.drawing_desk(photo, only=checkpoint)
    page |= guide_queries.check_desk(photo, checkpoint) | {name: value for name, value in sent.items() if value}
    page["movable"] = bool(page["choice"]) and not checkpoint.withdrawn and request.user.has_perm(MAY_CHECK)
    return _desk(request, "casework/guides/check.html", page, form, problem)


def _desk(request, template: str, page: dict, form, problem: str):
    """A drawing desk with its form, or with what is wrong about what was sent."""
    page |= {
        "form": form,
        "problem": problem,
        "may": request.user.has_perm(MAY_CHECK),
        "organisation": page["photo"].pair.organisation,
    }
    return render(request, template, page, status=422 if problem or form.errors else 200)


def _retail_photo(request, pk) -> Photo:
    photos = Photo.objects.select_related("pair__release__shoe_model__maker", "pair__organisation")
    known = photos.filter(pair__organisation=organisation_of(request.user), pair__standing=Standing.RETAIL)
    return get_object_or_404(known.exclude(view=""), pk=pk)
