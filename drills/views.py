"""Drills: guess first, then it is shown. Parse, one action or query, render."""

from django.contrib import messages
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import organisation_of
from drills import progress
from drills.actions import answer_card, share
from drills.cards import CLOCK_S, KINDS, SAID, Card, card_of
from drills.models import Answer, Shared
from drills.pictures import piece


@require_GET
def home(request):
    """What somebody practised, and what next."""
    organisation, figures = organisation_of(request.user), progress.progress_of(request.user)
    page = {"organisation": organisation, "figures": figures, "practise": progress.to_practise(figures), "said": SAID}
    page |= {
        "sharing": Shared.objects.filter(person=request.user).exists(),
        "others": progress.shared_with(organisation),
    }
    return render(request, "drills/home.html", page)


@require_GET
def next_(request):
    """To the next card."""
    kind = request.GET.get("kind", "")
    card = progress.next_card(organisation_of(request.user), request.user, kind)
    if card is None:
        what = f"of the kind “{KINDS[kind].lower()}” " if kind in KINDS else ""
        messages.error(
            request,
            f"No card {what}is left: add a known copy or another verified pair, and mark the same check on both.",
        )
        return redirect("drills")
    asked = f"?kind={kind}" if kind in KINDS else ""
    return redirect(reverse("drill-card", args=[card.key]) + asked)


def _card(request, key) -> Card:
    card = card_of(key, organisation_of(request.user))
    if card is None:
        raise Http404("no card")
    return card


@require_http_methods(["GET", "POST"])
def card(request, key):
    """One card: asked; then, once answered, shown."""
    one, organisation, problem = _card(request, key), organisation_of(request.user), ""
    kind = request.GET.get("kind", "")
    page = {"organisation": organisation, "card": one, "kind": kind if kind in KINDS else "", "clock": CLOCK_S}
    page["pictures"] = [(n, picture) for n, picture in enumerate(one.pictures)]
    if request.method == "POST":
        try:
            given = request.POST.get("choice", ""), request.POST.get("seconds", "")
            page["answer"] = answer_card(
                organisation=organisation,
                user=request.user,
                card=one,
                key=int(given[0]) if given[0].isdecimal() else 0,
                seconds=_seconds(given[1]),
            )
            page["said"] = one.answers[SAID.index(page["answer"].said)]
            page["right"] = None if page["answer"].said == SAID[2] else (page["answer"].said > SAID[2]) == one.signal
        except AssayError as error:
            problem = wording.of_error(error)
    return render(request, "drills/card.html", page | {"problem": problem}, status=422 if problem else 200)


def _seconds(text: str) -> float:
    try:
        return min(600.0, max(0.0, float(text)))
    except ValueError:
        return 0.0


@require_GET
def picture(request, key, n):
    """A card's picture; with its marks only for whoever has answered it."""
    one, organisation = _card(request, key), organisation_of(request.user)
    marked = "marks" in request.GET and Answer.objects.filter(person=request.user, card=one.key).exists()
    try:
        data = piece(one, n, organisation, marked=marked)
    except AssayError as error:
        raise Http404(error.reason) from error
    return HttpResponse(data, content_type="image/jpeg")


@require_POST
def sharing(request):
    """Shared with the shop, or not."""
    share(user=request.user, on=request.POST.get("on") == "yes")
    return redirect("drills")


@require_GET
def export(request):
    """One's own answers as JSON."""
    fields = ("card", "kind", "level", "said", "so", "seconds", "at")
    rows = list(Answer.objects.filter(person=request.user).order_by("pk").values(*fields))
    response = JsonResponse({"format": "wahrheit-drills/1", "answers": rows}, json_dumps_params={"indent": 1})
    response["Content-Disposition"] = 'attachment; filename="drills.json"'
    return response
