"""A sky, a tracker and a camera that do not exist, to hold the measuring against.

Nothing of `core/sky`, `core/pole` or `core/frames` is used here: places come from ERFA's own observed places, refraction from
its own constants, and all vectors are written in a north-west-up frame. A sign that is wrong there cannot cancel here.
"""
