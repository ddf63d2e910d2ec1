"""Photographs, to those whose shop they belong to."""

from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET

from pairs.models import Photo


@require_GET
@cache_control(private=True, max_age=86_400, immutable=True)
def photo(request, pk, size):
    """The stored file; a photograph never changes, so the browser may keep it."""
    found = get_object_or_404(Photo, pk=pk, pair__organisation__members=request.user)
    # A photograph that is still being read has no preview yet.
    stored = found.preview if size == "preview" and found.preview else found.full
    try:
        return FileResponse(stored.open("rb"), content_type="image/jpeg")
    except (OSError, ValueError) as error:
        raise Http404("the file is gone: manage.py verify_ledger names it") from error
