"""Errors of the core: a reason code and its numbers, never a sentence for users."""


class AssayError(ValueError):
    """Something cannot be done with what was given."""

    def __init__(self, reason: str, **numbers: float | str) -> None:
        """Keep the reason code, such as ``"too_few_pixels"``, and the numbers that explain it."""
        super().__init__(reason)
        self.reason = reason
        self.numbers = numbers


class CannotOpen(AssayError):
    """The file is not a photograph that can be read."""


class CannotAlign(AssayError):
    """Marks cannot be carried from the reference photograph to this one."""


class CannotMeasure(AssayError):
    """The measure has no honest answer on this picture with these marks."""


class CannotJudge(AssayError):
    """There is not enough, or nothing comparable, to judge by."""
