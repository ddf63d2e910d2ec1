"""What leaves the house."""

from django.http import HttpResponse, JsonResponse
from django.views.decorators.http import require_GET

from casework.access import case_for
from reports import bench_card
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


@require_GET
def bench_card_pdf(request):
    response = HttpResponse(bench_card.as_pdf(), content_type="application/pdf")
    response["Content-Disposition"] = 'attachment; filename="bench-card.pdf"'
    return response


@require_GET
def bench_card_svg(request):
    return HttpResponse(bench_card.as_svg(), content_type="image/svg+xml")
