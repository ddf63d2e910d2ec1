"""Hostile files and malformed posts: nothing but an answer in words may come of them. ``make abuse`` runs many."""
