"""Numbers in templates: see ``casework.figures``."""

from django import template

from casework import figures

register = template.Library()


@register.filter
def signed(value, places=0):
    """With its sign, a true minus, and so many decimals; nothing where there is no number."""
    return "" if value is None else figures.signed(float(value), int(places))
