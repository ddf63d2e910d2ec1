"""What holds for every page: nothing of it stays in the browser, and what breaks leaves a trace and a word."""

import logging
import secrets

from django.core.exceptions import BadRequest, PermissionDenied, SuspiciousOperation
from django.db import DatabaseError, OperationalError
from django.http import Http404, HttpResponse
from django.shortcuts import render

log = logging.getLogger("wahrheit")
BUSY = ("locked", "busy")
# What Django answers with a page of its own: no failure of ours.
ANSWERED = (Http404, PermissionDenied, BadRequest, SuspiciousOperation)


class ProxyAddressMiddleware:
    """Behind a proxy: who asks is whom the proxy names last, and not the proxy. Wrong passwords are counted by it."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        if told := request.META.get("HTTP_X_FORWARDED_FOR", "").rsplit(",", 1)[-1].strip():
            request.META["REMOTE_ADDR"] = told[:45]
        return self.get_response(request)


class NoStoreMiddleware:
    """Pages of who is signed in are not kept: on a shared computer, *back* after signing out shows nothing."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        user = getattr(request, "user", None)
        if user is not None and user.is_authenticated and not response.has_header("Cache-Control"):
            response["Cache-Control"] = "no-store"
        return response


class StrangersBodyMiddleware:
    """What somebody sends who is not signed in and has no phone link is short; more is turned away before it is read,
    so that nobody fills the disk from outside."""

    MOST_BYTES = 1_000_000
    OPEN = "/phone/"

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        try:
            sent = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            sent = 0
        if sent > self.MOST_BYTES and not (request.path.startswith(self.OPEN) or request.user.is_authenticated):
            return HttpResponse("Sign in first, then send it again.", status=413, content_type="text/plain")
        return self.get_response(request)


class FailureMiddleware:
    """A full disk or a busy database is said in words; anything else that breaks is written down under a name that the
    page shows."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        if response.status_code >= 500:
            log.warning("%s %s answered %s", request.method, request.path, response.status_code)
        return response

    def process_exception(self, request, exception):
        if isinstance(exception, ANSWERED):
            return None
        name = request.failure = secrets.token_hex(4)
        log.error("failure %s: %s %s", name, request.method, request.path, exc_info=exception)
        busy = isinstance(exception, OperationalError) and any(word in str(exception) for word in BUSY)
        full = (isinstance(exception, DatabaseError | OSError) and "full" in str(exception).lower()) or (
            isinstance(exception, OSError) and "No space left" in str(exception)
        )
        if busy or full:
            return render(request, "503.html", {"busy": busy, "name": name}, status=503)
        return None
