"""The kit: bench card, size charts. Parse, one action or query, render."""

import csv

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.html import format_html
from django.views.decorators.http import require_GET, require_http_methods

from assay.errors import AssayError
from assay.exposure import seconds_allowed
from casework import wording
from casework.access import organisation_of
from casework.actions.keep_kit import set_card_bar, set_grey_tile
from casework.actions.keep_maker import take_chart
from casework.kit import validation
from casework.kit.forms import BarForm, ChartForm, ExposureForm, TileForm
from library.charts import charts, looked_up
from library.models import Maker, SizeChart


@require_http_methods(["GET", "POST"])
def kit(request):
    """The bench card, what its check bar really measures, and how light the shop's grey tile is."""
    organisation = organisation_of(request.user)
    given = {name: request.POST if name in request.POST else None for name in ("card_bar_mm", "tile_percent")}
    tile = "" if organisation.tile_reflectance is None else f"{100 * organisation.tile_reflectance:g}"
    bar_form = BarForm(given["card_bar_mm"], initial={"card_bar_mm": f"{organisation.card_bar_mm:g}"})
    tile_form = TileForm(given["tile_percent"], initial={"tile_percent": tile})
    if bar_form.is_valid():
        set_card_bar(organisation=organisation, user=request.user, bar_mm=bar_form.cleaned_data["card_bar_mm"])
        messages.success(request, "Kept. Photographs from now on are measured by it.")
        return redirect("kit")
    if tile_form.is_valid():
        percent = tile_form.cleaned_data["tile_percent"]
        set_grey_tile(
            organisation=organisation, user=request.user, reflectance=None if percent is None else percent / 100
        )
        messages.success(request, "Kept. On a photograph's page press 7 and click the tile.")
        return redirect("kit")
    wrong = bar_form.errors or tile_form.errors
    page = {"organisation": organisation, "form": bar_form, "tile_form": tile_form}
    return render(request, "casework/kit/show.html", page, status=422 if wrong else 200)


@require_http_methods(["GET", "POST"])
def sizes(request):
    """Makers' size charts: look a size up, take a chart in."""
    organisation, problem = organisation_of(request.user), ""
    if request.method == "POST":
        problem = _take_in(request)
        if not problem:
            messages.success(request, "Kept. Labels are checked against it from now on.")
            return redirect("kit-sizes")
    typed = request.GET.get("size", "").strip()[:20]
    found, not_found = _look_up(typed)
    page = {
        "organisation": organisation,
        "charts": charts(),
        "makers": Maker.objects.order_by("name"),
        "problem": problem,
    }
    page |= {"typed": typed, "found": found, "not_found": not_found}
    return render(request, "casework/kit/sizes.html", page, status=422 if problem else 200)


@require_http_methods(["GET", "POST"])
def validate(request):
    """The shop's own photographs against caliper and eye: typed beside what was read, summed up per measure."""
    organisation, problem = organisation_of(request.user), ""
    known = validation.pairs_with_readings(organisation)
    label = request.POST.get("pair") or request.GET.get("pair", "")
    pair = next((one for one in known if one.label == label), known[0] if known else None)
    if request.method == "POST" and pair:
        try:
            kept = validation.keep(organisation=organisation, user=request.user, pair=pair, given=request.POST)
        except AssayError as error:
            problem = wording.of_error(error)
        else:
            messages.success(request, f"{pair.label}: {kept} values by hand.")
            return redirect(f"{reverse('kit-validation')}?pair={pair.label}")
    rows = validation.measured(pair) if pair else []
    for row in rows:
        row["typed"] = request.POST.get(f"by-hand-{row['reading'].pk}") if problem else row["by_hand"]
    page = {"organisation": organisation, "pairs": known, "pair": pair, "rows": rows, "problem": problem}
    page["table"] = validation.table(organisation)
    return render(request, "casework/kit/validation.html", page, status=422 if problem else 200)


@require_GET
def validation_csv(request):
    """All of it as CSV."""
    response = HttpResponse(content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="validation.csv"'
    csv.writer(response).writerows(validation.readings_csv(organisation_of(request.user)))
    return response


@require_GET
def ultraviolet(request):
    """The UV lamp: cautions, and how long until the published limit for the eye."""
    form = ExposureForm(request.GET or None)
    allowed = problem = None
    if form.is_bound:
        try:
            if not form.is_valid():
                raise AssayError("bad_irradiance")
            given = {name: value or 0.0 for name, value in form.cleaned_data.items()}
            allowed = round(seconds_allowed(given.pop("w_m2"), **given))
        except AssayError as error:
            problem = wording.of_error(error)
    page = {"organisation": organisation_of(request.user), "form": form, "allowed": allowed, "problem": problem}
    page |= {"minutes": allowed // 60, "seconds": allowed % 60} if allowed is not None else {}
    return render(request, "casework/kit/ultraviolet.html", page, status=422 if problem else 200)


@require_GET
def uv_allowed(request):
    """How long eyes may be under the lamp, for the clock next to a UV step; "?" for what is no irradiance."""
    try:
        seconds = round(seconds_allowed(float(request.GET.get("w_m2", "").replace(",", "."))))
    except (ValueError, AssayError):
        seconds = 0
    words = f"{seconds // 60}:{seconds % 60:02d}" if seconds else "?"
    return HttpResponse(
        format_html('<output class="mono" id="uv-allowed" data-seconds="{}">{}</output>', seconds or "", words)
    )


def _take_in(request) -> str:
    form = ChartForm(request.POST, request.FILES)
    if not form.is_valid():
        return next(iter(form.errors.values()))[0]
    given = form.cleaned_data
    try:
        proposed = take_chart(
            organisation=organisation_of(request.user),
            user=request.user,
            maker_id=given["maker"],
            data=given["chart"].read(100_000),
        )
    except AssayError as error:
        return wording.of_error(error)
    if proposed:
        messages.success(request, "Proposed: other shops work with this maker, and one of them must agree.")
    return ""


def _look_up(typed: str) -> tuple[list, str]:
    if not typed:
        return [], ""
    try:
        return looked_up(typed), ""
    except AssayError as error:
        return [], wording.of_error(error)


@require_GET
def chart(request, pk):
    """One chart as CSV."""
    kept = get_object_or_404(SizeChart.objects.select_related("maker"), pk=pk)
    name = f"sizes-{kept.maker.name.lower()}-{kept.group}.csv"
    return HttpResponse(
        kept.csv,
        content_type="text/csv; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
