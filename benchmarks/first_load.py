"""What a browser must fetch before a page stands, packed, for each workspace: python -m benchmarks.first_load (after a build)."""

import gzip
import json
from pathlib import Path

DIST = Path(__file__).parent.parent / "frontend" / "dist"
FONTS = ("next-latin-wght", "mono-latin-wght")  # those whose letters the pages use


def first_load_kb(workspace: str) -> float:
    """The page, all scripts and styles up to a workspace, and the two fonts, in kilobytes as they travel."""
    manifest = json.loads((DIST / ".vite" / "manifest.json").read_text())
    entry = next(key for key, one in manifest.items() if one.get("isEntry"))
    wanted, open_ends = set(), [entry, f"src/workspaces/{workspace}/index.ts"]
    while open_ends:
        key = open_ends.pop()
        if key not in wanted:
            wanted.add(key)
            open_ends += manifest[key].get("imports", [])
    files = {manifest[key]["file"] for key in wanted} | {css for key in wanted for css in manifest[key].get("css", [])}
    packed = sum(len(gzip.compress((DIST / name).read_bytes())) for name in {*files, "index.html"})
    fonts = sum(one.stat().st_size for one in (DIST / "assets").glob("*.woff2") if any(font in one.name for font in FONTS))
    return (packed + fonts) / 1e3


def main() -> None:
    for folder in sorted((DIST.parent / "src" / "workspaces").iterdir()):
        print(f"{folder.name:10} {first_load_kb(folder.name):6.0f} kB")


if __name__ == "__main__":
    main()
