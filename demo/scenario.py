"""The demo's records. Names are nicknames and plain descriptions; surface brightnesses are round figures from memory."""

from widedusk.core.choices import Choices
from widedusk.core.grounds.place import PlaceInput, SpotInput
from widedusk.core.kit.assembly import Assembly, Placed
from widedusk.core.kit.parts import (
    Adapter,
    BallHead,
    Band,
    Battery,
    Bracket,
    Camera,
    Counterweight,
    Filter,
    Guider,
    Heater,
    Hub,
    IsoStep,
    Lens,
    LensRing,
    Other,
    Plate,
    Shaft,
    StepDownRing,
    Timer,
    Tracker,
    Tripod,
    Wedge,
)
from widedusk.core.scene import Target

WIDE_BODY = Camera(
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
    hydrogen_percent=92,
    flange_mm=18.0,
)
CROP_BODY = Camera(
    "Crop-sensor body",
    480,
    23.5,
    15.7,
    3.77,
    34,
    36,
    0.02,
    (IsoStep(200, 4.4, 24_000), IsoStep(400, 3.3, 12_000), IsoStep(800, 1.8, 6_100), IsoStep(1600, 1.6, 3_000)),
    flange_mm=44.0,
)
WIDE_LENS = Lens("35 mm, fast", 490, 35, 1.4, 2.8, thread_mm=62, clear_mm=44, flange_mm=44.0)
LONG_LENS = Lens("180 mm telephoto", 980, 180, 2.8, 4, f_best_narrow=3.2, thread_mm=72, clear_mm=66, flange_mm=44.0)
SMALL_TRACKER = Tracker(
    "Small tracker",
    1050,
    3000,
    False,
    24,
    480,
    "inverted",
    "12-hour dial",
    rates="sidereal, half, solar, lunar",
    latitude_tick_deg=3,
)
STURDY_TRACKER = Tracker(
    "Sturdy tracker", 2350, 5000, False, 11, 430, "upright", "southern pattern", "RA only", latitude_base=True, volts=12, amps=0.25
)

# Everything in the inventory, in use or not.
SMALL_BATTERY = Battery("Power bank, small", 230, 37, max_amps=2.4)
FIELD_BATTERY = Battery("Field battery, 12 V", 1650, 154, volts=12, max_amps=10)
BODY_CELL, SPARE_CELL = (Battery(f"Camera cell {letter}", 60, 15, volts=7.2) for letter in "AB")
CROP_CELL, CROP_SPARE = (Battery(f"Crop body's cell {number}", 50, 12, volts=7.4) for number in (1, 2))
TRACKER_CELLS = Battery("Four AA cells", 95, 14, "alkaline", 6)
HUB = Hub("Splitter box", 120, 2, 3)
TRIPOD, LEGS = Tripod("Tripod, tall", 2400, 8000), Tripod("Short wooden legs", 3900, 15000)
WEDGE = Wedge("Latitude wedge", 820, 15, 65)
HEAD = BallHead("Ball head", 310, 4000)
HEATER, LONG_HEATER = Heater("Dew strap, short", 60), Heater("Dew strap, long", 80, 12, 7)
TIMER, OLD_TIMER = Timer("Intervalometer", 90), Timer("Old intervalometer", 110)
MOUNT_ADAPTER = Adapter("Mount adapter", 110, 26.0)
PLATE = Plate("Plate and remote holder", 110)
BRACKET = Bracket("Bracket", 430, 45)
LONG_RING = LensRing("Lens ring and long plate", 340)
WEIGHT, SHAFT = Counterweight("Counterweight", 1250, 20, 35), Shaft("Shaft", 180, 210, 19)
UNUSED = (
    Lens("Old zoom", 640, 70, 4, 6.3, 210, 5.6, thread_mm=55),
    Lens("85 mm portrait", 410, 85, 1.8, 3.2, thread_mm=67, clear_mm=47),
    StepDownRing("Ring 43", 20, 43),
    Filter("Dual-band filter", 35, 2.0, 1.52, 1.6, "in front", (Band(495, 505), Band(651, 661))),
    Guider("Guide scope and camera", 420, 130),
    Counterweight("Second weight", 700, 20, 25),
    Other("Folding chair", 1300, True),
    OLD_TIMER,
)

SPARROW = Assembly(
    "Sparrow, wide and light",
    (
        Placed(WIDE_BODY, 58, -18, fed_by="Camera cell A"),
        Placed(MOUNT_ADAPTER, 58, 14),
        Placed(WIDE_LENS, 58, 48),
        Placed(HEATER, 58, 70, fed_by="Power bank, small"),
        Placed(PLATE, 25),
        Placed(HEAD, 30),
        Placed(SMALL_TRACKER, carried=False, fed_by="Four AA cells"),
        Placed(WEDGE, carried=False),
        Placed(TRIPOD, carried=False),
        Placed(BODY_CELL, carried=False),
        Placed(SPARE_CELL, carried=False),
        Placed(SMALL_BATTERY, carried=False),
        Placed(TRACKER_CELLS, carried=False),
        Placed(TIMER, carried=False),
    ),
    2.4,
)
HERON = Assembly(
    "Heron, long and sturdy",
    (
        Placed(CROP_BODY, 96, -62, fed_by="Crop body's cell 1"),
        Placed(LONG_LENS, 96, 52),
        Placed(LONG_HEATER, 96, 118, fed_by="Splitter box"),
        Placed(LONG_RING, 92, 20),
        Placed(BRACKET, 8),
        Placed(SHAFT, -150),
        Placed(WEIGHT, -128),
        Placed(STURDY_TRACKER, carried=False, fed_by="Splitter box"),
        Placed(LEGS, carried=False),
        Placed(CROP_CELL, carried=False),
        Placed(CROP_SPARE, carried=False),
        Placed(HUB, carried=False, fed_by="Field battery, 12 V"),
        Placed(FIELD_BATTERY, carried=False),
        Placed(TIMER, carried=False),
    ),
    2.7,
)
PARTS = (*{one.name: one.part for rig in (SPARROW, HERON) for one in rig.placed}.values(), *UNUSED)

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
        "Ask at the farmhouse by noon; close both gates behind you. No lights towards the house after ten.",
        "Scorpions under the stones, soft sand beside the track, no telephone signal.",
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
        "Open to all on foot; the car stays at the lay-by. Campfires only where marked.",
        "Wet and slippery boards; keep off the moss.",
    ),
)

TARGETS = (
    Target("Chamaeleon dark clouds", 166.5, -77.2, 9.0, 22.6, 5.0, 100, "dark cloud", "continuum", "", "Cha"),
    Target("Vela remnant filaments", 128.8, -45.6, 7.5, 22.9, 7.0, 0, "supernova remnant", "lines", "Gum 16", "Vel"),
    Target("NGC 1532 and NGC 1531, a galaxy pair", 63.02, -32.87, 0.25, 21.8, 0.1, 33, "galaxy group", "continuum", "", "Eri"),
    Target("NGC 1499, the California Nebula", 60.2, 36.4, 2.5, 22.3, 0.7, 115, "emission nebula", "lines", "Sh2-220", "Per"),
)

TRIP_NAME = "Three nights at the flats"
LIVED_TRIP_NAME = "The last trip to the flats"
PLAN_NAME = "Vela before the dawn"
PLAN_CHOICES = Choices(alignment_arcmin=4.0, moon_limit_mag=0.3)
