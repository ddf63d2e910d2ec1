"""Frozen dataclasses of plain values that are stored as JSON, the same there and back."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import ClassVar, Self


@dataclass(frozen=True, slots=True)
class Stored:
    """What a frozen dataclass of numbers, text and tuples inherits to be stored as JSON.

    A field that is ``None`` is left out; a name that is not a field is ignored. Rows of a table stay lists inside their
    tuple: nobody writes to them.
    """

    json_names: ClassVar[Mapping[str, str]] = {}
    """Of fields that are called otherwise in JSON."""

    def to_json(self) -> dict[str, object]:
        """Plain JSON values by name."""
        kept = {}
        for field in fields(self):
            value = getattr(self, field.name)
            if value is not None:
                kept[self.json_names.get(field.name, field.name)] = list(value) if isinstance(value, tuple) else value
        return kept

    @classmethod
    def from_json(cls, values: Mapping[str, object]) -> Self:
        """The same back again."""
        given = {}
        for field in fields(cls):
            value = values.get(cls.json_names.get(field.name, field.name))
            given[field.name] = tuple(value) if isinstance(value, list | tuple) else value
        return cls(**given)
