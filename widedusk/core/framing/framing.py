"""A framing as a person keeps it: centre and angle on a target, what shall be in it, and how it is cut into panels."""

from dataclasses import dataclass

from widedusk.core.errors import Checks
from widedusk.core.framing.frame import Frame, Subject
from widedusk.core.framing.panels import USUAL_OVERLAP, Grid, Panel, Panels, counted, lay

MOST_WANTED = 60


@dataclass(frozen=True)
class Framing:
    """ICRS centre; angle_deg: position angle of the upper edge. dropped: (row, column) of panels that are left out."""

    name: str
    ra_deg: float
    dec_deg: float
    angle_deg: float = 0.0
    columns: int = 1
    rows: int = 1
    overlap: float = USUAL_OVERLAP
    grid: Grid = "turned"
    dropped: tuple[tuple[int, int], ...] = ()
    wanted: tuple[Subject, ...] = ()
    avoided: tuple[Subject, ...] = ()  # bright stars with their halos, to be kept out

    def __post_init__(self) -> None:
        checks = Checks()
        checks.named("name", self.name)
        checks.of(lambda: Frame(self.ra_deg, self.dec_deg, self.angle_deg, 1.0, 1.0))
        checks.of(lambda: counted(self.columns, self.rows, self.overlap))
        for row, column in self.dropped:
            if not (0 <= row < self.rows and 0 <= column < self.columns):
                told = f"Row {row + 1}, column {column + 1} is no panel of {self.columns} × {self.rows}; leave out one that is."
                checks.fault("dropped", [row, column], told)
                break
        if len(self.wanted) > MOST_WANTED:
            checks.fault("wanted", len(self.wanted), f"Up to {MOST_WANTED} things can be wanted in one picture.")
        checks.done()

    def frame(self, width_deg: float, height_deg: float) -> Frame:
        """Its middle as one frame of these sides."""
        return Frame(self.ra_deg, self.dec_deg, self.angle_deg, width_deg, height_deg)

    def panels(self, width_deg: float, height_deg: float) -> Panels:
        """All of its panels through a lens whose frame has these sides. Raises InvalidInput."""
        return lay(self.frame(width_deg, height_deg), self.columns, self.rows, self.overlap, self.grid)

    def kept(self, laid: Panels) -> tuple[Panel, ...]:
        """Those of the panels that are not left out."""
        return tuple(one for one in laid.panels if (one.row, one.column) not in self.dropped)
