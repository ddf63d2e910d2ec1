"""The measuring and judging core: pictures in, readings and grades out.

``contracts``  what passes between the parts: Picture, Marks, Stroke, Measurement
``errors``     what can go wrong, as reason codes and numbers (sentences are made elsewhere)
``photo``      a file becomes a Picture; marks are carried over; strips along a path and what repeats in them
``measure``    one file, one measure; ``measure.registry`` lists them
``paperwork``  codes and labels
``judge``      spread, grade, rules, applicability
``simulator``  a stand-in for camera and bench: photographs of made-up shoes with known truth
"""
