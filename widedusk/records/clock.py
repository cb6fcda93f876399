"""The only place that reads the clock."""

from datetime import UTC, date, datetime, timedelta
from pathlib import Path

from django.conf import settings

IN_A_FILE = "@"


def now() -> datetime:
    """The present instant, or the frozen one of WIDE_DUSK_NOW: written there, or in the file that it names after an @, which may
    change while the server runs."""
    words = settings.WIDE_DUSK_NOW
    if words.startswith(IN_A_FILE):
        words = Path(words.removeprefix(IN_A_FILE)).read_text().strip()
    if words:
        frozen = datetime.fromisoformat(words)
        return frozen if frozen.tzinfo else frozen.replace(tzinfo=UTC)
    return datetime.now(UTC)


def true_now() -> datetime:
    """The present instant even where the clock is frozen: for how long ago something happened."""
    return datetime.now(UTC)


def current_evening(longitude_deg: float) -> date:
    """Date of the evening whose night is under way or next, by mean solar time: it changes at noon."""
    return (now() + timedelta(hours=longitude_deg / 15.0 - 12.0)).date()
