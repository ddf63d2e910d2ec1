"""Codes and labels."""
