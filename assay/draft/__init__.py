"""Checks proposed from one photograph of a verified pair: what on it could be measured, and where the marks would lie.

Each finder takes a ``Scene`` and yields ``Proposal``s. Whether one is worth a check is decided by what its measure
reads on other verified pairs; nothing here is ever graded or weighed.
"""
