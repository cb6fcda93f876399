"""The patterns of four stars by which a picture is recognised: worked out once, at set-up, and read by every worker."""

from pathlib import Path

import tetra3rs

NARROWEST_DEG, WIDEST_DEG = 3.0, 80.0  # long side of what can be recognised


def build_patterns(path: Path) -> None:
    """Work the patterns out and write them: 67 MB, about a minute.

    The list's columns of proper motion hold other figures (see core/catalogue/stars.py), so no motion is applied.
    """
    book = tetra3rs.SolverDatabase.generate_from_gaia(
        max_fov_deg=WIDEST_DEG,
        min_fov_deg=NARROWEST_DEG,
        lattice_field_oversampling=10,
        patterns_per_lattice_field=30,
        verification_stars_per_fov=40,
        epoch_proper_motion_year=None,
    )
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".part")
    book.save_to_file(str(partial))
    partial.replace(path)


def load_patterns(path: Path) -> tetra3rs.SolverDatabase:
    """Read the patterns; 0.1 s. Raises OSError when set-up has not made them."""
    if not path.is_file():
        raise FileNotFoundError(f"{path} is missing. Start through ./wide-dusk, which makes it.")
    return tetra3rs.SolverDatabase.load_from_file(str(path))
