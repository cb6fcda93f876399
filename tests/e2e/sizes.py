"""Every page with what shows that it is there, and what is wrong with one on a screen, measured in the browser."""

from pathlib import Path

SIZES = {"phone": (390, 844), "tablet": (768, 1024), "laptop": (1280, 800)}
# By its path: what there is once the page has its answer.
SIDES = {
    "tonight": ".verdicts",
    "bench": ".verdicts section",
    "bench/parts": ".inventory tbody",
    "bench/power": ".cards",
    "bench/compare": ".compare tbody",
    "bench/packing": ".groups",
    "grounds": ".profile",
    "grounds/side-by-side": ".spots tbody",
    "grounds/places": ".places tbody",
    "nights": ".fortnight li",
    "nights/whole": ".block",
    "nights/what-suits": ".suits tbody, .suits .lines",
    "nights/season": ".usable",
    "nights/targets": ".catalogue tbody",
    "nights/trips": ".trips tfoot",
    "framing": ".wanted li",
    "framing/panels": ".table tbody tr",
    "framing/way": ".ways tbody tr",
    "pole": ".reach li",
    "pole/by-day": ".rough",
    "pole/scope": ".view",
    "pole/photographs": ".drop",
    "pole/drift": ".star",
    "pole/record": ".record",
    "exposure": ".subwindow .free",
    "exposure/light": ".plot svg path",
    "exposure/how-many": ".plot svg path",
    "exposure/card": ".ladder li",
    "exposure/test-picture": ".drop",
    "exposure/my-camera": ".isotable tbody tr",
    "exposure/my-lens": ".drop",
    "exposure/compare": ".compare tbody td",
    "out-there": ".box",
    "frames": ".bar",
    "plans": ".nights",
    "account": ".sheet",
    "about": "dl",
}
# Instruments that a laptop shows without scrolling.
WITHOUT_SCROLLING = tuple(
    side for side in SIDES if side.startswith(("grounds", "nights", "framing", "pole", "exposure", "out-there", "frames"))
)
LEAST_PX = 44  # of what is pressed on the two small screens
INLINE_PX = 24  # of what stands in the middle of a sentence or a cell

AUDIT = Path(__file__).with_name("audit.js").read_text()


def wrong_with(page, size: str) -> list[str]:
    """Sentences on what is too wide, too small to press or under another label."""
    return page.evaluate(AUDIT, [size != "laptop", LEAST_PX, INLINE_PX])
