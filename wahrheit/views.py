"""What belongs to no app: errors, and the demo's photographs to try things with."""

import io
import zipfile

from django.conf import settings
from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET


def csrf_failure(request, reason=""):
    """The form's key was missing or old: say what to do."""
    return render(request, "403_csrf.html", {"reason": reason}, status=403)


def broken(request):
    """What went wrong is written down under a name that the page shows."""
    return render(request, "500.html", {"name": getattr(request, "failure", "")}, status=500)


@require_GET
def demo_photos(request):
    """A pair's photographs that nobody has sorted, as they came from the camera. Only where the demo runs."""
    shots = sorted((settings.DATA_DIR / "demo-photos").glob("spare-*.jpg")) if settings.DEMO else []
    if not shots:
        raise Http404("no demo")
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as bundle:
        for shot in shots:
            bundle.write(shot, shot.name.removeprefix("spare-"))
    response = HttpResponse(target.getvalue(), content_type="application/zip")
    response["Content-Disposition"] = 'attachment; filename="unsorted-photographs.zip"'
    return response
