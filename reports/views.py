"""What leaves the shop."""

from base64 import b64encode

from django.contrib import messages
from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from assay.errors import AssayError
from casework import wording
from casework.access import case_for, organisation_of
from casework.actions.issue_certificate import issue_certificate
from casework.case_document import case_document, findings_csv
from casework.models import Certificate
from casework.signed_document import last_signed, signed_bytes
from library.models import Release
from library.writers import visible_to
from reports import bag, bench_card, guide_sheet
from reports import certificate as certificate_pdf


@require_GET
def case_json(request, number):
    case = case_for(request.user, number)
    kept = last_signed(case)
    if kept and "today" not in request.GET:
        response = HttpResponse(signed_bytes(kept), content_type="application/json")
    else:
        response = JsonResponse(case_document(case), json_dumps_params={"indent": 1, "ensure_ascii": False})
    response["Content-Disposition"] = f'attachment; filename="case-{case}.json"'
    return response


@require_POST
def certificate(request, number):
    """The certificate of a case's last opinion, issued where there is none yet."""
    case = case_for(request.user, number)
    try:
        made = issue_certificate(case=case, user=request.user)
    except AssayError as error:
        messages.error(request, wording.of_error(error))
        return redirect("verdict", number=number)
    address = request.build_absolute_uri(reverse("verify", args=[made.secret]))
    response = HttpResponse(certificate_pdf.given_pdf(made, address), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="certificate-{made.number}.pdf"'
    return response


@require_GET
def case_bag(request, number):
    """The whole case as a signed bag."""
    case = case_for(request.user, number)
    last = Certificate.objects.filter(opinion__case=case).order_by("-pk").first()
    pdf = None
    if last:
        address = request.build_absolute_uri(reverse("verify", args=[last.secret]))
        pdf = certificate_pdf.given_pdf(last, address)
    response = HttpResponse(bag.make_bag(case, pdf), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="case-{case}.zip"'
    return response


@require_http_methods(["GET", "POST"])
def bags(request):
    """A bag that somebody brings: what was changed in it."""
    organisation, faults, problem = organisation_of(request.user), None, ""
    if request.method == "POST":
        upload = request.FILES.get("file")
        if upload is None or upload.size > bag.MOST_BYTES:
            problem = "Choose a bag, a ZIP of up to 600 MB."
        else:
            faults = bag.faults_of(upload.read(), organisation)
    page = {"organisation": organisation, "faults": faults, "problem": problem, "key": bag.public_key(organisation)}
    return render(request, "reports/bags.html", page, status=422 if problem else 200)


@login_not_required
@require_GET
def verify(request, secret):
    """Whether a certificate stands: number, day, verdict, digests, and nothing else; for anybody with the link."""
    found = Certificate.objects.select_related("opinion__case__pair", "given").filter(secret=secret).first()
    page = {"certificate": found}
    if found:
        photographs = found.opinion.case.pair.photos.filter(set_aside=False).order_by("pk")
        page |= {"against": found.against, "photographs": list(photographs.values_list("sha256", flat=True))}
    response = render(request, "reports/verify.html", page, status=200 if found else 404)
    response["Referrer-Policy"], response["X-Robots-Tag"] = "no-referrer", "noindex"
    return response


@require_GET
def case_csv(request, number):
    case = case_for(request.user, number)
    response = HttpResponse(findings_csv(case), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="case-{case}-findings.csv"'
    return response


def _release(request, pk) -> Release:
    return get_object_or_404(visible_to(organisation_of(request.user)).select_related("shoe_model__maker"), pk=pk)


@require_GET
def sheet(request, pk):
    """A guide sheet as a page for a phone."""
    release = _release(request, pk)
    rows = guide_sheet.entries(release, organisation_of(request.user))
    for row in rows:
        row.retail_crop, row.copy_crop = (
            crop and b64encode(crop).decode() for crop in (row.retail_crop, row.copy_crop)
        )
    page = {
        "release": release,
        "codes": guide_sheet.codes(release),
        "entries": rows,
        "not_a_verdict": guide_sheet.NOT_A_VERDICT,
    }
    return render(request, "casework/library/sheet.html", page)


@require_GET
def sheet_pdf(request, pk):
    """The same to print."""
    release = _release(request, pk)
    response = HttpResponse(guide_sheet.as_pdf(release, organisation_of(request.user)), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="guide-sheet-{slugify(release.style_code)}.pdf"'
    return response


@require_GET
def bench_card_pdf(request):
    response = HttpResponse(bench_card.as_pdf(), content_type="application/pdf")
    response["Content-Disposition"] = 'attachment; filename="bench-card.pdf"'
    return response


@require_GET
def bench_card_svg(request):
    return HttpResponse(bench_card.as_svg(), content_type="image/svg+xml")
