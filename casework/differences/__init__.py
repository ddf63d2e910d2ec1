"""Differences that no check names: pointers for the eye."""
