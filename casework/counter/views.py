"""The counter: parse, one action or query, render."""

from uuid import uuid4

from django.http import JsonResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import organisation_of
from casework.actions.start_case import start_case
from casework.actions.start_from_photos import start_from_photos, take_dropped
from casework.counter import queries
from casework.counter.first_steps import first_steps
from casework.counter.forms import StartForm
from casework.photos.unpack import take_each
from library.writers import MAY_MAKER

UNKNOWN = ("unknown_code", "unknown_name", "no_reference")
"""What the library can answer: add it."""


@require_GET
def counter(request):
    organisation = organisation_of(request.user)
    asked = request.GET.get("q", "").strip()[:100]
    page = {
        **queries.counter(organisation, asked, request.user),
        "asked": asked,
        "organisation": organisation,
        "token": uuid4(),
        "steps": first_steps(organisation),
    }
    return render(request, "casework/counter/list.html", page)


@require_http_methods(["GET", "POST"])
def arrivals(request, token):
    """Photographs dropped on the counter: one more, or what was read on them so far."""
    organisation = organisation_of(request.user)
    problems = []
    if request.method == "POST":
        kept = {"organisation": organisation, "user": request.user, "token": token}
        problems = take_each(request.FILES.getlist("files"), lambda upload: take_dropped(**kept, upload=upload))
    return JsonResponse(
        {"problems": problems, **queries.arrivals(organisation, token)}, status=422 if problems else 200
    )


@require_POST
def start(request):
    form = StartForm(request.POST)
    problem, unknown = next(iter(form.errors.values()))[0] if form.errors else "", False
    if not problem:
        given = {"user": request.user, "typed_code": form.cleaned_data["style_code"]}
        try:
            if form.cleaned_data["arrivals"]:
                case = start_from_photos(**given, token=form.cleaned_data["arrivals"])
            else:
                case = start_case(**given, token=form.cleaned_data["token"])
            return redirect("intake", number=case.number)
        except AssayError as error:
            problem = wording.of_error(error)
            unknown = error.reason in UNKNOWN
    organisation = organisation_of(request.user)
    page = queries.counter(organisation, user=request.user)
    extra = {
        "organisation": organisation,
        "problem": problem,
        "typed": request.POST.get("style_code", ""),
        "token": uuid4(),
    }
    extra |= {
        "arrivals": request.POST.get("arrivals", ""),
        "unknown": unknown,
        "may_maker": request.user.has_perm(MAY_MAKER),
    }
    return render(request, "casework/counter/list.html", {**page, **extra}, status=422)
