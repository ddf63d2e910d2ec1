"""A maker's facts and size charts: changed by its only shop, proposed to the others where several work with it."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import Q

from assay.errors import AssayError
from assay.paperwork.sizes import chart_from_csv
from casework.ledger import note_of_organisation
from library.charts import chart_in, keep_chart
from library.models import Maker, MakerChange
from library.writers import MAY_MAKER, must
from pairs.models import Organisation


def other_shops(maker: Maker, organisation: Organisation):
    """Other shops that have releases or pairs of a maker. One query where it is asked for."""
    has = Q(pairs__release__shoe_model__maker=maker) | Q(pk__in=maker.shoe_models.values("releases__organisation"))
    return Organisation.objects.filter(has).exclude(pk=organisation.pk).distinct()


@transaction.atomic
def keep_maker(*, organisation: Organisation, user, given: Mapping, maker: Maker | None = None) -> Maker | MakerChange:
    """A new maker, or a known one's facts; a proposal where other shops work with it. Raises AssayError
    ``not_allowed``, ``maker_exists``."""
    must(user, MAY_MAKER)
    if Maker.objects.filter(name__iexact=given["name"]).exclude(pk=maker and maker.pk).exists():
        raise AssayError("maker_exists", name=given["name"])
    if maker and other_shops(maker, organisation).exists():
        changed = {name: value for name, value in given.items() if getattr(maker, name) != value}
        return _propose(maker, organisation, user, changed) if changed else maker
    made = _set(maker or Maker(), given)
    note_of_organisation(organisation, user, "maker_changed" if maker else "maker_added", maker=made.name)
    return made


@transaction.atomic
def take_chart(*, organisation: Organisation, user, maker_id: int, data: bytes) -> MakerChange | None:
    """A size chart from CSV; a proposal where other shops work with its maker. Raises AssayError."""
    maker, chart = chart_in(maker_id=maker_id, data=data, user=user)
    if other_shops(maker, organisation).exists():
        return _propose(maker, organisation, user, {"chart": data.decode("utf-8-sig")})
    keep_chart(maker, chart)
    note_of_organisation(organisation, user, "maker_changed", maker=maker.name, chart=chart.group.value)
    return None


@transaction.atomic
def decide_change(*, change: MakerChange, organisation: Organisation, user, agreed: bool) -> None:
    """A writer of another shop that works with the maker agrees, or does not; whoever proposed it may take it back.

    Raises AssayError ``not_allowed``, ``decided_already``.
    """
    must(user, MAY_MAKER)
    change = MakerChange.objects.select_for_update().select_related("maker").get(pk=change.pk)
    if change.agreed is not None:
        raise AssayError("decided_already")
    own = change.organisation_id == organisation.pk
    if (own and agreed) or not (
        own or other_shops(change.maker, change.organisation).filter(pk=organisation.pk).exists()
    ):
        raise AssayError("not_allowed")
    change.agreed, change.decided_by = agreed, user
    change.save(update_fields=["agreed", "decided_by"])
    if agreed and "chart" in change.given:
        keep_chart(change.maker, chart_from_csv(change.given["chart"]))
    elif agreed:
        _set(change.maker, change.given)
    note_of_organisation(organisation, user, "maker_change_decided", maker=change.maker.name, agreed=agreed)


def _propose(maker: Maker, organisation: Organisation, user, given: Mapping) -> MakerChange:
    note_of_organisation(organisation, user, "maker_change_proposed", maker=maker.name, fields=sorted(given))
    return MakerChange.objects.create(maker=maker, organisation=organisation, by=user, given=dict(given))


def _set(maker: Maker, given: Mapping) -> Maker:
    for field, value in given.items():
        setattr(maker, field, value)
    maker.save()
    return maker
