"""Framing: the sky around a frame, composing it, cutting it into panels, and keeping it."""

from functools import cache, partial
from typing import Annotated, Literal

import numpy as np
from django.db import transaction
from django.http import HttpRequest
from ninja import Router, Schema, Status
from ninja.pagination import paginate
from pydantic import Field

from widedusk.api.failures import FailureOut
from widedusk.api.removal import add_removal
from widedusk.api.schemas import Number, Text, Whole, user_of
from widedusk.api.targets import EntryOut
from widedusk.api.versions import ChangedOut, Version, to_change
from widedusk.core.catalogue.figures import BrightStar, figures
from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.framing.above import ecliptic
from widedusk.core.framing.angles import BARE_DEG, Angles, angles_of
from widedusk.core.framing.chart import chart
from widedusk.core.framing.compose import Composition, compose, composed_verdict, judged
from widedusk.core.framing.frame import Frame, Subject, sides_deg
from widedusk.core.framing.framing import Framing as CoreFraming
from widedusk.core.framing.panels import Grid, Panels, fewest, laid_verdict, share_covered
from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.parts import Lens, Rig
from widedusk.core.verdict import Verdict
from widedusk.records.kit.services import assembly_of, whole_rig_of
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.targets.framings import framings_of, keep_framing
from widedusk.records.targets.models import Framing, Target
from widedusk.records.targets.services import targets_of

router = Router(tags=["framing"])
Turn = Literal["rig", "any", "bracket"]
Hold = Literal["any", "landscape", "portrait"]
WITHIN_DEG: dict[Hold, tuple[float, float] | None] = {"any": None, "landscape": (-45.0, 45.0), "portrait": (45.0, 135.0)}


def assembly_asked(request: HttpRequest, number: int) -> Assembly:
    """A rig of this person's. Raises InvalidInput."""
    row = whole_rig_of(user_of(request), number)
    if row is None:
        raise InvalidInput([Fault("rig", number, f"You have no rig number {number}; choose one from the list.")])
    return assembly_of(row)


def _rig(request: HttpRequest, number: int) -> Rig:
    return assembly_asked(request, number).rig()


class ChartOut(Schema):
    """Stars as columns, from the brightest; colour BP − RP, none where it is not known."""

    ra_deg: list[float]
    dec_deg: list[float]
    magnitude: list[float]
    colour: list[float | None]
    faintest: float
    objects: list[EntryOut]


@router.get("/sky", response={200: ChartOut, 422: FailureOut})
def sky(request: HttpRequest, ra_deg: Number, dec_deg: Number, field_deg: Number = 20.0) -> ChartOut:
    """Stars and objects around a place."""
    found = chart(ra_deg, dec_deg, field_deg)
    return ChartOut(
        ra_deg=np.round(found.ra_deg, 4).tolist(),
        dec_deg=np.round(found.dec_deg, 4).tolist(),
        magnitude=np.round(found.magnitude, 1).tolist(),
        colour=[None if np.isnan(one) else round(float(one), 1) for one in found.colour],
        faintest=found.faintest,
        objects=[EntryOut.of(one) for one in found.objects],
    )


class NamedOut(Schema):
    name: str
    ra_deg: float
    dec_deg: float


class NamedStarOut(NamedOut):
    magnitude: float


class LinesOut(Schema):
    """What a chart always shows, ICRS degrees. lines: ra and dec of both ends; labels stand amid a constellation's figure."""

    lines: list[list[float]]
    labels: list[NamedOut]
    stars: list[NamedStarOut]  # those that have a name
    ecliptic: list[list[float]]


@cache
def _lines() -> LinesOut:
    book = figures()
    return LinesOut(
        lines=[[*_place(book.stars[a]), *_place(book.stars[b])] for a, b in book.lines],
        labels=[NamedOut(name=name, ra_deg=ra, dec_deg=dec) for name, ra, dec in book.labels],
        stars=[_named(one) for one in book.stars if one.name],
        ecliptic=np.round(ecliptic(), 2).tolist(),
    )


def _place(star: BrightStar) -> list[float]:
    return [round(star.ra_deg, 3), round(star.dec_deg, 3)]


def _named(star: BrightStar) -> NamedStarOut:
    ra, dec = _place(star)
    return NamedStarOut(name=star.name, ra_deg=ra, dec_deg=dec, magnitude=round(star.magnitude, 1))


@router.get("/figures", response=LinesOut)
def figure_lines(request: HttpRequest) -> LinesOut:
    """Figures and names of the constellations, named stars, the ecliptic."""
    return _lines()


class SubjectShape(Schema):
    """An ellipse on the sky that shall be in the picture."""

    name: Annotated[str, Field(max_length=120)]
    ra_deg: Number
    dec_deg: Number
    long_deg: Number = 0.0
    short_deg: Number | None = None
    angle_deg: Number = 0.0


Subjects = Annotated[list[SubjectShape], Field(max_length=60)]


def _subjects(given: list[SubjectShape], field: str = "subjects") -> list[Subject]:
    checks = Checks()
    found = [checks.of(partial(Subject, **one.dict()), f"{field}.{place}.") for place, one in enumerate(given)]
    checks.done()
    return [one for one in found if one is not None]


class FrameOut(Schema):
    """angle_deg: position angle of the upper edge, north through east."""

    ra_deg: float
    dec_deg: float
    angle_deg: float
    width_deg: float
    height_deg: float


def shown_frame(frame: Frame) -> FrameOut:
    return FrameOut(**frame.__dict__)


class ComposeIn(Schema):
    rig: int
    subjects: Subjects
    avoided: Annotated[list[SubjectShape], Field(max_length=5, default_factory=list)]  # halos that shall lie outside
    turn: Turn = "rig"
    hold: Hold = "any"


class ComposedOut(Schema):
    """margin_deg below nought: cut by so much. longest_mm: the longest focal length that holds all; none: even a point lens."""

    frame: FrameOut
    margin_deg: float
    margin_percent: float
    focal_mm: float
    longest_mm: float | None
    cut: list[str]
    let_in: list[str]
    verdict: Verdict


def _panels_that_do(found: Composition, subjects: list[Subject]) -> str:
    """The fewest panels that hold what one frame cuts; empty where nothing is cut, or no number does."""
    if not found.cut:
        return ""
    try:
        laid = fewest(found.frame, subjects)
    except InvalidInput:
        return ""
    columns, rows = (1 + max(getattr(one, name) for one in laid.panels) for name in ("column", "row"))
    return f"{columns} × {rows} panels would hold it whole." if columns * rows > 1 else ""


def _zoomed(assembly: Assembly, longest_mm: float | None) -> str:
    """What a zoom may be set to; empty for a lens of one length, and where it holds all at its long end."""
    lens = assembly.first(Lens)
    if lens is None or not lens.focal_long_mm or longest_mm is None or longest_mm < lens.focal_mm:
        return ""
    return f"Set the zoom to {min(longest_mm, lens.focal_long_mm):.0f} mm for the closest picture that holds all."


def _composed(found: Composition, assembly: Assembly, subjects: list[Subject]) -> ComposedOut:
    rig, count = assembly.rig(), len(subjects)
    longest = rig.lens.focal_mm * found.fits_up_to if np.isfinite(found.fits_up_to) else None
    longest = longest if longest is not None and longest < 20_000 else None
    also = [one for one in (_zoomed(assembly, longest), _panels_that_do(found, subjects)) if one]
    return ComposedOut(
        frame=shown_frame(found.frame),
        margin_deg=found.margin_deg,
        margin_percent=found.margin_share * 100,
        focal_mm=rig.lens.focal_mm,
        longest_mm=longest,
        cut=list(found.cut),
        let_in=list(found.let_in),
        verdict=composed_verdict(found, rig.lens.focal_mm, longest, count, also),
    )


@router.post("/compose", response={200: ComposedOut, 422: FailureOut})
def compose_it(request: HttpRequest, asked: ComposeIn) -> ComposedOut:
    """The frame that holds all that is wanted with the widest margin."""
    assembly = assembly_asked(request, asked.rig)
    rig = assembly.rig()
    subjects, avoided = _subjects(asked.subjects), _subjects(asked.avoided, "avoided")
    within = WITHIN_DEG[asked.hold]
    allowed = {"rig": angles_of(assembly).only_deg, "any": None, "bracket": BARE_DEG}[asked.turn]
    only = None if allowed is None else [one for one in allowed if within is None or within[0] <= one <= within[1]]
    found = compose(subjects, *sides_deg(rig), only, within if only is None else None, avoided)
    return _composed(found, assembly, subjects)


@router.get("/angles", response={200: Angles, 422: FailureOut})
def angles(request: HttpRequest, rig: int) -> Angles:
    """Which angles this rig can take, and why."""
    return angles_of(assembly_asked(request, rig))


class OnGrid(Schema):
    """A panel by its row from the top and column from the left, from nought."""

    row: int
    column: int


class FramingShape(Schema):
    name: Text
    ra_deg: Number
    dec_deg: Number
    angle_deg: Number = 0.0
    columns: Annotated[Whole, Field(ge=0, le=1000)] = 1
    rows: Annotated[Whole, Field(ge=0, le=1000)] = 1
    overlap: Number = 0.2
    grid: Grid = "turned"
    dropped: Annotated[list[OnGrid], Field(max_length=200, default_factory=list)]
    wanted: Annotated[list[SubjectShape], Field(max_length=60, default_factory=list)]
    avoided: Annotated[list[SubjectShape], Field(max_length=5, default_factory=list)]

    def core(self) -> CoreFraming:
        """Raises InvalidInput."""
        told = {name: getattr(self, name) for name in FramingShape.model_fields}
        dropped = tuple((one.row, one.column) for one in self.dropped)
        wanted, avoided = tuple(_subjects(self.wanted, "wanted")), tuple(_subjects(self.avoided, "avoided"))
        return CoreFraming(**{**told, "dropped": dropped, "wanted": wanted, "avoided": avoided})


class PanelsIn(FramingShape):
    """A framing, kept or not. fewest: columns and rows are found so that all that is wanted is seen."""

    rig: int
    fewest: bool = False


class PanelOut(Schema):
    row: int
    column: int
    dropped: bool
    frame: FrameOut


class PanelsOut(Schema):
    """In the order in which one axis moves at a time. covered_percent: of all that is wanted, by the panels that are kept."""

    columns: int
    rows: int
    grid: Grid
    overlap_percent: float
    covered_percent: float | None
    turn_deg: float  # the most that one panel is turned against another
    panels: list[PanelOut]
    cut: list[str]
    verdict: Verdict


def laid_as_asked(framing: CoreFraming, rig: Rig, find: bool) -> Panels:
    width, height = sides_deg(rig)
    if not find:
        return framing.panels(width, height)
    if not framing.wanted:
        raise InvalidInput([Fault("wanted", None, "Choose what the panels shall cover first.")])
    return fewest(framing.frame(width, height), framing.wanted, framing.overlap, framing.grid)


@router.post("/panels", response={200: PanelsOut, 422: FailureOut})
def panels(request: HttpRequest, asked: PanelsIn) -> PanelsOut:
    """The panels of a framing through a rig's lens."""
    rig = _rig(request, asked.rig)
    framing = asked.core()
    laid = laid_as_asked(framing, rig, asked.fewest)
    kept = laid.panels if asked.fewest else framing.kept(laid)
    angles = np.unwrap([np.radians(one.frame.angle_deg) for one in laid.panels])
    covered = [share_covered(kept, one) for one in framing.wanted]
    share = float(np.mean(covered)) if covered else None
    turn = float(np.degrees(np.ptp(angles)))
    return PanelsOut(
        columns=1 + max(one.column for one in laid.panels),
        rows=1 + max(one.row for one in laid.panels),
        grid=laid.grid,
        overlap_percent=laid.overlap * 100,
        covered_percent=None if share is None else share * 100,
        turn_deg=turn,
        verdict=laid_verdict(laid, kept, share, turn),
        panels=[
            PanelOut(row=one.row, column=one.column, dropped=one not in kept, frame=shown_frame(one.frame)) for one in laid.panels
        ],
        cut=list(judged(laid.panels[0].frame, framing.wanted).cut) if len(laid.panels) == 1 and framing.wanted else [],
    )


class FramingIn(FramingShape):
    target: int
    version: Version | None = None


class FramingOut(FramingShape):
    id: int
    version: int
    target_id: int

    @staticmethod
    def resolve_dropped(row: Framing) -> list[dict[str, int]]:
        return [{"row": line, "column": column} for line, column in row.dropped]


def target_asked(request: HttpRequest, number: int) -> Target:
    row = targets_of(user_of(request)).filter(pk=number).first()
    if row is None:
        raise InvalidInput([Fault("target", number, f"You have no target number {number}; choose one from the list.")])
    return row


@router.get("", response=list[FramingOut])
@paginate
def framings(request: HttpRequest) -> OwnedQuerySet[Framing]:
    """Your framings."""
    return framings_of(user_of(request))


@router.post("", response={201: FramingOut, 422: FailureOut})
def add_framing(request: HttpRequest, data: FramingIn) -> Status[Framing]:
    """Keep a framing of one of your targets."""
    return Status(201, keep_framing(user_of(request), target_asked(request, data.target), data.core()))


@router.put("/{int:record_id}", response={200: FramingOut, 422: FailureOut, 404: FailureOut, 409: ChangedOut})
@transaction.atomic
def change_framing(request: HttpRequest, record_id: int, data: FramingIn) -> Framing:
    """Change a framing."""
    row = to_change(framings_of(user_of(request)), record_id, data.version, FramingOut.from_orm)
    return keep_framing(user_of(request), target_asked(request, data.target), data.core(), row)


add_removal(router, "framing", Framing, framings_of, FramingOut)
