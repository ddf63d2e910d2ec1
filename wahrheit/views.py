"""What belongs to no app: errors, and the demo's photographs to try things with."""

import io
import zipfile

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.core.exceptions import TooManyFieldsSent, TooManyFilesSent
from django.db import DatabaseError
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from casework.waiting import workers_up
from pairs.models import Organisation


def csrf_failure(request, reason=""):
    """The form's key was missing or old: say what to do."""
    return render(request, "403_csrf.html", {"reason": reason}, status=403)


def refused(request, exception=None):
    """What the server takes no look at, such as more files at once than it counts."""
    words = "More was sent at once than this page takes. Send at most 60 photographs at a time; nothing was changed."
    if not isinstance(exception, (TooManyFilesSent, TooManyFieldsSent)):
        words = "What was sent can’t be read. Go back, reload the page and send it again; nothing was changed."
    if "application/json" in request.headers.get("Accept", ""):
        return JsonResponse({"problems": [words]}, status=400)
    return render(request, "400.html", {"words": words}, status=400)


def broken(request):
    """What went wrong is written down under a name that the page shows."""
    return render(request, "500.html", {"name": getattr(request, "failure", "")}, status=500)


@login_not_required
@require_GET
def health(_request):
    """For whoever watches over the machine: 200 where database and workers are up, else 503 and which is not."""
    told = {"database": "up", "workers": "up" if workers_up() else "down"}
    try:
        Organisation.objects.exists()
    except DatabaseError:
        told["database"] = "down"
    return JsonResponse(told, status=503 if "down" in told.values() else 200)


@require_GET
def demo_photos(request):
    """A pair's photographs that nobody has sorted, as they came from the camera. Only where the demo runs."""
    shots = sorted((settings.BASE_DIR / "demo/pack/photographs").glob("spare-*.jpg")) if settings.DEMO else []
    if not shots:
        raise Http404("no demo")
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as bundle:
        for shot in shots:
            bundle.write(shot, shot.name.removeprefix("spare-"))
    response = HttpResponse(target.getvalue(), content_type="application/zip")
    response["Content-Disposition"] = 'attachment; filename="unsorted-photographs.zip"'
    return response
