"""Carried mass against the tracker's rating."""

from typing import Literal

from widedusk.core.errors import Checks
from widedusk.core.kit.parts import Rig
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

PayloadSchool = Literal["sixty", "half", "full", "own"]
GRAMS_PER_POUND = 453.59237  # exact, international yard and pound agreement of 1959
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
    """Everything the tracker carries in grams; counterweights only where its rating includes them."""
    extras = sum(item.mass_g for item in rig.carried if rig.tracker.rating_includes_counterweights or not item.counterweight)
    return rig.camera.mass_g + rig.lens.mass_g + extras


def payload_verdict(rig: Rig, school: PayloadSchool = "sixty", own_percent: float | None = None) -> Verdict:
    """Will the tracker carry it? Bands by common practice: half the rating is easy, the school's share fits,
    up to the rating is strained, above it is not to be used."""
    share = school_share(school, own_percent)
    load, rating = carried_mass_g(rig), rig.tracker.rating_g
    ratio = load / rating
    level: Level
    advice = ""
    if ratio > 1.0:
        level, word = "stop", "over the rating: do not use it"
        advice = f"Take off {load - share * rating:,.0f} g, or use a sturdier tracker."
    elif ratio <= min(EASY_SHARE, share):
        level, word = "go", "easy"
    elif ratio <= share:
        level, word = "go", "fits"
    else:
        level, word = "care", "strained"
        advice = f"Expect more culls and keep subs short; {load - share * rating:,.0f} g less would fit."
    sums = [
        Quantity(rig.camera.name, rig.camera.mass_g, "g", decimals=0),
        Quantity(rig.lens.name, rig.lens.mass_g, "g", decimals=0),
    ]
    sums += [
        Quantity(item.name + (" (counterweight)" if item.counterweight else ""), item.mass_g, "g", decimals=0)
        for item in rig.carried
    ]
    apart = any(item.counterweight for item in rig.carried) and not rig.tracker.rating_includes_counterweights
    carried = Working(
        "carried",
        "Carried mass",
        "m = Σ mᵢ",
        tuple(sums),
        Quantity("Carried mass", load, "g", "m", 0),
        "Sum of the parts listed in the rig",
        "definition",
        "Counterweights are not counted: this tracker's rating leaves them out." if apart else "",
    )
    used = Working(
        "load",
        "Load",
        "load = m / rating",
        (
            Quantity("Carried mass", load, "g", "m", 0, working="carried"),
            Quantity("Rating of the tracker", rating, "g", decimals=0),
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
        f"{load / 1000:.2f} kg is {ratio * 100:.0f} % of the rating: {word}.",
        f"{share * 100:.0f} % of the rating, {share * rating / 1000:.2f} kg",
        advice,
        figures=(
            Quantity("Carried", load, "g", decimals=0, working="carried"),
            Quantity("Rating", rating, "g", decimals=0),
            Quantity("Load", ratio * 100, "%", decimals=0, working="load"),
            Quantity("Room left", share * rating - load, "g", decimals=0, working="load"),
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
