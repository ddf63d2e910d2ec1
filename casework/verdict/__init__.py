"""The verdict page, signing, the shop's rule."""
