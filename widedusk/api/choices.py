"""Choices and context as they travel with a request."""

from datetime import date
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from widedusk.api.schemas import Number
from widedusk.core.choices import Choices


class ChoicesShape(Schema):
    """How this person works; each field left out stands at the house's default."""

    payload_school: Literal["sixty", "half", "full", "own"] = "sixty"
    payload_percent: Number | None = None
    darkness: Literal["astronomical", "nautical"] = "astronomical"
    min_altitude_deg: Number = 25.0
    moon_limit_mag: Number = 0.5
    pole: Literal["refracted", "true"] = "refracted"
    recheck_school: Literal["thirty frames", "each target", "never"] = "thirty frames"
    setup_time: Annotated[str, Field(max_length=5)] | None = None
    alignment_arcmin: Number = 5.0
    shift_percent: Number = 5.0
    elongation_limit: Number = 1.3
    keep_percent: Number = 90.0
    noise_percent: Number = 5.0
    ceiling_percent: Number = 20.0
    f_number: Number | None = None
    sub_school: Literal["best", "sky", "tracks", "fixed"] = "best"
    fixed_sub_s: Number | None = None
    iso: int | None = None
    tracking: Literal["tracked", "guided in RA", "guided", "untracked"] = "tracked"
    untracked_school: Literal["pixel", "detailed", "500"] = "pixel"
    guide_rms_arcsec: Number = 1.5
    wind_level: Literal["none", "light", "fresh", "strong"] = "none"
    spoils_per_h: Number = 1.0
    filter_name: Annotated[str, Field(max_length=120)] | None = None
    star_mag: Number = 8.0
    goal_snr: Number = 10.0
    most_hours: Number | None = None
    gap_s: Number = 2.0
    mirror_s: Number = 0.0
    noise_reduction: Literal["off", "on"] = "off"
    delay_s: Number = 10.0
    convention: Literal["gap", "start to start"] = "gap"
    card_gb: Number = 64.0
    dark_school: Literal["matched", "dither"] = "matched"
    darks: int = 20
    flats: int = 20
    bias: int = 20
    aperture_school: Literal["corners", "wide", "ring"] = "corners"
    support_school: Literal["bracket from 100", "ball head to 200"] = "bracket from 100"
    dec_school: Literal["note", "balance"] = "note"
    lifting: Literal["none", "camera east", "camera west"] = "none"
    lifting_g_cm: Number = 300.0
    dew_school: Literal["heater", "hood", "warmers"] = "heater"
    air_evening_c: Number | None = None
    air_low_c: Number | None = None
    humidity_percent: Number | None = None
    wind_m_s: Number | None = None

    def core(self) -> Choices:
        """The checked choices. Raises InvalidInput."""
        return Choices(**self.dict(include=set(ChoicesShape.model_fields)))


class Context(Schema):
    """With what, where, when, at what."""

    rig: int
    spot: int
    night: date
    target: int
