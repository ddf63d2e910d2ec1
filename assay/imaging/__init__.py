"""A file becomes a Picture: opened, halved, given its scale, its light, its foreground, its view."""
