"""What is known of a pair's print and packing, from the library to what the core takes."""

from fractions import Fraction

from assay.errors import AssayError
from assay.paperwork import sizes
from assay.paperwork.accessories import items_from
from assay.paperwork.fields import TEXTS
from assay.paperwork.found import Known
from assay.paperwork.inlay import ABSENT
from assay.paperwork.print_fields import text_of
from assay.paperwork.print_reader import PrintLine
from library.models import Maker, Release
from library.print_views import print_views
from pairs.models import Condition, Inscription, Pair, Photo
from pairs.queries import inscriptions_of, photos_in_use, retail_pairs


def size_of(text: str) -> Fraction | None:
    """A US size as kept, as a number; None where none is."""
    try:
        return sizes.number(text) if text else None
    except AssayError:
        return None


def charts_of(release: Release) -> tuple[sizes.Chart, ...]:
    """The maker's charts, the release's own group first. One query."""
    charts = [sizes.chart_from_csv(kept.csv) for kept in release.shoe_model.maker.size_charts.all()]
    return tuple(sorted(charts, key=lambda chart: chart.group.value != release.group))


def known_of(pair: Pair) -> Known:
    """Everything the checks of print and packing may use. Four queries, and two a verified pair
    where the guide compares words."""
    release, maker = pair.release, pair.release.shoe_model.maker
    return Known(
        style_code=release.style_code,
        style_code_mask=maker.style_code_mask,
        colour_wording=release.colour_wording,
        barcodes=release.barcodes,
        barcodes_elsewhere=_barcodes_elsewhere(release),
        charts=charts_of(release),
        layout=tuple(sizes.System(name) for name in maker.label_layouts.get(pair.region, ())),
        size_us=size_of(pair.size_us),
        date_order=maker.date_order,
        released_on=release.released_on,
        bought_on=pair.bought_on,
        factory_codes=tuple(release.factory_codes),
        stamp_mask=release.stamp_mask,
        serials_differ=release.serials_differ,
        inlay_expected=_inlay_expected(maker, release),
        inlays_seen=_inlays_seen(pair),
        words=_words(pair),
        packing=items_from(release.packing),
        second_hand=pair.condition in (Condition.WORN, Condition.TRIED_ON),
    )


def lines_on(photo: Photo) -> list[PrintLine]:
    """The lines of print that were read on a photograph."""
    return [
        PrintLine(**{**print_line, "corners": tuple(map(tuple, print_line["corners"]))})
        for print_line in photo.print_lines or []
    ]


def _words(pair: Pair) -> dict[str, tuple[str, ...]]:
    """What the verified pairs carry where words are compared: as somebody confirmed it, else as it was surely read. One
    query, and two a verified pair where the guide compares words."""
    places = {view: place for view, place in print_views(pair.release).items() if place in TEXTS}
    found: dict[str, list[str]] = {}
    for other in retail_pairs(pair) if places else ():
        said = inscriptions_of(other)
        read = {view: photo for (view, _), photo in photos_in_use(other).items() if view in places}
        for view, place in places.items():
            text = said[place].text if place in said else text_of(lines_on(read[view])) if view in read else ""
            if text:
                found.setdefault(place, []).append(text)
    return {place: tuple(texts) for place, texts in found.items()}


def _barcodes_elsewhere(release: Release) -> dict[str, str]:
    others = Release.objects.exclude(pk=release.pk).exclude(barcodes={}).select_related("shoe_model__maker")
    return {code: f"{other}, US {size}" for other in others for size, code in other.barcodes.items()}


def _inlay_expected(maker: Maker, release: Release) -> bool | None:
    return None if maker.inlay_from_year is None else release.year >= maker.inlay_from_year


def _inlays_seen(pair: Pair) -> dict[str, str]:
    """Inlays read in other pairs of the shop."""
    others = Inscription.objects.filter(place="box.inlay", pair__organisation=pair.organisation_id).exclude(pair=pair)
    return dict(others.exclude(text=ABSENT).values_list("text", "pair__label"))
