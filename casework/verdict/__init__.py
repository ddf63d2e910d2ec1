"""The verdict page, signing, the house's rule."""
