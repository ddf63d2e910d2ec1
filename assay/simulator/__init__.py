"""A stand-in for camera and bench: photographs of made-up shoes, with known truth.

``noise``       grain tiles (leather, suede, rubber, weave)
``materials``   what a surface is made of
``relief``      a height field with colour and gloss, onto which panels, rows of stitches and holes are laid
``shading``     light on a relief
``camera``      lens, sensor and file
``court_shoe``  the made-up court shoe, side out
``swatch``      a close-up with one row or one group of holes, for accuracy tables

The rest of the application never reads the truth that comes with a picture.
"""
