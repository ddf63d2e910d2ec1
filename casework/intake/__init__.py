"""The facts of a case."""
