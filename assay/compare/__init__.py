"""Two descriptors in, a distance and where it lies out. One file a kind of descriptor."""
