"""The demo's records. Names are nicknames and plain descriptions; surface brightnesses are round figures from memory."""

from widedusk.core.choices import Choices
from widedusk.core.kit.parts import Camera, Carried, IsoStep, Lens, Rig, Tracker
from widedusk.core.scene import Target
from widedusk.records.grounds.services import PlaceInput, SpotInput

SPARROW = Rig(
    "Sparrow, wide and light",
    Camera(
        "Full-frame body, filter removed",
        620,
        35.9,
        23.9,
        5.97,
        28,
        42,
        0.03,
        (
            IsoStep(400, 6.1, 47_000),
            IsoStep(800, 3.9, 24_000),
            IsoStep(1600, 2.9, 12_000),
            IsoStep(3200, 2.6, 6_000),
            IsoStep(6400, 2.5, 3_000),
        ),
    ),
    Lens("35 mm, fast", 490, 35, 1.4, 2.8),
    Tracker("Small tracker", 3000, False, 24, 480, "inverted"),
    "ball head",
    2.4,
    (Carried("Ball head", 310), Carried("Dew heater and strap", 60), Carried("Plate and remote", 110)),
)

HERON = Rig(
    "Heron, long and sturdy",
    Camera(
        "Crop-sensor body",
        480,
        23.5,
        15.7,
        3.77,
        34,
        36,
        0.02,
        (IsoStep(200, 4.4, 24_000), IsoStep(400, 3.3, 12_000), IsoStep(800, 1.8, 6_100), IsoStep(1600, 1.6, 3_000)),
    ),
    Lens("180 mm telephoto", 980, 180, 2.8, 4),
    Tracker("Sturdy tracker", 5000, False, 11, 430, "upright"),
    "bracket",
    2.7,
    (
        Carried("Bracket", 430),
        Carried("Lens ring and long plate", 340),
        Carried("Dew heater and strap", 80),
        Carried("Cables", 60),
        Carried("Counterweight", 1000, True),
        Carried("Shaft", 180, True),
    ),
)

PLACES = (
    PlaceInput(
        "Kameldorn Flats",
        -24.62,
        16.94,
        1420,
        "Africa/Windhoek",
        21.85,
        (
            SpotInput(
                None,
                "by the water tank",
                ((0, 3), (60, 4), (95, 7), (120, 14), (140, 12), (165, 4), (200, 3), (250, 6), (290, 11), (320, 4)),
            ),
            SpotInput(
                None, "under the camel-thorn", ((0, 4), (70, 8), (85, 33), (110, 46), (150, 44), (160, 12), (200, 4), (300, 5))
            ),
        ),
    ),
    PlaceInput(
        "Harjula Mire",
        58.63,
        25.38,
        48,
        "Europe/Tallinn",
        21.3,
        (
            SpotInput(None, "end of the boardwalk", ((0, 6), (50, 5), (90, 4), (135, 5), (180, 6), (225, 7), (270, 9), (315, 8))),
            SpotInput(None, "birch edge", ((0, 22), (40, 24), (70, 18), (100, 8), (180, 6), (250, 16), (300, 26))),
        ),
    ),
)

TARGETS = (
    Target("Chamaeleon dark clouds", 166.5, -77.2, 9.0, 22.6),
    Target("Vela remnant filaments", 128.8, -45.6, 7.5, 22.9),
    Target("NGC 1532 and NGC 1531, a galaxy pair", 63.02, -32.87, 0.25, 21.8),
    Target("NGC 1499, the California Nebula", 60.2, 36.4, 2.5, 22.3),
)

PLAN_NAME = "Vela before the dawn"
PLAN_CHOICES = Choices(alignment_arcmin=4.0, moon_limit_mag=0.3)
