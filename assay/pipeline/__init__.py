"""The way of a photograph: open, scale, sort, align, place, measure, compare. No database, no web."""
