"""What leaves the house."""

from base64 import b64encode

from django.http import HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from casework.access import case_for, house_of
from library.models import Release
from library.writers import visible_to
from reports import bench_card, guide_sheet
from reports.case_document import case_document, findings_csv


@require_GET
def case_json(request, number):
    case = case_for(request.user, number)
    response = JsonResponse(case_document(case), json_dumps_params={"indent": 1, "ensure_ascii": False})
    response["Content-Disposition"] = f'attachment; filename="case-{case}.json"'
    return response


@require_GET
def case_csv(request, number):
    case = case_for(request.user, number)
    response = HttpResponse(findings_csv(case), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="case-{case}-findings.csv"'
    return response


def _release(request, pk) -> Release:
    return get_object_or_404(visible_to(house_of(request.user)).select_related("shoe_model__maker"), pk=pk)


@require_GET
def sheet(request, pk):
    """A guide sheet as a page for a phone."""
    release = _release(request, pk)
    rows = guide_sheet.entries(release, house_of(request.user))
    for one in rows:
        one.retail_crop, one.copy_crop = (
            crop and b64encode(crop).decode() for crop in (one.retail_crop, one.copy_crop)
        )
    page = {"release": release, "entries": rows, "not_a_verdict": guide_sheet.NOT_A_VERDICT}
    return render(request, "casework/shelf/sheet.html", page)


@require_GET
def sheet_pdf(request, pk):
    """The same to print."""
    release = _release(request, pk)
    response = HttpResponse(guide_sheet.as_pdf(release, house_of(request.user)), content_type="application/pdf")
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
