"""Photographs of a case, and the phone's way in."""
