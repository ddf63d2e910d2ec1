"""The instruments on this counter's table. The demo's are simulated, and show what its pairs are said to have."""

import json
from pathlib import Path

from django.conf import settings

from assay.instruments import Caliper, InstrumentSilent, TagReader
from pairs.models import Pair

THINGS = "demo-things.json"


def _things(pair: Pair) -> dict:
    """What lies on the demo's table with this pair: true lengths and inlays, by the pair's label."""
    kept = Path(settings.DATA_DIR) / THINGS
    return json.loads(kept.read_text()).get(pair.label, {}) if settings.DEMO and kept.exists() else {}


def caliper(pair: Pair) -> Caliper:
    """The caliper. Raises InstrumentSilent ``caliper_silent`` where none is connected."""
    truth = _things(pair).get("lengths_mm")
    if truth is None:
        raise InstrumentSilent("caliper_silent")
    from assay.simulator.instruments import SimulatedCaliper  # noqa: PLC0415 - the simulator is for the demo only

    return SimulatedCaliper(truth, seed=pair.pk)


def tag_reader(pair: Pair) -> TagReader:
    """The tag reader. Raises InstrumentSilent ``reader_silent`` where none is connected."""
    inlays = _things(pair).get("inlays")
    if inlays is None:
        raise InstrumentSilent("reader_silent")
    from assay.simulator.instruments import SimulatedTagReader  # noqa: PLC0415 - the simulator is for the demo only

    return SimulatedTagReader(tuple(inlays))
