"""A guide's checks on screen: what each separates, its facts, its place, what it is held against, whose it is. Parse,
one action or query, render."""

from django.contrib import messages
from django.http import JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import key_in, organisation_of
from casework.actions.borrow_check import borrow_check, give_back, lendable
from casework.actions.change_check import withdraw_check
from casework.actions.join_feet import relate_checks, related_checks
from casework.actions.keep_checks import add_paper, keep_check, move_check, papers_left, place_check
from casework.library_screens.conditions import CHOICES
from casework.library_screens.forms import CheckFactsForm
from casework.library_screens.guide import guide_page
from casework.library_screens.queries import unsure_counts
from casework.library_screens.views import may, release_of
from library.models import Checkpoint, Relation
from library.writers import visible_to


@require_GET
def guide(request, pk):
    """A release's whole guide: what every check separates."""
    organisation, known = organisation_of(request.user), release_of(request, pk)
    page = {
        "organisation": organisation,
        **guide_page(known, organisation),
        "unsure": unsure_counts(known, organisation),
        "papers": papers_left(known),
        **may(request),
    }
    return render(request, "casework/library/guide.html", page)


@require_http_methods(["GET", "POST"])
def check(request, pk):
    """One check's facts, its order, or off the guide; a new check of print or packing is ``paper`` on a release."""
    organisation, known = organisation_of(request.user), _check(request, pk)
    action, problem = request.POST.get("action", ""), ""
    form = CheckFactsForm(known, request.POST if request.method == "POST" and not action else None)
    if request.method == "POST":
        try:
            if action in ("up", "down"):
                move_check(checkpoint=known, organisation=organisation, user=request.user, up=action == "up")
            elif action == "withdraw":
                withdraw_check(checkpoint=known, organisation=organisation, user=request.user)
            elif form.is_valid():
                keep_check(checkpoint=known, organisation=organisation, user=request.user, given=form.as_given())
        except AssayError as error:
            problem = wording.of_error(error)
        if not problem and (action or form.is_valid()):
            return redirect(f"{reverse('library-guide', args=[known.release_id])}#{known.key}")
    page = {
        "organisation": organisation,
        "check": known,
        "form": form,
        "problem": problem,
        "choices": CHOICES.items(),
        "others": related_checks(known),
        "relations": Relation.choices,
        **may(request),
    }
    return render(request, "casework/library/check.html", page, status=422 if problem or form.errors else 200)


@require_POST
def paper(request, pk):
    """One more check of print or packing."""
    known = release_of(request, pk)
    try:
        made = add_paper(
            release=known,
            paper=request.POST.get("paper", ""),
            organisation=organisation_of(request.user),
            user=request.user,
        )
    except AssayError as error:
        messages.error(request, wording.of_error(error))
    else:
        messages.success(request, f"On the guide now: {made.name}.")
    return redirect("library-guide", known.pk)


def _check(request, pk) -> Checkpoint:
    seen = Checkpoint.objects.filter(release__in=visible_to(organisation_of(request.user)))
    return get_object_or_404(seen.select_related("release__shoe_model__maker", "release__organisation"), pk=pk)


@require_POST
def order(request, pk):
    """A check put before another one, or last under its heading."""
    known, organisation = release_of(request, pk), organisation_of(request.user)
    own = known.own_checkpoints.filter(withdrawn=False)
    moved = get_object_or_404(own, pk=key_in(request.POST.get("check", "")))
    before = request.POST.get("before", "")
    next_one = get_object_or_404(own, pk=key_in(before)) if before else None
    try:
        place_check(checkpoint=moved, before=next_one, organisation=organisation, user=request.user)
    except AssayError as error:
        return JsonResponse({"problem": wording.of_error(error)}, status=422)
    return JsonResponse({"key": moved.key})


@require_http_methods(["GET", "POST"])
def borrow(request, pk):
    """Checks of another model that shares a part: borrowed, given back."""
    known, organisation, problem = release_of(request, pk), organisation_of(request.user), ""
    others = visible_to(organisation).exclude(pk__in=known.siblings).select_related("shoe_model__maker")
    if request.method == "POST":
        back = request.POST.get("back", "")
        chosen = _check(request, key_in(back or request.POST.get("check", "")))
        act = give_back if back else borrow_check
        try:
            act(checkpoint=chosen, release=known, organisation=organisation, user=request.user)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"{'Given back' if back else 'Borrowed'}: {chosen.name}.")
            if back:
                return redirect("library-guide", known.pk)
            return redirect(f"{reverse('library-borrow', args=[known.pk])}?from={chosen.release_id}")
    lender = others.filter(pk=key_in(request.GET.get("from", ""))).first()
    page = {
        "organisation": organisation,
        "release": known,
        "others": others.order_by("shoe_model__maker__name", "shoe_model__name", "colourway"),
        "lender": lender,
        "checks": lendable(lender=lender, release=known) if lender else [],
        "problem": problem,
        **may(request),
    }
    return render(request, "casework/library/borrow.html", page, status=422 if problem else 200)


@require_POST
def relate(request, pk):
    """A check of two checks: the first less the second, or as a share of it."""
    known, organisation = _check(request, pk), organisation_of(request.user)
    other = _check(request, key_in(request.POST.get("other", "")))
    given = {"relation": request.POST.get("relation", ""), "name": request.POST.get("name", "")[:80]}
    try:
        made = relate_checks(checkpoint=known, other=other, organisation=organisation, user=request.user, **given)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        return redirect("library-check", known.pk)
    messages.success(request, f"On the guide now: {made.name}.")
    return redirect(f"{reverse('library-guide', args=[known.release_id])}#{made.key}")
