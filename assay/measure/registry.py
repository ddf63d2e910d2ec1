"""The measures that exist, by name. A new one is a file in this folder and a line here."""

from assay.measure import (
    colour,
    contrast,
    coverage,
    curvature,
    edge_distance,
    embroidery,
    holes,
    layers,
    lettering,
    line_edge_intersection,
    mark,
    nap,
    outline,
    parallel,
    place,
    profile,
    ring,
    row_end,
    seam,
    sheen,
    speckle,
    texture,
    thread,
    weave,
)
from assay.measure.entry import Measure

MEASURES: dict[str, Measure] = {
    entry.name: entry
    for entry in (
        seam.MEASURE,
        row_end.MEASURE,
        thread.MEASURE,
        holes.MEASURE,
        line_edge_intersection.MEASURE,
        layers.MEASURE,
        parallel.MEASURE,
        curvature.MEASURE,
        edge_distance.MEASURE,
        place.MEASURE,
        colour.MEASURE,
        contrast.MEASURE,
        texture.MEASURE,
        weave.MEASURE,
        nap.MEASURE,
        sheen.MEASURE,
        mark.MEASURE,
        ring.MEASURE,
        embroidery.MEASURE,
        speckle.MEASURE,
        coverage.MEASURE,
        lettering.MEASURE,
        outline.MEASURE,
        *profile.MEASURES,
    )
}
