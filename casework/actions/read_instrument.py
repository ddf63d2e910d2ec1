"""Take what an instrument shows, instead of typing it."""

from assay.errors import AssayError
from assay.paperwork.fields import FIELDS, SIDES
from assay.paperwork.inlay import ABSENT
from casework.actions.work_checkpoint import inscribe
from casework.models import Case
from pairs.instruments import caliper, tag_reader
from pairs.models import Inscription


def read_instrument(*, case: Case, user, place: str) -> None:
    """Read the caliper, side by side, or the tag reader, and keep it. Raises InstrumentSilent or AssayError."""
    entry = FIELDS[place].entry
    if entry not in ("lengths", "inlay"):
        raise AssayError("unknown_place")
    text = _lengths(case) if entry == "lengths" else tag_reader(case.pair).read() or ABSENT
    inscribe(case=case, user=user, places={place: text}, source=Inscription.Source.INSTRUMENT)


def _lengths(case: Case) -> str:
    instrument = caliper(case.pair)
    shown = [instrument.read(f"box.{side}") for side in SIDES]
    return " × ".join(f"{one.value:g} {one.unit}" for one in shown)
