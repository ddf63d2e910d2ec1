"""Arithmetic that any subject may need: a best path through a field of scores. Knows no pictures."""
