"""Will the front element fog, from when, and does the heater make up for it?"""

from collections.abc import Callable, Sequence

import numpy as np

from widedusk.core.kit.dew import (
    ABOVE_AIR_C,
    STRAP_SHARE,
    Air,
    DewSchool,
    below_air_c,
    heater_needed_w,
    sky_loss_w_m2,
    wind_loss_w_m2,
)
from widedusk.core.kit.parts import Heater
from widedusk.core.verdict import Level, Limit, Quantity, Verdict, Working

ANSWER = {"heater": "hood and heater", "hood": "hood only", "warmers": "hood and hand warmers"}


def _gives(heaters: Sequence[Heater]) -> Working:
    return Working(
        "gives",
        "Heater power at hand",
        "P = Σ Pᵢ, full on",
        tuple(Quantity(one.name, one.watts, "W") for one in heaters),
        Quantity("Heater gives", sum(one.watts for one in heaters), "W", "P"),
        "Sum of the heaters in the rig",
        "definition",
    )


def _when(air: Air, school: DewSchool) -> int:
    """The minute from set-up in which the glass first fogs, or comes nearest to it; 0 where nobody told the humidity."""
    margin = air.margin_c(below_air_c(school))
    if margin is None:
        return 0
    return int(np.argmax(margin <= 0.0)) if margin.min() <= 0.0 else int(np.argmin(margin))


def _workings(air: Air, school: DewSchool, front_mm: float, moment: Quantity, needed_w: float) -> tuple[Working, ...]:
    below, margin = below_air_c(school), air.margin_c(below_air_c(school))
    place = _when(air, school)
    low_c = min(air.temperature_c)
    return (
        Working(
            "dew point",
            "Dew point",
            "γ = ln(RH/100) + bT/(c+T);  Td = cγ/(b−γ)",
            (
                Quantity("Air at set-up", air.temperature_c[0], "°C", "T"),
                Quantity("Air when the glass fogs, or comes nearest to it", air.temperature_c[place], "°C"),
                Quantity("Magnus constants over water", text="b 17.62, c 243.12 °C"),
                Quantity("where Td is below 0 °C, over ice", text="b 22.46, c 272.62 °C"),
            ),
            Quantity("Dew point then", air.point_c[place], "°C", "Td") if air.point_c else Quantity("Dew point", text="not known"),
            "WMO Guide to Instruments and Methods of Observation (WMO-No. 8); Sonntag 1990",
            "published",
            "Of the first minute in which the glass fogs, else of the one in which it comes nearest. Air that is saturated sheds "
            "water: from then on its dew point falls with it.",
        ),
        Working(
            "fog",
            "When the glass reaches the dew point",
            "first minute from set-up on with T(t) − Δ ≤ Td(t)",
            (
                Quantity("Air at set-up", air.temperature_c[0], "°C"),
                Quantity("Coldest before sunrise", low_c, "°C"),
                Quantity("Glass below the air, under a hood", below, "°C", "Δ", 2),
                Quantity("Least distance to the dew point", float(np.min(margin)), "°C")
                if margin is not None
                else Quantity("Distance to the dew point", text="not known"),
            ),
            moment,
            "Glass under a clear sky sits 1 to 4 °C below the air, half that under a hood",
            "from memory",
            "Air and humidity hour by hour as forecast, straight lines between the hours."
            if air.forecast
            else "As typed: the air cools evenly from sunset to sunrise, and its water stays the same.",
        ),
        Working(
            "heater",
            "Heater power, an estimate",
            "P = A (σ(T⁴ − Ts⁴) + (5.7 + 3.8v) ΔT) / share;  Ts = 0.0552 T^1.5",
            (
                Quantity("Front glass", front_mm, "mm", decimals=0),
                Quantity("Radiated to a clear sky", sky_loss_w_m2(low_c), "W/m²", decimals=0),
                Quantity("Carried off by the wind", wind_loss_w_m2(air.wind_m_s), "W/m²", decimals=0),
                Quantity("Glass kept above the air by", ABOVE_AIR_C, "°C", "ΔT"),
                Quantity("Share of a strap's heat that reaches the glass", STRAP_SHARE * 100, "%", decimals=0),
            ),
            Quantity("Needed", needed_w, "W", "P"),
            "Clear sky: Swinbank 1963; wind: McAdams 1954; the share is our own estimate",
            "from memory",
        ),
    )


def dew_verdict(
    air: Air | None, front_mm: float | None, heaters: Sequence[Heater], school: DewSchool, clock: Callable[[float], Quantity]
) -> Verdict:
    """`clock` turns a moment, MJD, into one of the place's."""
    margin = air.margin_c(below_air_c(school)) if air else None
    if air is None or air.point_c is None or margin is None:
        return Verdict(
            "Dew",
            "care",
            "Type the air's temperature and humidity to see from when the lens fogs.",
            "no weather known",
            "Until then take hood and heater along.",
        )
    fogs = air.fogs_mjd(below_air_c(school))
    front, low_c = front_mm or 50.0, min(air.temperature_c)
    needed = heater_needed_w(front, low_c, air.wind_m_s)
    have = sum(one.watts for one in heaters)
    point = air.point_c[_when(air, school)]
    moment = Quantity("Fogs from", text="not this night") if fogs is None else clock(fogs)
    level: Level = "go"
    advice = ""
    if fogs is None:
        sentence = f"No dew: the glass stays {float(margin.min()):.1f} °C above the dew point."
        decides = "the hour when it comes nearest"
    else:
        level = "care"
        when = "from set-up" if fogs == air.begin_mjd else f"from {moment.text}"
        decides = f"glass at the dew point, {point:.1f} °C"
        sentence = f"The front glass fogs {when}"
        if school == "heater" and have >= needed:
            sentence += f" unless the heater is on; its {have:.1f} W are enough."
            advice = f"Set it to about {min(100.0, 100 * needed / have):.0f} % and look every hour." if have else ""
        elif school == "heater" and have:
            sentence = f"{sentence}; the heater gives {have:.1f} of about {needed:.1f} W."
            advice = "Start it before dusk on a dry lens, add a hood, or a stronger strap."
        elif school == "heater":
            level, sentence = "stop", f"{sentence} and there is no heater in this rig."
            advice = f"Add a heater of about {needed:.1f} W, or hand warmers under the strap as a stand-in."
        else:
            sentence = f"{sentence}; you go with {ANSWER[school]}."
            advice = "A hood only delays it; wipe nothing, warm it." if school == "hood" else "Change the warmers every four hours."
    return Verdict(
        "Dew",
        level,
        sentence,
        decides,
        advice,
        (
            Quantity("Dew point when it fogs" if fogs is not None else "Dew point when nearest", point, "°C", working="dew point"),
            Quantity("Fogs from", text=moment.text, moment=moment.moment, working="fog"),
            Quantity("Heater needs about", needed, "W", working="heater"),
            Quantity("Heater gives", have, "W", working="gives"),
        ),
        (Limit("Glass above the dew point", "at least", Quantity("Dew point", point, "°C"), True),),
        (*_workings(air, school, front, moment, needed), _gives(heaters)),
    )
