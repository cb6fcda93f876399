"""Runs with their frames judged: recalculated from the facts whenever either changes, kept in memory and in the database while
nothing does."""

from collections.abc import Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from functools import cache, lru_cache
from hashlib import sha256
from hmac import compare_digest
from pathlib import Path
from pickle import dumps, loads
from typing import Any

import numpy as np
from django.conf import settings
from django.contrib.auth.models import AbstractBaseUser
from django.db import IntegrityError, transaction
from django.db.models import Count, Exists, Max, OuterRef, QuerySet, Sum
from django.utils.crypto import salted_hmac

from widedusk.core.errors import Checks, Fault, InvalidInput
from widedusk.core.frames.attitude import Air
from widedusk.core.judge.account import JudgedRun, counted, judged_run
from widedusk.core.judge.axis_of_run import Seen, axis_of_run
from widedusk.core.judge.course import (
    BY_HAND_SPREAD,
    LEARNED_SPREAD,
    MEASURED_SPREAD,
    USUAL_SPREAD,
    ExpectedWidth,
    Shot,
    typical_width,
)
from widedusk.core.judge.export import Line
from widedusk.core.judge.finding import HARMLESS
from widedusk.core.judge.limits import Limits
from widedusk.core.judge.my_lens import by_stop, judge_lens, pictures_of
from widedusk.core.judge.teach import left_out_of_axis, why_no_axis
from widedusk.core.kit import parts
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.pole.axis import AxisError
from widedusk.core.sky.places import Observer
from widedusk.core.sky.time import Floats, datetime_from_mjd, mjd_from_datetime
from widedusk.records.frames.frames import facts_of
from widedusk.records.frames.models import Frame, Judgement
from widedusk.records.grounds.services import spot_of
from widedusk.records.kit.models import Placement, Rig
from widedusk.records.kit.services import part_of
from widedusk.records.nights.facts import facts_from, save_facts
from widedusk.records.nights.models import Run, RunResult
from widedusk.records.owned import OwnedQuerySet
from widedusk.records.pictures.models import Measurement
from widedusk.records.targets.models import Target

MOST_FRAMES = 5_000  # of one run that are judged together
KEPT_IN_MEMORY = 12
MAX_LENSES, SAME_STOP = 20, 0.06  # measurements of lenses that are looked at; as a share of the f-number
MAX_KEPT_OF_A_RUN = 4  # judgements in the database: a laptop and a phone may ask with different limits
SIGNATURE_BYTES = 32
MOST_FOR_THE_AXIS = 50
NO_TIME_MJD = 60_000.0


@dataclass(frozen=True)
class FrameLine:
    """One frame of a run as it is stored, without its facts."""

    id: int
    name: str
    began_mjd: float | None


@dataclass(frozen=True)
class RunHeadline:
    """A run in a list."""

    frames: int  # that were measured
    cause: str  # what spoils most of them; empty: nothing does


def shot_runs_of(user: AbstractBaseUser) -> OwnedQuerySet[Run]:
    """Runs of which frames lie here."""
    here = Frame.objects.filter(run=OuterRef("pk"), folder__deleted_at=None)
    found = Run.objects.of(user).filter(Exists(here)).select_related("night__spot__place", "target", "rig", "result", "plan")
    return found.order_by("result__begins_at", "id")


@dataclass(frozen=True)
class _Asked:
    """All that a judgement hangs on: while none of it changes, it stands."""

    run: int
    frames: int
    numbers: int | None  # summed up: another frame in place of one is another run
    exposure_s: float | None  # typed, where files do not say it
    measured_at: datetime | None
    began_at: datetime | None
    place: tuple[int, int]  # its number and how often it was changed
    limits: Limits
    expected_width: ExpectedWidth | None


def judged_of(run: Run, limits: Limits) -> tuple[tuple[FrameLine, ...], JudgedRun]:
    """A run judged, and its frames in order. Raises InvalidInput for a run without frames that could be measured."""
    (request,) = _requests_of([run], limits)
    return _judged(request)


def judge_runs(runs: Sequence[Run], limits: Limits) -> list[tuple[Run, JudgedRun]]:
    """Several runs judged; those without measured frames are left out."""
    requests = _requests_of(runs, limits)
    return [(run, _judged(request)[1]) for run, request in zip(runs, requests, strict=True) if request.frames]


def headlines_of(runs: Sequence[Run], limits: Limits) -> list[RunHeadline]:
    """Of each run how many frames were measured and what spoils most of them, in as many queries for a hundred runs as for one,
    once they were judged."""
    requests = _requests_of(runs, limits)
    keys = {request.run: _key(request) for request in requests}
    kept = dict(Judgement.objects.filter(run__in=keys, asked__in=keys.values()).values_list("run", "headline"))
    headlines = []
    for request in requests:
        if request.frames and request.run not in kept:
            _, judged = _judged(request)
            kept[request.run] = _headline(judged)
        headlines.append(RunHeadline(min(request.frames, MOST_FRAMES), kept.get(request.run, "")))
    return headlines


def _headline(judged: JudgedRun) -> str:
    return next((cause.name for cause in judged.causes if cause.key not in HARMLESS), "")


def _requests_of(runs: Sequence[Run], limits: Limits) -> list[_Asked]:
    """What the judgement of each run hangs on."""
    done = Frame.objects.filter(run__in=runs, state="done").order_by().values("run")
    totals = done.annotate(frames=Count("pk"), numbers=Sum("pk"), last=Max("measured_at"), began=Max("began_at"))
    total_of = {total["run"]: total for total in totals}
    widths = _expected_widths(runs)
    requests = []
    for run in runs:
        total = total_of.get(run.pk)
        place = run.night.spot.place if run.night.spot is not None else None
        requests.append(
            _Asked(
                run.pk,
                total["frames"] if total else 0,
                total["numbers"] if total else None,
                run.result.exposure_s,
                total["last"] if total else None,
                total["began"] if total else None,
                (place.pk, place.version) if place is not None else (0, 0),
                limits,
                widths.get(run.pk),
            )
        )
    return requests


@cache
def _code() -> bytes:
    """The very rules that judge: what others said is not wanted any more."""
    files = sorted((settings.ROOT / "widedusk" / "core").rglob("*.py"))
    return sha256(b"".join(one.read_bytes() for one in [*files, Path(__file__)])).digest()


def _signed(body: bytes) -> bytes:
    return salted_hmac("widedusk.judgement", body, algorithm="sha256").digest()


def _key(asked: _Asked) -> str:
    return sha256(_code() + repr(asked).encode()).hexdigest()


def _kept(asked: _Asked, key: str) -> tuple[tuple[FrameLine, ...], JudgedRun] | None:
    """As another process, or this one before it was started anew, left it. What was not written with our own key is not read."""
    told = Judgement.objects.filter(run=asked.run, asked=key).values_list("body", flat=True).first()
    if told is None:
        return None
    signature, body = bytes(told[:SIGNATURE_BYTES]), bytes(told[SIGNATURE_BYTES:])
    if not compare_digest(signature, _signed(body)):
        return None
    return loads(body)  # type: ignore[no-any-return]  # noqa: S301 - signed with our own key


def _keep(asked: _Asked, key: str, found: tuple[tuple[FrameLine, ...], JudgedRun]) -> None:
    """Keep what came out, beside the latest few of the same run that were asked for with other limits."""
    body = dumps(found)
    row = Judgement(run_id=asked.run, asked=key, headline=_headline(found[1]), body=_signed(body) + body)
    with suppress(IntegrityError):  # the run has gone meanwhile
        Judgement.objects.bulk_create(
            [row], update_conflicts=True, unique_fields=["run", "asked"], update_fields=["headline", "body"]
        )
        latest = Judgement.objects.filter(run_id=asked.run).order_by("-pk").values("pk")[:MAX_KEPT_OF_A_RUN]
        Judgement.objects.filter(run_id=asked.run).exclude(pk__in=latest).delete()


@lru_cache(maxsize=KEPT_IN_MEMORY)
def _judged(asked: _Asked) -> tuple[tuple[FrameLine, ...], JudgedRun]:
    key = _key(asked)
    found = _kept(asked, key)
    if found is None:
        found = _judged_anew(asked)
        _keep(asked, key, found)
    return found


def _judged_anew(asked: _Asked) -> tuple[tuple[FrameLine, ...], JudgedRun]:
    run = Run.objects.select_related("night__spot__place", "result").get(pk=asked.run)
    lines, shots = _shots(run)
    if not shots:
        raise InvalidInput([Fault("run", run.name, "No frame of this run is measured yet.")])
    known = asked.expected_width
    expected = known if known is not None and known.holds_for(file_side_px(run)) else None
    return lines, judged_run(shots, _observer(run), asked.limits, expected)


def _expected_widths(runs: Sequence[Run]) -> dict[int, ExpectedWidth]:
    """Of each run's stars, by its number: as pictures of its lens at that stop have it, else as was
    learned or typed for its rig, else as is typical. In as many queries for a hundred runs as for one."""
    carried: dict[int, dict[type[parts.Part], parts.Part]] = {}
    of_rigs = {run.rig_id: run.rig for run in runs if run.rig is not None}
    placements = Placement.objects.filter(rig__in=of_rigs, part__kind__in=("camera", "lens")).select_related("part")
    for placement in placements.order_by("-order"):  # the first of each kind is the one that takes the pictures
        with suppress(InvalidInput):  # a part that an earlier version kept and this one would not
            part = part_of(placement.part)
            carried.setdefault(placement.rig_id, {})[type(part)] = part
    measured: dict[int, list[dict[str, Any]]] = {}
    of_lenses = Measurement.objects.filter(rig__in=of_rigs, task="lens", state="done", result__isnull=False).order_by("-created_at")
    for rig_id, result in of_lenses.values_list("rig", "result")[:MAX_LENSES]:
        measured.setdefault(rig_id, []).append(result or {})
    widths = {}
    for run in runs:
        camera, lens = (carried.get(run.rig_id or 0, {}).get(kind) for kind in (parts.Camera, parts.Lens))
        if run.rig is not None and isinstance(camera, parts.Camera) and isinstance(lens, parts.Lens):
            widths[run.pk] = _expected_width(run, run.rig, camera, lens, measured.get(run.rig.pk, []))
    return widths


def _expected_width(run: Run, rig: Rig, camera: parts.Camera, lens: parts.Lens, lenses: Sequence[dict[str, Any]]) -> ExpectedWidth:
    for result in lenses:
        if run.result.f_number is None or (result["lens"], result["focal_mm"]) != (lens.name, lens.focal_mm):
            continue
        taken = by_stop(pictures_of(result))
        for stop, one in zip(judge_lens(taken, Limits()).stops, taken, strict=True):
            if abs(stop.f_number / run.result.f_number - 1.0) < SAME_STOP and not stop.trailed:
                return ExpectedWidth(stop.middle_px, MEASURED_SPREAD, max(one.picture.width_px, one.picture.height_px))
    spread = {"learned": LEARNED_SPREAD, "by hand": BY_HAND_SPREAD}.get(rig.star_origin)
    if spread is not None:
        return ExpectedWidth(rig.star_fwhm_px, spread, camera.side_px)
    scale = float(image_scale_arcsec_px(camera.pitch_um, lens.focal_mm))
    return ExpectedWidth(typical_width(rig.star_fwhm_px, scale), USUAL_SPREAD, camera.side_px)


def file_side_px(run: Run) -> float | None:
    """Pixels along the long side of a run's files; one run has one size."""
    header = _in_order(run).values_list("header", flat=True).first() or {}
    return max(header.get("width_px") or 0, header.get("height_px") or 0) or None


def _observer(run: Run) -> Observer:
    if run.night.spot is None:
        return Observer(0.0, 0.0, 0.0)
    return spot_of(run.night.spot).observer


def _in_order(run: Run) -> QuerySet[Frame]:
    return Frame.objects.filter(run=run, state="done").order_by("began_at", "name", "id")


def _shots(run: Run) -> tuple[tuple[FrameLine, ...], list[Shot]]:
    told = _in_order(run).values_list("pk", "name", "began_at", "header", "facts")[:MOST_FRAMES]
    lines, shots = [], []
    clock = NO_TIME_MJD
    for pk, name, began_at, header, facts in told:
        exposure = header.get("exposure_s") or run.result.exposure_s or 1.0
        mjd = mjd_from_datetime(began_at) if began_at else clock
        clock = mjd + exposure / 86400.0
        lines.append(FrameLine(pk, name, mjd if began_at else None))
        shots.append(Shot(name, mjd, exposure, facts_of(facts or {}), header.get("iso"), header.get("f_number")))
    return tuple(lines), shots


def axis_from(run: Run, limits: Limits) -> tuple[AxisError | None, str]:
    """Where the axis stood in a run, by its frames, None where they do not tell; and why that is not to be used, else empty."""
    lines, judged = judged_of(run, limits)
    why_not = why_no_axis(judged)
    spoilt = left_out_of_axis(judged)
    if spoilt and not why_not:
        found = _axis_from(run, [line.id for place, line in enumerate(lines) if place in spoilt])
        if found is not None:
            return found, ""
        why_not = "Not offered: too few frames are left that nothing else acts on."
    found = _axis_from(run, [])
    return found, why_not if found is not None else ""


def _axis_from(run: Run, left_out: Sequence[int]) -> AxisError | None:
    rows = Frame.objects.filter(run=run, state="done", known__isnull=False).exclude(began_at=None).exclude(pk__in=left_out)
    rows = rows.order_by("began_at", "id")
    numbers = list(rows.values_list("pk", flat=True))
    chosen = numbers[:: max(len(numbers) // MOST_FOR_THE_AXIS, 1)]
    seen = []
    told = rows.filter(pk__in=chosen).values_list("name", "began_at", "header", "facts", "stars", "known")
    for name, began_at, header, facts, stars, known in told:
        if began_at is None or facts is None or known is None or not stars:
            continue
        shot = Shot(name, mjd_from_datetime(began_at), header.get("exposure_s") or run.result.exposure_s or 1.0, facts_of(facts))
        ra, dec, v, x, y = np.array(stars, dtype=float)[:, :5].T
        sides = header["width_px"], header["height_px"]
        seen.append(Seen(shot, ra, dec, v, x, y, *sides, np.array(known["toward"]), known["bend"]))
    return axis_of_run(seen, _observer(run), "refracted", Air()) if run.night.spot is not None else None


def said_of(run: Run) -> dict[int, str]:
    """The person's own words on the frames of a run, where there are any."""
    return dict(Frame.objects.filter(run=run).exclude(word="").values_list("pk", "word"))


@transaction.atomic
def say(user: AbstractBaseUser, run: Run, words: dict[int, str]) -> dict[int, str]:
    """Keep the person's word on some frames; "" takes it back. Returns what stood there before. Raises InvalidInput."""
    rows = Frame.objects.select_for_update(of=("self",)).filter(owner_id=user.pk, run=run, pk__in=words).only("pk", "word")
    found = {row.pk: row for row in rows}
    missing = [one for one in words if one not in found]
    if missing:
        raise InvalidInput([Fault("frames", missing[0], f"Frame number {missing[0]} is not of this run.")])
    before = {pk: row.word for pk, row in found.items()}
    for row in found.values():
        row.word = words[row.pk]
    Frame.objects.bulk_update(found.values(), ["word"], batch_size=1000)
    return before


def export_lines(run: Run, limits: Limits) -> list[Line]:
    """Every frame of a run as it is told to other programs."""
    lines, judged = judged_of(run, limits)
    said, columns, looks = said_of(run), judged.columns, judged.looks
    told = []
    for place, (line, word) in enumerate(zip(lines, judged.words, strict=True)):
        own = said.get(line.id, "")
        began = datetime_from_mjd(line.began_mjd).isoformat(timespec="seconds") if line.began_mjd is not None else ""
        weight = 0.0 if (own or word.word) == "cull" else word.weight or max(float(columns.worth[place]), 0.01)
        told.append(
            Line(
                line.name,
                began,
                float(looks.exposure_s[place]),
                own or word.word,
                "you" if own else "measured",
                weight,
                word.cause,
                " ".join(word.reasons),
                float(columns.width[place]),
                float(columns.elongation[place]),
                float(columns.clear[place]),
                float(looks.background[place]),
                float(looks.ra_deg[place]),
                float(looks.dec_deg[place]),
                float(looks.sky_mag[place]),
            )
        )
    return told


def export_stars(run: Run) -> list[Floats]:
    """The named stars of each frame, in the order of `export_lines`: ra and dec in degrees, V, x and y in pixels, light."""
    told = _in_order(run).values_list("stars", flat=True)[:MOST_FRAMES]
    return [np.array(one or (), dtype=float).reshape(-1, 6) for one in told.iterator(chunk_size=200)]


NOT_RECOGNISED = {
    "not solved": "No frame of this run could be matched with the sky, so nobody knows what it shows",
    "other field": "None of your targets is in these frames",
    "other lens": "These frames were taken through another lens than this rig's",
}


def count_in(run: Run, judged: JudgedRun, lines: Sequence[FrameLine], typed: Mapping[str, float | None]) -> Run:
    """Let what was kept of a run count for its target, from now on. typed: f_number and exposure_s where the files do not say them.

    Raises InvalidInput where they are missing, and for frames that were not recognised and that the user did not assign."""
    checks = Checks()
    if why := NOT_RECOGNISED.get(run.result.recognition):
        checks.fault("run", run.name, f"{why}. Say which target they are of, then count them.")
    for name, what, low, high, unit in (("f_number", "f-number", 0.7, 64, ""), ("exposure_s", "exposure", 1e-4, 3600, "s")):
        value = typed.get(name) or getattr(run.result, name)
        if value is None:
            checks.fault(name, None, f"The files do not say the {what}; type it, then count the frames.")
        else:
            checks.within(name, value, low, high, unit)
    checks.done()
    # Whoever counts says that it is over, too: a phone may have been forgotten in a pocket.
    save_facts(run, facts_from("user", {**{name: value for name, value in typed.items() if value}, "ends_at": run.result.ends_at}))
    return tell_kept(run, judged, lines)


def tell_kept(run: Run, judged: JudgedRun, lines: Sequence[FrameLine]) -> Run:
    """Let the files say how many frames of a run are kept, the user's decisions before ours, and how dark its sky was."""
    decisions = said_of(run)
    counts = counted(judged.words, [decisions.get(line.id, "") for line in lines])
    sky_mag = round(judged.sky_mag[0], 2) if judged.sky_mag is not None else None
    return save_facts(run, facts_from("files", {"kept": counts["keep"] + counts["less"], "sky_mag": sky_mag}))


def assign(run: Run, target: Target) -> Run:
    """Let the user say what a run shows that was not recognised. Raises InvalidInput for one that was."""
    if run.origin != "files" or run.result.recognition not in {*NOT_RECOGNISED, "user"}:
        raise InvalidInput([Fault("run", run.name, f"These frames were recognised: they show {run.target.name}.")])
    run.target = target
    run.save(update_fields=("target", "updated_at"))
    RunResult.objects.filter(run=run).update(recognition="user")
    run.refresh_from_db()
    return run
