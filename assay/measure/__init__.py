"""One file, one measure. A measure takes a picture, marks and settings and returns a Measurement, or raises
CannotMeasure.

Measures do not import each other. ``registry`` lists them: a new measure is one file here and one line there.
"""
