"""What is wrong with a page on a screen, measured in the browser."""

from pathlib import Path

SIZES = {"phone": (390, 844), "tablet": (768, 1024), "laptop": (1280, 800)}
SIDES = [
    "tonight",
    "bench",
    "bench/parts",
    "bench/power",
    "bench/compare",
    "bench/packing",
    "grounds",
    "grounds/side-by-side",
    "grounds/places",
    "nights",
    "nights/whole",
    "nights/what-suits",
    "nights/season",
    "nights/targets",
    "nights/trips",
    "framing",
    "framing/panels",
    "framing/way",
    "pole",
    "pole/by-day",
    "pole/scope",
    "pole/photographs",
    "pole/drift",
    "pole/record",
    "exposure",
    "exposure/light",
    "exposure/how-many",
    "exposure/card",
    "exposure/test-picture",
    "exposure/my-camera",
    "exposure/my-lens",
    "exposure/compare",
    "out-there",
    "frames",
    "plans",
    "account",
    "about",
]
LEAST_PX = 44  # of what is pressed on the two small screens
INLINE_PX = 24  # of what stands in the middle of a sentence or a cell

AUDIT = Path(__file__).with_name("audit.js").read_text()


def wrong_with(page, size: str) -> list[str]:
    """Sentences on what is too wide, too small to press or under another label."""
    return page.evaluate(AUDIT, [size != "laptop", LEAST_PX, INLINE_PX])
