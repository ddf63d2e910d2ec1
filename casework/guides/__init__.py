"""Guides: drawing checks, trying and changing them."""
