"""What a cut edge lacks, layer by layer, against the reference's."""

from assay.measure.layers import missing_layer
from casework.models import Case
from pairs.queries import latest_readings


def layer_words(case: Case, finding) -> list[str]:
    """Which layers of the reference's cut edge are missing here, and which it has not. One query for such checks."""
    if finding.checkpoint.measure != "layers" or finding.reading is None:
        return []
    theirs = latest_readings([case.reference], checkpoints=[finding.checkpoint]).get(
        (case.reference_id, finding.checkpoint_id)
    )
    colours = [_layers(theirs), _layers(finding.reading)]
    if not all(colours):
        return []
    lost, extra = missing_layer(*colours)
    return [
        *(f"Layer {n + 1} of {case.reference.label}, counted from outside, is missing." for n in lost),
        *(f"Layer {n + 1} here has no partner on {case.reference.label}." for n in extra),
    ]


def _layers(reading) -> list[tuple]:
    if reading is None or reading.value is None:
        return []
    names = [[f"layer_{n}_{axis}" for axis in "lab"] for n in range(1, int(reading.value) + 1)]
    return [tuple(reading.parts[name] for name in three) for three in names if set(three) <= set(reading.parts)]
