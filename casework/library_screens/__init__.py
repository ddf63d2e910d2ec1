"""The library on screen: makers, releases, verified pairs, known copies."""
