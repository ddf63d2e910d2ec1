"""Rows of stitches along a path: the straightened strip, its periods, the row, its ends, a stitch's shape."""
