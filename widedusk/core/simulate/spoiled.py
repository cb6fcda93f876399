"""Runs that went wrong in a known way: a scene, what happens to each frame, and which frames that spoils.

How strong a cause is, is drawn in pixels of the camera at hand, so that it shows at every focal length. Names of causes are those
of the trade's list; `NONE_OF_THESE` are things that no list holds and that a judge must not guess at.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

import numpy as np

from widedusk.core.simulate.camera import Camera, Lens, Pointing, Sensor
from widedusk.core.simulate.mount import Floats, Mount, Site
from widedusk.core.simulate.series import Glass, Happening, Scene, Streak

GOOD = "good"
NONE_OF_THESE = "none of these"
SIDEREAL_ARCSEC_S = 15.041
Rng = np.random.Generator


@dataclass(frozen=True)
class Spoiled:
    """causes: each with the frames it acts on. expected_fwhm_px: what this lens gives."""

    scene: Scene
    happenings: Sequence[Happening]
    causes: dict[str, frozenset[int]]
    expected_fwhm_px: float
    clip_e: float  # at which the picture is white
    cleared: Floats  # share of starlight that comes through, by frame
    temperature_c: Floats  # of the air, by frame


def any_scene(rng: Rng, focal_mm: float, south: bool, exposure_s: float) -> Scene:
    """Anywhere with a pole above the ground, looking 35° to 70° up, far enough from the pole that the sky moves."""
    while True:
        site = Site(float((-1 if south else 1) * rng.uniform(18, 58)), float(rng.uniform(-180, 180)), float(rng.uniform(0, 2000)))
        month = 6 if south else 12
        start = datetime(2026, month, 10, tzinfo=UTC) + timedelta(hours=float(rng.uniform(-3, 1)) - site.longitude_deg / 15.0)
        # A long lens on a small sensor, a short one on a large: fields from 35° down to three degrees and a half.
        width_mm = float(np.clip(focal_mm * rng.uniform(0.28, 0.45), focal_mm * 0.062, 36.0))
        sensor = Sensor(1200, 800, width_mm * 1000 / 1200)
        stops = [2.0, 2.8, 4.0] if focal_mm < 180 else [4.0, 5.6]
        lens = Lens(
            focal_mm, float(rng.choice(stops)), float(rng.uniform(-0.002, 0.002)), float(rng.uniform(2.2, 3.2)),
            float(rng.uniform(0.5, 0.8)),
        )  # fmt: skip
        sensor = replace(sensor, read_noise_e=3.0 * sensor.pitch_um / 6.0)  # as if small pixels were added up
        camera = Camera(sensor, lens, float(rng.uniform(20.3, 21.8)), extinction_mag=float(rng.uniform(0.12, 0.3)))
        error, heading = rng.uniform(0, 1), rng.uniform(0, 2 * np.pi)
        px = 206.265 * sensor.pitch_um / focal_mm
        most = 0.25 * px / (np.radians(1 / 60) * SIDEREAL_ARCSEC_S * exposure_s)  # a quarter of a pixel a frame
        mount = Mount(
            site, float(error * most * np.cos(heading)), float(error * most * np.sin(heading)),
            float(rng.uniform(0.0, 0.25) * px), float(rng.uniform(430, 640)), float(rng.uniform(0, 6.28)),
        )  # fmt: skip
        pointing = Pointing(float(rng.uniform(38, 68)), float(rng.uniform(0, 360)), float(rng.uniform(0, 360)))
        scene = Scene(camera, mount, pointing, start, exposure_s, float(rng.uniform(1, 6)))
        _, dec = scene.direction(0.0)
        if abs(np.degrees(dec)) < 62:
            return scene


def px_arcsec(scene: Scene) -> float:
    return 206.265 * scene.camera.sensor.pitch_um / scene.camera.lens.focal_mm


def _walk(rng: Rng, count: int, size: float) -> Floats:
    """A path that jumps about, as wind makes it: a swing one way with hooks."""
    way = rng.uniform(0, 2 * np.pi)
    along, across = np.cumsum(rng.normal(0, 1, count)), np.cumsum(rng.normal(0, 1, count))
    along, across = along - along.mean(), across - across.mean()
    along *= size / max(float(np.std(along)), 1e-6)
    across *= 0.3 * size / max(float(np.std(across)), 1e-6)
    return np.stack([along * np.cos(way) - across * np.sin(way), along * np.sin(way) + across * np.cos(way)], axis=1)


def _slow(rng: Rng, count: int, size: float) -> Floats:
    """The ordinary unrest of a frame: a small fraction of a pixel."""
    return rng.normal(0, size, 2)[None, :] + np.zeros((count, 2))


Plan = tuple[Scene, list[Happening], dict[str, frozenset[int]]]


def _plain(rng: Rng, count: int) -> list[Happening]:
    return [Happening(path=_slow(rng, 1, 0.06), clear=float(1.0 - abs(rng.normal(0, 0.01)))) for _ in range(count)]


def _from(first: int, count: int) -> frozenset[int]:
    return frozenset(range(first, count))


def _good(rng: Rng, scene: Scene, count: int) -> Plan:
    return scene, _plain(rng, count), {}


def _worm(rng: Rng, scene: Scene, count: int) -> Plan:
    """Half amplitude such that the fastest frame is trailed by 4 to 8 px: within what the trade's small trackers do."""
    _, dec = scene.direction(0.0)
    period = float(rng.uniform(430, 640))
    trail = rng.uniform(4.5, 8.0) * px_arcsec(scene) / np.cos(dec)
    amplitude = trail / (2 * np.pi * scene.exposure_s / period)
    mount = replace(scene.mount, pe_half_amplitude_arcsec=float(amplitude), pe_period_s=period)
    return replace(scene, mount=mount), _plain(rng, count), {"worm": frozenset(range(count))}


def _axis(rng: Rng, scene: Scene, count: int) -> Plan:
    """An axis off far enough that every frame is trailed by 3.5 to 7 px."""
    wanted = rng.uniform(3.6, 7.0) * px_arcsec(scene)
    heading = float(rng.uniform(0, 2 * np.pi))
    for _ in range(60):
        off = float(wanted / (np.radians(1 / 60) * SIDEREAL_ARCSEC_S * scene.exposure_s))
        mount = replace(scene.mount, altitude_arcmin=float(off * np.cos(heading)), azimuth_arcmin=float(off * np.sin(heading)))
        tried = replace(scene, mount=mount)
        moved = _moved(tried, 0.0, scene.exposure_s) / px_arcsec(scene)
        if 3.4 < moved < 8.0:
            break
        heading += 0.7
        wanted *= 1.03
    return tried, _plain(rng, count), {"axis": frozenset(range(count))}


def _moved(scene: Scene, begins: float, seconds: float) -> float:
    """Arcseconds by which the middle of the picture moves over the stars."""
    (ra1, dec1), (ra2, dec2) = scene.direction(begins), scene.direction(begins + seconds)
    return float(np.degrees(np.hypot((ra2 - ra1) * np.cos(dec1), dec2 - dec1)) * 3600)


def _stopped(rng: Rng, scene: Scene, count: int) -> Plan:
    first = int(rng.integers(0, count // 2)) if rng.random() < 0.7 else 0
    stops = scene.begins_s(first) if first else 0.0
    scene = _short_enough(replace(scene, stops_s=stops))
    return replace(scene, stops_s=scene.begins_s(first) if first else 0.0), _plain(rng, count), {"stopped": _from(first, count)}


def _short_enough(scene: Scene, most_px: float = 60.0) -> Scene:
    """An exposure in which a camera that stands still makes trails of 12 to most_px."""
    most = most_px * px_arcsec(scene) / SIDEREAL_ARCSEC_S
    least = 14.0 * px_arcsec(scene) / SIDEREAL_ARCSEC_S
    return replace(scene, exposure_s=float(np.clip(scene.exposure_s, least, most)))


def _hemisphere(rng: Rng, scene: Scene, count: int) -> Plan:
    scene = _short_enough(replace(scene, drive_rate=-1.0), 30.0)
    return scene, _plain(rng, count), {"hemisphere": frozenset(range(count))}


def _rate(rng: Rng, scene: Scene, count: int) -> Plan:
    """Lunar where that shows, else half rate."""
    _, dec = scene.direction(0.0)
    lunar = 0.0366 * SIDEREAL_ARCSEC_S * scene.exposure_s * np.cos(dec) / px_arcsec(scene)
    rate = 1.0 - 0.0366 if 3.4 < lunar < 30.0 else 0.5
    scene = replace(scene, drive_rate=rate)
    if rate == 0.5:
        scene = _short_enough(scene, 60.0)
    return scene, _plain(rng, count), {"rate": frozenset(range(count))}


def _wind(rng: Rng, scene: Scene, count: int) -> Plan:
    found, hit = _plain(rng, count), set()
    for place in range(count):
        strong = rng.random() < 0.55
        size = rng.uniform(1.6, 3.5) if strong else rng.uniform(0.1, 0.5)
        found[place] = replace(found[place], path=_walk(rng, 24, float(size)) + rng.normal(0, 0.4 * size, 2))
        if strong:
            hit.add(place)
    return scene, found, {"wind": frozenset(hit)}


def _knock(rng: Rng, scene: Scene, count: int) -> Plan:
    at = int(rng.integers(3, count - 3))
    away, way, when = rng.uniform(6, 25), rng.uniform(0, 2 * np.pi), rng.uniform(0.25, 0.75)
    jump = away * np.array([np.cos(way), np.sin(way)])
    found = _plain(rng, count)
    moments = 60
    path = np.where((np.arange(moments) / moments > when)[:, None], jump[None, :], 0.0)
    swing = np.exp(-np.maximum(np.arange(moments) - when * moments, 0) / 4.0) * (np.arange(moments) / moments > when)
    found[at] = replace(found[at], path=path + swing[:, None] * np.array([-np.sin(way), np.cos(way)]) * 0.3 * away)
    for later in range(at + 1, count):
        found[later] = replace(found[later], path=found[later].path + jump)
    return scene, found, {"knock": frozenset({at})}


def _creep(rng: Rng, scene: Scene, count: int) -> Plan:
    """Faster and faster one way: a few pixels a frame at the end."""
    last, way = rng.uniform(4.5, 9.0), rng.uniform(0, 2 * np.pi)
    power = rng.uniform(2.0, 3.2)
    end = last * count / power  # so that the last frame moves by `last`
    found = _plain(rng, count)
    hit = set()
    for place in range(count):
        share = (place + np.linspace(0.0, 1.0, 12)) / count
        path = (end * share**power)[:, None] * np.array([np.cos(way), np.sin(way)])
        found[place] = replace(found[place], path=path)
        if float(np.ptp(end * share**power)) > 2.5:
            hit.add(place)
    return scene, found, {"creep": frozenset(hit)}


def _rising(count: int, first: int, power: float = 1.0) -> Floats:
    return np.clip((np.arange(count) - first) / max(count - 1 - first, 1), 0.0, 1.0) ** power


def _focus(rng: Rng, scene: Scene, count: int) -> Plan:
    growth = rng.uniform(1.6, 2.6) * _rising(count, int(rng.integers(0, count // 4)))
    found = [replace(one, blur_px=float(blur)) for one, blur in zip(_plain(rng, count), growth, strict=True)]
    return scene, found, {"focus crept": frozenset(int(one) for one in np.flatnonzero(growth > 0.6))}


def _out_of_focus(rng: Rng, scene: Scene, count: int) -> Plan:
    disc = float(rng.uniform(4.0, 7.5))
    return scene, [replace(one, disc_px=disc) for one in _plain(rng, count)], {"out of focus": frozenset(range(count))}


def _dew(rng: Rng, scene: Scene, count: int) -> Plan:
    first = int(rng.integers(count // 5, count // 2))
    wet = _rising(count, first, rng.uniform(0.8, 1.4))
    deep, fat, halo = rng.uniform(0.35, 0.65), rng.uniform(1.2, 2.2), rng.uniform(0.25, 0.5)
    found = [
        replace(one, clear=one.clear * (1 - deep * w), blur_px=fat * w, halo=halo * w, sky=1.0 + 0.15 * w)
        for one, w in zip(_plain(rng, count), wet, strict=True)
    ]
    return scene, found, {"dew": frozenset(int(one) for one in np.flatnonzero(wet > 0.2))}


def _cloud(rng: Rng, scene: Scene, count: int) -> Plan:
    found = _plain(rng, count)
    hit: set[int] = set()
    for _ in range(int(rng.integers(1, 3))):
        middle, half, deep = rng.uniform(0.2, 0.75) * count, rng.uniform(1.2, count / 8), rng.uniform(0.45, 0.9)
        towards, phase = rng.uniform(0, 2 * np.pi), rng.uniform(0, 2 * np.pi)
        lit = rng.uniform(-0.15, 0.6)  # darker where there is no town below, brighter where there is
        for place in range(count):
            thick = deep * np.exp(-0.5 * ((place - middle) / half) ** 2)
            if thick > 0.05:
                one = found[place]
                found[place] = replace(
                    one,
                    clear=one.clear * (1 - thick),
                    patches=(float(0.5 * thick), towards, phase + 0.9 * (place - middle)),
                    sky=one.sky * (1 + lit * thick),
                )
            if thick > 0.2:
                hit.add(place)
    return scene, found, {"cloud": frozenset(hit)}


def _haze(rng: Rng, scene: Scene, count: int) -> Plan:
    deep, lit = rng.uniform(0.4, 0.7), rng.uniform(0.1, 0.8)
    thick = deep * _rising(count, int(rng.integers(0, count // 3)), rng.uniform(0.8, 1.5))
    found = [replace(one, clear=one.clear * (1 - t), sky=1 + lit * t) for one, t in zip(_plain(rng, count), thick, strict=True)]
    return scene, found, {"haze": frozenset(int(one) for one in np.flatnonzero(thick > 0.15))}


def _low(rng: Rng, scene: Scene, count: int) -> Plan:
    hidden = rng.uniform(0.3, 0.6) * _rising(count, int(rng.integers(count // 5, count // 2)))
    found = [replace(one, hidden=float(share)) for one, share in zip(_plain(rng, count), hidden, strict=True)]
    return scene, found, {"obstructed": frozenset(int(one) for one in np.flatnonzero(hidden > 0.05))}


def _moon(rng: Rng, scene: Scene, count: int) -> Plan:
    """Told beside it: that Sun or Moon is up."""
    bright = rng.uniform(2.0, 6.0) * _rising(count, int(rng.integers(0, count // 2)), rng.uniform(1.0, 2.0))
    way = rng.uniform(0, 2 * np.pi)
    found = [
        replace(one, sky=float(1 + b), slope=(0.15 * np.cos(way) * b / (1 + b), 0.15 * np.sin(way) * b / (1 + b)))
        for one, b in zip(_plain(rng, count), bright, strict=True)
    ]
    return scene, found, {"moon": frozenset(int(one) for one in np.flatnonzero(bright > 0.4))}


def _lamp(rng: Rng, scene: Scene, count: int) -> Plan:
    found, hit = _plain(rng, count), set()
    for _ in range(int(rng.integers(1, 4))):
        at, much, way = int(rng.integers(1, count - 1)), rng.uniform(1.0, 5.0), rng.uniform(0, 2 * np.pi)
        found[at] = replace(found[at], sky=1 + much, slope=(float(0.6 * np.cos(way)), float(0.6 * np.sin(way))))
        hit.add(at)
    return scene, found, {"lamp": frozenset(hit)}


def _settings(rng: Rng, scene: Scene, count: int) -> Plan:
    at, gain = int(rng.integers(3, count - 3)), float(rng.choice([0.5, 0.35, 0.25, 1.6, 2.0]))
    found = _plain(rng, count)
    for later in range(at, count):
        found[later] = replace(found[later], gain=gain)
    return scene, found, {"settings": _from(at, count)}


def _coma(rng: Rng, scene: Scene, count: int) -> Plan:
    glass = Glass(coma_px=float(rng.uniform(2.2, 4.5)))
    return replace(scene, glass=glass), _plain(rng, count), {"coma": frozenset(range(count))}


def _tilt(rng: Rng, scene: Scene, count: int) -> Plan:
    glass = Glass(soft_px=float(rng.uniform(2.2, 4.0)), soft_towards_deg=float(rng.uniform(0, 360)))
    return replace(scene, glass=glass), _plain(rng, count), {"tilt": frozenset(range(count))}


def _rotation(rng: Rng, scene: Scene, count: int) -> Plan:
    """Guided on a star in a corner or beyond, about which the field turns: 3.5 to 8 px at the far end in each frame."""
    about = (float(rng.uniform(300, 700) * rng.choice([-1, 1])), float(rng.uniform(200, 450) * rng.choice([-1, 1])))
    far = float(np.hypot(abs(about[0]) + 600, abs(about[1]) + 400))
    turn = float(np.degrees(rng.uniform(5.0, 9.0) / far)) * float(rng.choice([-1, 1]))
    rest = scene.gap_s / scene.exposure_s
    found = [
        replace(one, turn_deg=(turn * number * (1 + rest), turn * (number * (1 + rest) + 1)), about=about)
        for number, one in enumerate(_plain(rng, count))
    ]
    return replace(scene, guided=True), found, {"rotation": frozenset(range(count))}


def _cap(rng: Rng, scene: Scene, count: int) -> Plan:
    first = 0 if rng.random() < 0.5 else int(rng.integers(2, count - 3))
    found = _plain(rng, count)
    for place in range(first, count):
        found[place] = replace(found[place], capped=True)
    return scene, found, {"cap": _from(first, count)}


def streak_of(rng: Rng, kind: str, scene: Scene) -> Streak:
    """A line right across (satellite, aircraft) or one inside the picture (meteor)."""
    sensor = scene.camera.sensor
    width, height = sensor.width_px, sensor.height_px
    aperture = np.pi / 4 * (scene.camera.lens.focal_mm / 10 / scene.camera.lens.f_number) ** 2
    sky = 1e4 * 10 ** (-0.4 * scene.camera.sky_mag) * px_arcsec(scene) ** 2 * aperture * sensor.band_nm * scene.exposure_s
    light = float(np.sqrt(sky) * 2.5 * scene.camera.lens.fwhm_px / 2.35 * rng.uniform(6.0, 20.0))
    angle = rng.uniform(0, np.pi)
    middle = np.array([rng.uniform(-0.3, 0.3) * width, rng.uniform(-0.3, 0.3) * height])
    half = width if kind != "meteor" else rng.uniform(0.12, 0.25) * width
    reach = half * np.array([np.cos(angle), np.sin(angle)])
    start, end = middle - reach, middle + reach
    dots = int(rng.integers(30, 60)) if kind == "aircraft" else 0
    return Streak((float(start[0]), float(start[1])), (float(end[0]), float(end[1])), light, dots, kind == "meteor")


def _streak(kind: str) -> Callable[[Rng, Scene, int], Plan]:
    def plan(rng: Rng, scene: Scene, count: int) -> Plan:
        at, found = int(rng.integers(0, count)), _plain(rng, count)
        found[at] = replace(found[at], streak=streak_of(rng, kind, scene))
        return scene, found, {kind: frozenset({at})}

    return plan


def _unlisted(rng: Rng, scene: Scene, count: int) -> Plan:
    """A ghost beside every star, or stars drawn out by the glass all over, or light that comes and goes by turns."""
    kind = int(rng.integers(0, 3))
    found = _plain(rng, count)
    if kind == 0:
        way = rng.uniform(0, 2 * np.pi)
        ghost = (float(5.5 * np.cos(way)), float(5.5 * np.sin(way)))
        found = [replace(one, ghost_px=ghost) for one in found]
    elif kind == 1:
        scene = replace(scene, glass=Glass(astigmatism_px=float(rng.uniform(1.6, 2.6)), astigmatism_deg=float(rng.uniform(0, 180))))
    else:
        found = [replace(one, gain=1.0 if place % 2 else 0.45) for place, one in enumerate(found)]
    return scene, found, {NONE_OF_THESE: frozenset(range(count))}


PLANS: dict[str, Callable[[Rng, Scene, int], Plan]] = {
    GOOD: _good,
    "worm": _worm,
    "axis": _axis,
    "stopped": _stopped,
    "hemisphere": _hemisphere,
    "rate": _rate,
    "wind": _wind,
    "knock": _knock,
    "creep": _creep,
    "focus crept": _focus,
    "out of focus": _out_of_focus,
    "dew": _dew,
    "cloud": _cloud,
    "haze": _haze,
    "obstructed": _low,
    "moon": _moon,
    "lamp": _lamp,
    "settings": _settings,
    "coma": _coma,
    "tilt": _tilt,
    "rotation": _rotation,
    "cap": _cap,
    "satellite": _streak("satellite"),
    "aircraft": _streak("aircraft"),
    "meteor": _streak("meteor"),
    NONE_OF_THESE: _unlisted,
}


SHOWS_FROM_MM = {"worm": 85.0, "axis": 100.0, "rate": 85.0, "stopped": 35.0, "hemisphere": 35.0}  # at a tracker's own faults


def spoiled(rng: Rng, cause: str, focal_mm: float, south: bool, count: int = 24, exposure_s: float = 60.0) -> Spoiled:
    """A run of `count` frames with one cause. focal_mm: at least so long that a real tracker can show the cause."""
    focal_mm = max(focal_mm, SHOWS_FROM_MM.get(cause, 0.0))
    scene, happenings, causes = PLANS[cause](rng, any_scene(rng, focal_mm, south, exposure_s), count)
    cleared = np.array([one.clear for one in happenings])
    cooler = 14.0 - np.cumsum(np.abs(rng.normal(0.12, 0.05, count)))
    fwhm = float(np.hypot(scene.camera.lens.fwhm_px, 0.68))
    return Spoiled(scene, happenings, causes, fwhm, _clip_e(rng, scene), cleared, cooler)


def _clip_e(rng: Rng, scene: Scene) -> float:
    """Sky at three to fifteen in a hundred, yet stars of magnitude 8.5 not white."""
    camera = scene.camera
    aperture = np.pi / 4 * (camera.lens.focal_mm / 10 / camera.lens.f_number) ** 2
    catch = 1e4 * aperture * camera.sensor.band_nm * scene.exposure_s
    sky = catch * 10 ** (-0.4 * camera.sky_mag) * px_arcsec(scene) ** 2
    peak = catch * 10 ** (-0.4 * 8.5) / (2 * np.pi * (camera.lens.fwhm_px / 2.35) ** 2)
    return float(max(sky / rng.uniform(0.03, 0.15), peak * rng.uniform(1.0, 1.6)))
