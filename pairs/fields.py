"""A JSON column whose attribute is a frozen dataclass of the core."""

from django.db import models
from django.db.models.query_utils import DeferredAttribute

from assay.pipeline.stored import Stored


class _Typed(DeferredAttribute):
    """Makes stored JSON the dataclass when it is first asked for: most rows are read for something else."""

    def __get__(self, row, owner=None):
        if row is None:
            return self
        value = row.__dict__.get(self.field.attname)
        if isinstance(value, Stored):
            return value
        if value is None:
            value = super().__get__(row, owner)
        value = row.__dict__[self.field.attname] = self.field.typed(value)
        return value

    def __set__(self, row, value) -> None:
        row.__dict__[self.field.attname] = value


class StoredField(models.JSONField):
    """JSON of a ``Stored`` dataclass. In the database, in ``values()`` and for migrations, a plain JSONField."""

    descriptor_class = _Typed

    def __init__(self, kind: type[Stored], **options) -> None:
        super().__init__(default=dict, **options)
        self.kind = kind

    def deconstruct(self):
        name, _, args, options = super().deconstruct()
        return name, "django.db.models.JSONField", args, options

    def clone(self):
        options = super().deconstruct()[3]
        options.pop("default")
        return type(self)(self.kind, **options)

    def typed(self, value):
        """The dataclass of stored JSON; anything else as it is."""
        return self.kind.from_json(value) if isinstance(value, dict) else value

    def get_db_prep_value(self, value, connection, prepared=False):  # noqa: FBT002 - as the base class has it
        return super().get_db_prep_value(_plain(value), connection, prepared)

    def value_from_object(self, row):
        return _plain(super().value_from_object(row))

    def value_to_string(self, row):
        return self.value_from_object(row)

    def validate(self, value, row):
        super().validate(_plain(value), row)


def _plain(value):
    return value.to_json() if isinstance(value, Stored) else value
