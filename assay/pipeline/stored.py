"""Frozen dataclasses of plain values that are stored as JSON, the same there and back."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import ClassVar, Self


@dataclass(frozen=True, slots=True)
class Stored:
    """What a frozen dataclass of numbers, text and tuples inherits to be stored as JSON.

    A field that is ``None`` is left out; a name that is not a field is ignored.
    """

    json_names: ClassVar[Mapping[str, str]] = {}
    """Of fields that are called otherwise in JSON."""

    def to_json(self) -> dict[str, object]:
        """Plain JSON values by name."""
        values = {self.json_names.get(field.name, field.name): getattr(self, field.name) for field in fields(self)}
        return {name: _thawed(value) for name, value in values.items() if value is not None}

    @classmethod
    def from_json(cls, values: Mapping[str, object]) -> Self:
        """The same back again."""
        names = {cls.json_names.get(field.name, field.name): field.name for field in fields(cls)}
        return cls(**{names[name]: _frozen(value) for name, value in values.items() if name in names})


def _thawed(value: object) -> object:
    if isinstance(value, tuple):
        return [_thawed(item) for item in value]
    return dict(value) if isinstance(value, dict) else value


def _frozen(value: object) -> object:
    return tuple(_frozen(item) for item in value) if isinstance(value, list | tuple) else value
