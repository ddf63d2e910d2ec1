"""A file becomes a Picture; marks are carried from one picture to another."""
