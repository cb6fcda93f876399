"""The built field with a pack in it as one page: nothing is fetched, so it opens from a disk or a phone's own files."""

import base64
import re
from functools import cache
from pathlib import Path

from django.conf import settings
from ninja.errors import HttpError

_SCRIPT = re.compile(r'<script type="module"[^>]*src="/static/field/([^"]+)"></script>')
_STYLE = re.compile(r'<link rel="stylesheet"[^>]*href="/static/field/([^"]+)">')
_OTHER_LINKS = re.compile(r'<link rel="(?:icon|apple-touch-icon|manifest)"[^>]*>')
_FONT = re.compile(r"url\(([^)]*?/([\w.-]+\.woff2))\)")
PACK = "<!-- the pack -->"


def _built() -> Path:
    return Path(settings.ROOT) / "frontend" / "dist" / "field"


@cache
def _page(stamp: float) -> str:
    """The page with script, style and fonts in it, and a place for the pack. stamp: of what it is built from."""
    built = _built()

    def font(found: re.Match[str]) -> str:
        content = base64.b64encode((built / "assets" / found[2]).read_bytes()).decode()
        return f"url(data:font/woff2;base64,{content})"

    def style(found: re.Match[str]) -> str:
        return f"<style>{_FONT.sub(font, (built / found[1]).read_text())}</style>"

    def script(found: re.Match[str]) -> str:
        content = (built / found[1]).read_text().replace("</script", "<\\/script")
        return f'{PACK}<script type="module">{content}</script>'

    page = _OTHER_LINKS.sub("", (built / "field.html").read_text())
    # The script goes behind the body's own element: what stands in the page itself is not put off until it is read.
    made = _STYLE.sub(style, page)
    found = _SCRIPT.search(made)
    if found is None:
        raise HttpError(503, "The field is not built on this server.")
    return made.replace(found[0], "").replace("</body>", f"{script(found)}</body>")


def one_file(pack: str) -> str:
    """A page by itself. pack: as JSON; what would end its element is written another way."""
    page = _built() / "field.html"
    if not page.is_file():
        raise HttpError(503, "The field is not built on this server.")
    carried = pack.replace("<", "\\u003c")
    return _page(page.stat().st_mtime).replace(PACK, f'<script type="application/json" id="pack">{carried}</script>')
