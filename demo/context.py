"""What every page of the demo has besides."""


def tour(_request) -> dict:
    """The tour is there."""
    return {"tour": True}
