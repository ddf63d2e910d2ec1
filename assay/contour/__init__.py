"""The outer contour of a thing: boundary steps, the way round, gaps in it, and how it stands."""
