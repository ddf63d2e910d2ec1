"""Round holes in a region: blobs, circles fitted to their rims, and what repeats where rims leave doubt."""
