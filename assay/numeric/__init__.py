"""Arithmetic that any subject may need: quantiles, a best path, peaks, circles, lines. Knows no pictures."""
