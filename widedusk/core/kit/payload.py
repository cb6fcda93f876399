"""Carried mass against the tracker's rating."""

from typing import Literal

from widedusk.core.errors import Checks
from widedusk.core.kit.parts import Rig
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, joined

PayloadSchool = Literal["sixty", "half", "full", "own"]
SCHOOL_SHARE: dict[PayloadSchool, float] = {"sixty": 0.6, "half": 0.5, "full": 1.0}
EASY_SHARE = 0.5


def school_share(school: PayloadSchool, own_percent: float | None) -> float:
    """Share of the rating a school allows. Raises InvalidInput when "own" comes without a sensible figure."""
    if school != "own":
        return SCHOOL_SHARE[school]
    checks = Checks()
    if own_percent is None:
        checks.fault("payload_percent", None, "Give your own share of the rating, in percent.")
    else:
        checks.within("payload_percent", own_percent, 10, 100, "%")
    checks.done()
    return (own_percent or 0.0) / 100.0


def carried_mass_g(rig: Rig) -> float:
    """Everything the tracker carries in grams; what hangs on the weight side only where its rating includes it."""
    extras = sum(item.mass_g for item in rig.carried if rig.tracker.rating_includes_counterweights or not item.counterweight)
    return rig.camera.mass_g + rig.lens.mass_g + extras


def relief(rig: Rig, excess_g: float, units: Units) -> str:
    """Which parts to take off, or to hang on the weight side, to lose at least the excess; empty when none would do."""
    loose = sorted((item for item in rig.carried if not item.counterweight), key=lambda item: item.mass_g)
    enough = [item for item in loose if item.mass_g >= excess_g]
    chosen = enough[:1]
    if not chosen:
        total = 0.0
        for item in reversed(loose):
            chosen.append(item)
            total += item.mass_g
            if total >= excess_g:
                break
        else:
            return ""
    names = joined([f"{item.name} ({units.mass_words(item.mass_g)})" for item in chosen])
    aside = "" if rig.tracker.rating_includes_counterweights else ", or hanging it on the weight side,"
    return f"Taking off {names}{aside} would do."


def payload_verdict(rig: Rig, school: PayloadSchool = "sixty", own_percent: float | None = None, units: Units = METRIC) -> Verdict:
    """Will the tracker carry it? Bands by common practice: half the rating is easy, the school's share fits,
    up to the rating is strained, above it is not to be used."""
    share = school_share(school, own_percent)
    load, rating = carried_mass_g(rig), rig.tracker.rating_g
    ratio = load / rating
    excess = load - share * rating
    level: Level
    advice = ""
    if ratio > 1.0:
        level, word = "stop", "over the rating: do not use it"
        advice = f"Take off {units.mass_words(excess)}, or use a sturdier tracker."
    elif ratio <= min(EASY_SHARE, share):
        level, word = "go", "easy"
    elif ratio <= share:
        level, word = "go", "fits"
    else:
        level, word = "care", "strained"
        advice = f"Expect more culls and keep subs short; {units.mass_words(excess)} less would fit."
    if excess > 0:
        advice = f"{advice} {relief(rig, excess, units)}".strip()
    sums = [units.mass_of(rig.camera.name, rig.camera.mass_g), units.mass_of(rig.lens.name, rig.lens.mass_g)]
    sums += [units.mass_of(item.name + (" (weight side)" if item.counterweight else ""), item.mass_g) for item in rig.carried]
    apart = any(item.counterweight for item in rig.carried) and not rig.tracker.rating_includes_counterweights
    carried = Working(
        "carried",
        "Carried mass",
        "m = Σ mᵢ",
        tuple(sums),
        units.mass_of("Carried mass", load, "m"),
        "Sum of the parts listed in the rig",
        "definition",
        "What hangs on the weight side is not counted: this tracker's rating leaves counterweights out." if apart else "",
    )
    used = Working(
        "load",
        "Load",
        "load = m / rating",
        (
            units.mass_of("Carried mass", load, "m", "carried"),
            units.mass_of("Rating of the tracker", rating),
            Quantity("Share your school allows", share * 100, "%", decimals=0),
        ),
        Quantity("Load", ratio * 100, "% of rating", decimals=0),
        "Bands 50 % easy, 60 % fits for imaging, above it strained",
        "common practice",
        "Makers differ in what they count; the margin is for wind, cables and leverage.",
    )
    return Verdict(
        "Payload",
        level,
        f"{units.mass_words(load)} is {ratio * 100:.0f} % of the rating: {word}.",
        f"{share * 100:.0f} % of the rating, {units.mass_words(share * rating)}",
        advice,
        figures=(
            units.mass_of("Carried", load, working="carried"),
            units.mass_of("Rating", rating),
            Quantity("Load", ratio * 100, "%", decimals=0, working="load"),
            units.mass_of("Room left", -excess, working="load"),
        ),
        limits=(
            Limit("Your school's share", "at most", Quantity("Load", share * 100, "%", decimals=0), binds=share < 1.0),
            Limit("The rating itself", "at most", Quantity("Load", 100, "%", decimals=0), binds=share >= 1.0),
        ),
        workings=(carried, used),
        caution="Tighten every clamp before letting go: counterweights fall on feet."
        if any(item.counterweight for item in rig.carried)
        else "",
    )
