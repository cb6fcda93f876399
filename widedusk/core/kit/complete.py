"""What the rig cannot do without and does not have."""

from dataclasses import dataclass

from widedusk.core.kit.assembly import Assembly
from widedusk.core.kit.parts import Battery, Camera, Counterweight, Hub, Lens, Shaft, Timer, Tracker, Tripod, Wedge
from widedusk.core.verdict import Level, Quantity, Verdict, Working, joined


@dataclass(frozen=True)
class Lack:
    what: str
    cure: str
    fatal: bool  # without it there is no night


def _kit(assembly: Assembly) -> list[Lack]:
    wanted = [Lack(f"no {kind.KIND}", f"add a {kind.KIND}", True) for kind in (Camera, Lens, Tripod) if not assembly.all(kind)]
    if not assembly.all(Timer):
        wanted.append(Lack("no intervalometer", "add a timer, or one inside the camera as a timer of 0 g", True))
    if assembly.all(Counterweight) and not assembly.all(Shaft):
        wanted.append(Lack("no shaft for the counterweight", "add the shaft; its mass counts", False))
    return wanted


def _latitude(assembly: Assembly, latitude_deg: float) -> list[Lack]:
    tracker, wedge = assembly.first(Tracker), assembly.first(Wedge)
    if tracker is None or tracker.latitude_base:
        return []
    if wedge is None:
        return [Lack("nothing sets the latitude", "add a wedge, or tell that the tracker has its own base", True)]
    if not wedge.latitude_low_deg <= abs(latitude_deg) <= wedge.latitude_high_deg:
        what = f"{wedge.name} does not reach {abs(latitude_deg):.0f}°"
        return [Lack(what, f"it goes from {wedge.latitude_low_deg:g}° to {wedge.latitude_high_deg:g}°", True)]
    return []


def _current(assembly: Assembly) -> list[Lack]:
    """Loads that no battery reaches."""
    found = []
    for one in assembly.placed:
        if one.part.draw() is None:
            continue
        supply = assembly.named(one.fed_by) if one.fed_by else None
        if supply is not None and isinstance(supply.part, Hub):
            supply = assembly.named(supply.fed_by) if supply.fed_by else None
        if supply is None or not isinstance(supply.part, Battery):
            found.append(Lack(f"{one.name} has no supply", "choose a battery or hub in its row", True))
    return found


def lacks(assembly: Assembly, latitude_deg: float) -> list[Lack]:
    """All that is missing, the worst first."""
    return sorted(_kit(assembly) + _latitude(assembly, latitude_deg) + _current(assembly), key=lambda lack: not lack.fatal)


def complete_verdict(assembly: Assembly, latitude_deg: float) -> Verdict:
    """Is anything missing without which the night fails?"""
    found = lacks(assembly, latitude_deg)
    level: Level = "stop" if any(lack.fatal for lack in found) else "care" if found else "go"
    shown = [lack.what for lack in found[:3]] + ([f"{len(found) - 3} more"] if len(found) > 3 else [])
    sentence = f"Missing: {joined(shown)}." if found else "Nothing critical is missing."
    if assembly.first(Tracker) is None:
        sentence += " There is no tracker: the camera stands still."
    needs = "camera, lens, tripod, intervalometer, latitude support, a supply for every load"
    working = Working(
        "lacks",
        "What a night cannot do without",
        needs,
        tuple(Quantity(lack.what, text=lack.cure) for lack in found),
        Quantity("Missing", len(found), "", decimals=0),
        "What was forgotten most often",
        "common practice",
    )
    return Verdict(
        "Complete",
        level,
        sentence,
        found[0].what if found else "every load fed, every step supported",
        f"{found[0].cure[0].upper()}{found[0].cure[1:]}." if found else "",
        (Quantity("Parts", len(assembly.placed), "", decimals=0), Quantity("Missing", len(found), "", decimals=0, working="lacks")),
        workings=(working,),
    )
