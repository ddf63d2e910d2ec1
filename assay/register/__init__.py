"""One picture laid onto another: features, matches, the map that most of them agree on, outlines, patterns."""
