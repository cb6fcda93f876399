"""The cues of a night as iCalendar (RFC 5545), for a phone that will not ask the server."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

WARN_MIN = 10
KEPT = ("setup", "dark", "opens", "moonrise", "moonset", "dew", "closes")
NUMBERED = ("change-", "run-ends-", "battery")  # with a number behind


@dataclass(frozen=True)
class Reminder:
    key: str
    name: str
    moment: datetime  # aware, UTC


def write_cues(
    title: str, place: str, latitude_deg: float, longitude_deg: float, cues: Sequence[Reminder], stamp: datetime
) -> bytes:
    """The night's cues as one calendar, each with an alarm ten minutes before. Times are UTC, so no zone can be got wrong."""
    from icalendar import Alarm, Calendar, Event  # noqa: PLC0415 - loaded when somebody takes the cues along

    calendar = Calendar()
    calendar.add("prodid", "-//Wide Dusk//cues//EN")
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", title)
    for cue in cues:
        if cue.key not in KEPT and not cue.key.startswith(NUMBERED):
            continue
        event = Event()
        # The same cue of the same night replaces itself when it is taken in again.
        event.add("uid", f"{cue.key}-{cue.moment:%Y%m%dT%H}-{latitude_deg:.3f}-{longitude_deg:.3f}@wide-dusk")
        event.add("dtstamp", stamp)
        event.add("dtstart", cue.moment.replace(microsecond=0))
        event.add("duration", timedelta(minutes=5))
        event.add("summary", cue.name)
        event.add("description", title)
        event.add("location", place)
        event.add("geo", (latitude_deg, longitude_deg))
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", cue.name)
        alarm.add("trigger", timedelta(minutes=-WARN_MIN))
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
