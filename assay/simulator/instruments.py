"""Stand-ins for caliper and tag reader, with the interface of real ones."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from assay.instruments import Gauged, InstrumentSilent

# Scatter of one hand pressing jaws on board, mm. Common practice, no source.
HAND_MM = 0.35


@dataclass(frozen=True, slots=True)
class SimulatedCaliper:
    """Shows what lies between its jaws, with a hand's scatter."""

    truth_mm: Mapping[str, float]
    """True length of things by name."""
    seed: int = 0
    inches: bool = False

    def read(self, thing: str) -> Gauged:
        """See ``assay.instruments.Caliper``."""
        if thing not in self.truth_mm:
            raise InstrumentSilent("caliper_silent", thing=thing)
        rng = np.random.default_rng([self.seed, *thing.encode()])
        value = self.truth_mm[thing] + rng.normal(0, HAND_MM)
        return Gauged(round(value / 25.4, 3), "in", 0.001) if self.inches else Gauged(round(value, 1), "mm", 0.1)


@dataclass(frozen=True, slots=True)
class SimulatedTagReader:
    """Answers with the inlays that lie in its field."""

    field: tuple[str, ...] = ()

    def read(self) -> str | None:
        """See ``assay.instruments.TagReader``."""
        if len(self.field) > 1:
            raise InstrumentSilent("two_inlays", count=len(self.field))
        return self.field[0] if self.field else None
