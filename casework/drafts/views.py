"""A drafted guide: parse, one action or query, render."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import organisation_of
from casework.actions.decide_proposal import accept_proposal, reject_proposal
from casework.drafts import queries
from guides.drafting import request_draft
from guides.models import ProposedCheck
from library.writers import MAY_CHECK, visible_to


@require_http_methods(["GET", "POST"])
def draft(request, pk):
    """The proposals of a release, one of them large. Posted to, its photographs are gone through."""
    organisation = organisation_of(request.user)
    seen = visible_to(organisation).select_related("shoe_model__maker", "organisation")
    release = get_object_or_404(seen, pk=pk)
    if request.method == "POST":
        try:
            request_draft(release=release, organisation=organisation, user=request.user)
        except AssayError as error:
            messages.error(request, wording.of_error(error))
        return redirect("guide-draft", pk)
    page = queries.draft_page(release, organisation, _key(request.GET.get("at", "")))
    return render(request, "casework/drafts/show.html", {"page": page, "may": request.user.has_perm(MAY_CHECK)})


@require_GET
def progress(request, pk):
    """How far the draft is; once it is done, the page is loaded anew."""
    organisation = organisation_of(request.user)
    release = get_object_or_404(visible_to(organisation), pk=pk)
    page = queries.draft_progress(release, organisation)
    return render(request, "casework/drafts/_progress.html", {"page": page, "polled": True})


@require_POST
def decide(request, pk, proposal, action):
    """Take one into the guide or reject it; then the next."""
    organisation = organisation_of(request.user)
    release = get_object_or_404(visible_to(organisation), pk=pk)
    known = ProposedCheck.objects.filter(organisation=organisation, release=release)
    one = get_object_or_404(known.select_related("photo__pair__release", "release", "organisation"), pk=proposal)
    following = _key(request.POST.get("following", ""))
    try:
        if action == "reject":
            reject_proposal(proposal=one, user=request.user)
        else:
            made = accept_proposal(proposal=one, user=request.user, name=request.POST.get("name", ""))
            messages.success(request, f"On the guide: {made.name}.")
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        following = one.pk
    return redirect(f"{reverse('guide-draft', args=[pk])}?at={following}")


def _key(text: str) -> int:
    """A proposal's key as it was sent; 0: none."""
    return int(text) if text.isascii() and text.isdigit() and len(text) < 12 else 0
