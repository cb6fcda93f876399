"""What the children of a web server find loaded: every reader of a file that comes in by a form."""

import widedusk.apart.readers
import widedusk.core.catalogue.tables
import widedusk.core.frames.read
import widedusk.core.grounds.horizon_file
import widedusk.core.grounds.places_file
import widedusk.core.kit.exchange  # noqa: F401
