"""Carried mass against the tracker's rating; without a tracker, against what the tripod's head carries."""

from typing import Literal

from widedusk.core.errors import Checks
from widedusk.core.kit.parts import Rig, Tracker
from widedusk.core.kit.units import METRIC, Units
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working, joined

PayloadSchool = Literal["sixty", "half", "full", "own"]
SCHOOL_SHARE: dict[PayloadSchool, float] = {"sixty": 0.6, "half": 0.5, "full": 1.0}
EASY_SHARE = 0.5
ANY_HEAD_G = 2_000.0  # that a full-size tripod head carries where nobody noted more. Common practice, no source


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
    """Everything the tracker carries in grams; what hangs on the weight side only where its rating includes it. Without a tracker
    what the head carries, itself aside."""
    if rig.tracker is None:
        extras = sum(item.mass_g for item in rig.carried if rig.head is None or item.name != rig.head.name)
    else:
        extras = sum(item.mass_g for item in rig.carried if rig.tracker.rating_includes_counterweights or not item.counterweight)
    return rig.camera.mass_g + rig.lens.mass_g + extras


def relief(rig: Rig, tracker: Tracker, excess_g: float, units: Units) -> str:
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
    aside = "" if tracker.rating_includes_counterweights else ", or hanging it on the weight side,"
    return f"Taking off {names}{aside} would do."


def _on_the_head(rig: Rig, units: Units) -> Verdict:
    """What the tripod's head carries when there is no tracker."""
    load, rated = carried_mass_g(rig), rig.head.rated_g if rig.head else None
    limit = rated if rated is not None else ANY_HEAD_G
    level: Level = "go" if load <= limit else "stop" if rated is not None else "care"
    head = rig.head.name if rig.head else "the tripod’s head"
    told = units.mass_words(load)
    if rated is not None:
        sentence = f"{told} on {head}, which carries {units.mass_words(rated)}{'' if load <= rated else ': do not use it'}."
    else:
        sentence = f"{told} on {head}; what it carries is not noted."
    advice = "" if level == "go" else f"Look up what {head} carries." if rated is None else "Take a sturdier head."
    carried = Working(
        "carried",
        "Mass on the head",
        "m = Σ mᵢ",
        (
            units.mass_of(rig.camera.name, rig.camera.mass_g),
            units.mass_of(rig.lens.name, rig.lens.mass_g),
            *(units.mass_of(item.name, item.mass_g) for item in rig.carried if rig.head is None or item.name != rig.head.name),
        ),
        units.mass_of("On the head", load, "m"),
        "Sum of the parts listed in the rig",
        "definition",
    )
    name = "The head carries" if rated is not None else "Any full-size head carries"
    return Verdict(
        "Payload",
        level,
        sentence,
        f"what the head carries, {units.mass_words(limit)}",
        advice,
        (units.mass_of("Carried", load, working="carried"), units.mass_of(name, limit)),
        (Limit(name, "at most", units.mass_of("Load", limit), binds=True, note="" if rated else "common practice"),),
        (carried,),
        caution="Tighten the head before letting go of the camera.",
    )


def payload_verdict(rig: Rig, school: PayloadSchool = "sixty", own_percent: float | None = None, units: Units = METRIC) -> Verdict:
    """Will the tracker carry it? Bands by common practice: half the rating is easy, the school's share fits,
    up to the rating is strained, above it is not to be used. Without a tracker the tripod's head is asked."""
    share = school_share(school, own_percent)
    tracker = rig.tracker
    if tracker is None:
        return _on_the_head(rig, units)
    load, rating = carried_mass_g(rig), tracker.rating_g
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
        advice = f"{advice} {relief(rig, tracker, excess, units)}".strip()
    sums = [units.mass_of(rig.camera.name, rig.camera.mass_g), units.mass_of(rig.lens.name, rig.lens.mass_g)]
    sums += [units.mass_of(item.name + (" (weight side)" if item.counterweight else ""), item.mass_g) for item in rig.carried]
    apart = any(item.counterweight for item in rig.carried) and not tracker.rating_includes_counterweights
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
            units.mass_of("Room left" if excess <= 0 else "Over by", abs(excess), working="load"),
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
