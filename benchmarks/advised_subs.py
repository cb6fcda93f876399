"""Which sub and ISO the most useful signal per hour advises: python -m benchmarks.advised_subs.

Six rigs from wide to long under four skies, on trackers such as carry them, the axis 5′ off the worst way, a frame spoilt once an
hour. Beside it, under 21.5 mag/arcsec², what experienced people settle on (common practice, no source).
"""

from dataclasses import replace

from tests.conftest import a_rig
from widedusk.core.choices import Choices
from widedusk.core.exposure.setting import Subject, conditions, expected_drifts, light_of
from widedusk.core.exposure.sub import advise
from widedusk.core.kit.parts import IsoStep
from widedusk.core.scene import Target

# focal length, f-number, pitch; the worm's half amplitude and period; what people settle on
RIGS = (
    (24.0, 2.8, 6.0, 20.0, 430.0, "2 to 3 min"),
    (50.0, 2.8, 6.0, 20.0, 430.0, "2 to 3 min"),
    (85.0, 2.8, 4.5, 20.0, 430.0, "2 min"),
    (135.0, 2.8, 3.9, 20.0, 480.0, "90 s"),
    (200.0, 4.0, 3.8, 15.0, 640.0, "60 s"),
    (400.0, 5.6, 3.8, 10.0, 430.0, "30 s"),
)
SKIES = (18.5, 20.5, 21.5, 21.7)
ISOS = tuple(
    IsoStep(*row) for row in ((200, 5.4, 60_000), (400, 4.0, 40_000), (800, 3.2, 22_000), (1600, 2.9, 11_000), (3200, 2.7, 5_500))
)
TARGET = Target("galaxy", 83.8, 10.0, 1.0, 22.0, kind="galaxy", light="continuum")


def main() -> None:
    print(f"{'':16}" + "".join(f"{sky:>28g}" for sky in SKIES) + "   people take, 21.5")
    for focal, f_number, pitch, worm, period, people in RIGS:
        rig = a_rig(focal)
        rig = replace(
            rig,
            lens=replace(rig.lens, f_widest=f_number, f_best=f_number),
            camera=replace(rig.camera, pitch_um=pitch, iso_steps=ISOS),
            tracker=replace(rig.tracker, pe_half_amplitude_arcsec=worm, pe_period_s=period),
            star_fwhm_px=2.5,
        )
        told = []
        for sky in SKIES:
            one = Subject(rig, TARGET, sky, 1.2, Choices(), expected_drifts(5.0, 0.17))
            wanted = conditions(one, light_of(one, f_number))
            advice = advise(wanted, rig.camera, "best")
            told.append(f"{advice.exposure_s:.0f} s ISO {advice.step.iso} {advice.keep * 100:.0f} % {advice.binds}")
        print(f"{focal:4g} mm f/{f_number:<7g}" + "".join(f"{one:>28}" for one in told) + f"   {people}")


if __name__ == "__main__":
    main()
