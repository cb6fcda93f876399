"""What the children of a worker find loaded: what measures a picture. The patterns are not: their library starts threads."""

import widedusk.apart.readers
import widedusk.core.frames.frame
import widedusk.core.frames.lens_picture
import widedusk.core.frames.measure
import widedusk.core.frames.read  # noqa: F401
