"""Makers' size charts: taken in from CSV, given out as CSV, looked up."""

from django.db import transaction

from assay.errors import AssayError
from assay.paperwork.sizes import Chart, chart_from_csv, chart_to_csv, us_size, written
from library.models import Maker, SizeChart
from library.writers import MAY_MAKER, must

MOST_BYTES = 20_000


def chart_in(*, maker_id: int, data: bytes, user) -> tuple[Maker, Chart]:
    """The chart of a CSV file, and whose it is to be. Raises AssayError.

    Only who may change makers may do this: a chart decides what every shop's labels should say.
    """
    must(user, MAY_MAKER)
    maker = Maker.objects.filter(pk=maker_id).first()
    if maker is None:
        raise AssayError("no_maker")
    try:
        text = data[: MOST_BYTES + 1].decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise AssayError("chart_empty") from error
    if len(text) > MOST_BYTES:
        raise AssayError("chart_empty")
    return maker, chart_from_csv(text)


def keep_chart(maker: Maker, chart: Chart) -> None:
    """In place of the maker's one for that group."""
    with transaction.atomic():
        SizeChart.objects.update_or_create(maker=maker, group=chart.group.value, defaults={"csv": chart_to_csv(chart)})


def charts() -> list[dict]:
    """Every chart, in rows as people write sizes. One query."""
    kept = SizeChart.objects.select_related("maker").order_by("maker__name", "group")
    return [{"kept": one, **_table(chart_from_csv(one.csv))} for one in kept]


def _table(chart: Chart) -> dict:
    return {
        "columns": [system.value for system in chart.columns],
        "rows": [[written(row[system]) for system in chart.columns] for row in chart.rows],
    }


def looked_up(typed: str) -> list[dict]:
    """The row of a size, in any system, in every chart. Raises AssayError where no chart has it."""
    found, failed = [], None
    for one in SizeChart.objects.select_related("maker").order_by("maker__name", "group"):
        chart = chart_from_csv(one.csv)
        try:
            row = chart.row(chart.columns[0], us_size(typed, chart))
        except AssayError as error:
            failed = error
            continue
        if row:
            found.append({"kept": one, "cells": [(system.value, written(size)) for system, size in row.items()]})
    if not found and failed:
        raise failed
    return found
