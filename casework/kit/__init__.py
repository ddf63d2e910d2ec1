"""Bench card and size charts."""
