"""Compare two sets of photographs, without a release or a guide."""
