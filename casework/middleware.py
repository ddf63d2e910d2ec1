"""What a signed case says when somebody tries to change it."""

from django.contrib import messages
from django.db import IntegrityError
from django.http import HttpResponse
from django.shortcuts import redirect

from casework import triggers
from casework.access import CaseHiddenError, CaseSignedError


class SignedCaseMiddleware:
    """Lead back to the verdict, with the reason."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        return self.get_response(request)

    def process_exception(self, request, exception):
        if isinstance(exception, CaseHiddenError):
            return self._hidden(request, exception.mine)
        # The database says it too, where somebody signs between another's look and click.
        by_trigger = isinstance(exception, IntegrityError) and triggers.WORDS in str(exception)
        if not isinstance(exception, CaseSignedError) and not by_trigger:
            return None
        messages.error(
            request, "This case is signed: nothing in it changes any more. Add an opinion of your own below."
        )
        target = redirect("verdict", number=request.resolver_match.kwargs["number"])
        if request.htmx:
            return HttpResponse(headers={"HX-Redirect": target.url})
        return target

    @staticmethod
    def _hidden(request, mine):
        words = (
            "Two people look at this pair without knowing of each other: you see the other case once both are signed. "
            "A second look is begun on the counter."
        )
        messages.error(request, words)
        target = redirect("verdict", number=mine) if mine else redirect("counter")
        return HttpResponse(headers={"HX-Redirect": target.url}) if request.htmx else target
