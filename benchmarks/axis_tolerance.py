"""The tolerance of the axis against mounts turned step by step: python -m benchmarks.axis_tolerance.

For six rigs from 24 to 400 mm and three declinations: the tolerance, what drift alone would allow, and the share of frames that
brute force keeps at both, in the worst direction and in one at random; a tenth of the elongation kept in hand, nine in ten wanted.
"""

from tests.outside.test_axis_tolerance import RIGS, kept_by_turning, subject_of
from widedusk.core.kit.optics import image_scale_arcsec_px
from widedusk.core.pole.tolerance import ARCMIN_PER_RADIAN, axis_tolerance
from widedusk.core.tracking.drift import SIDEREAL_RATE_ARCSEC_S
from widedusk.core.tracking.elongation import tolerated_trail_px

LIMIT, RESERVE_LIMIT = 1.3, 1.27


def main() -> None:
    print("             dec    tolerance  kept, worst   at random  kept    drift alone  kept, worst")
    for focal, pitch, worm, period, exposure_s in RIGS:
        for dec_deg in (-5.0, 40.0, 65.0):
            subject = subject_of(focal, pitch, worm, period, dec_deg)
            found = axis_tolerance(subject, exposure_s, 0.0)
            worst, _ = kept_by_turning(subject.rig, dec_deg, found.sharp_arcmin, exposure_s, RESERVE_LIMIT)
            _, mean = kept_by_turning(subject.rig, dec_deg, found.random_arcmin, exposure_s, RESERVE_LIMIT)
            scale = float(image_scale_arcsec_px(pitch, focal))
            alone = tolerated_trail_px(LIMIT, 2.5) * scale / (SIDEREAL_RATE_ARCSEC_S * exposure_s) * ARCMIN_PER_RADIAN
            spoilt, _ = kept_by_turning(subject.rig, dec_deg, alone, exposure_s, LIMIT)
            print(
                f"{focal:4g} mm {exposure_s:4.0f} s {dec_deg:+4.0f}° {found.sharp_arcmin:8.1f}′ {worst * 100:9.1f} % "
                f"{found.random_arcmin:9.1f}′ {mean * 100:6.1f} % {alone:9.1f}′ {spoilt * 100:9.1f} %"
            )


if __name__ == "__main__":
    main()
