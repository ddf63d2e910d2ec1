"""Two sets of photographs: parse, one action or query, render."""

from uuid import uuid4

from django.contrib import messages
from django.http import FileResponse, Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import key_in, organisation_of
from casework.actions.compare_sets import SIDES, drop_of, request_comparison
from casework.actions.start_from_photos import take_dropped
from casework.models import DroppedPhoto
from casework.photos.unpack import take_each
from casework.sets import queries
from casework.sets.wording import WHY


@require_GET
def new(request):
    """Two empty sets. Nothing is kept until a photograph comes."""
    organisation_of(request.user)
    return redirect("sets", token=uuid4())


@require_http_methods(["GET", "POST"])
def sets(request, token):
    """Both sets, and what differs; posted to, they are compared."""
    organisation = organisation_of(request.user)
    if request.method == "POST":
        try:
            request_comparison(organisation=organisation, user=request.user, token=token)
        except AssayError as error:
            messages.error(request, wording.of_error(error))
        return redirect("sets", token=token)
    page = queries.sets_page(organisation, token, key_in(request.GET.get("at", "1")))
    return render(request, "casework/sets/show.html", {"page": page, "why": WHY})


@require_GET
def tray(request, token):
    """What lies in both sets."""
    page = {"token": token, "sides": queries.sides_of(organisation_of(request.user), token)}
    return render(request, "casework/sets/_tray.html", {"page": page})


@require_GET
def progress(request, token):
    """How far the comparison is; once it is done, the page is loaded anew."""
    comparison = queries.comparison_of(organisation_of(request.user), token)
    page = {"token": token, "comparison": comparison}
    return render(request, "casework/sets/_progress.html", {"page": page, "polled": True})


@require_POST
def add(request, token, side):
    """Photographs for one side."""
    if side not in SIDES:
        raise Http404("no such side")
    kept = {"organisation": organisation_of(request.user), "user": request.user, "token": drop_of(token, side)}
    taken = take_each(
        request.FILES.getlist("files"), lambda upload: take_dropped(**kept, upload=upload, for_case=False)
    )
    return JsonResponse({"problems": taken}, status=422 if taken else 200)


@require_GET
@cache_control(private=True, max_age=86_400, immutable=True)
def photo(request, pk):
    """A photograph of the person's own shop; it never changes."""
    found = get_object_or_404(DroppedPhoto, pk=pk, organisation=organisation_of(request.user))
    try:
        return FileResponse(found.file.open("rb"), content_type="image/jpeg")
    except (OSError, ValueError) as error:
        raise Http404("the file is gone") from error


@require_GET
def export(request, token):
    """The differences as JSON."""
    page = queries.sets_page(organisation_of(request.user), token)
    if page.comparison is None:
        raise Http404("not compared yet")
    answer = JsonResponse(queries.document(page), json_dumps_params={"indent": 1})
    answer["Content-Disposition"] = f'attachment; filename="two-sets-{page.comparison.asked_at:%Y-%m-%d}.json"'
    return answer
