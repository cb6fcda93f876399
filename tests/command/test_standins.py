"""The stand-in services beside the web server: started once, found again, stopped."""

import json
import urllib.error
import urllib.parse
import urllib.request

from widedusk.command import basics, standins

HERE = "POINT(16.94 -24.62)"


def ask(address: str, **query: str) -> tuple[int, dict]:
    url = f"{address}/position?{urllib.parse.urlencode({name.replace('_', '-'): value for name, value in query.items()})}"
    try:
        with urllib.request.urlopen(url, timeout=30) as answer:  # noqa: S310
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as refused:
        return refused.code, json.load(refused)


def nights(first: str, last: str) -> str:
    return f"2026-12-{first}:00Z/2026-12-{last}:00Z"


def test_the_stand_in_answers_the_same_whenever_it_is_asked():
    port = basics.free_port(None)
    service, address = standins.launch_forecast(port), standins.address(port)
    try:
        whole = nights("08T10:00", "09T15:00")
        status, first = ask(address, coords=HERE, datetime=whole)
        _, again = ask(address, coords=HERE, datetime=whole)
        _, later = ask(address, coords=HERE, datetime=nights("08T15:00", "08T19:00"))
        air = [one["ranges"]["air_temperature"]["values"] for one in (first, again, later)]
        assert status == 200 and air[0] == air[1] and air[0][5:10] == air[2]
        _, elsewhere = ask(address, coords="POINT(16.94 58.6)", datetime=whole)
        assert elsewhere["ranges"] != first["ranges"]
        for wrong in ({"coords": "here"}, {"coords": "POINT(0 99)"}, {"datetime": "soon"}, {"parameter_name": "luck"}):
            assert ask(address, **{"coords": HERE, "datetime": whole, **wrong})[0] == 400
    finally:
        service.kill()
        service.wait()


def test_invented_weather_is_weather():
    """Nights colder than days, summers warmer than winters, every figure within what the reader of forecasts takes."""
    from datetime import UTC, datetime, timedelta

    import numpy as np

    from standins.forecast import coverage
    from widedusk.core.night.weather import read_forecast
    from widedusk.outside.coverage import document_of

    def year(latitude: str, longitude: str, month: int):
        first = datetime(2026, month, 1, tzinfo=UTC)
        days = [first + timedelta(days=step) for step in range(0, 28, 7)]
        spans = [f"{day.isoformat()}/{(day + timedelta(hours=167)).isoformat()}" for day in days]
        asked = [{"coords": f"POINT({longitude} {latitude})", "datetime": one} for one in spans]
        return [read_forecast(document_of(coverage(one), "test", first)) for one in asked]

    january, july = year("-24.6", "0.0", 1), year("-24.6", "0.0", 7)
    hour = (january[0].mjd % 1) * 24
    by_day, by_night = (np.mean([one.temperature_c[mask] for one in january]) for mask in ((hour > 12) & (hour < 17), hour < 5))
    assert by_day > by_night + 5
    assert np.mean([one.temperature_c for one in january]) > np.mean([one.temperature_c for one in july]) + 3
    north = year("58.6", "0.0", 7)
    assert np.mean([one.temperature_c for one in north]) > np.mean([one.temperature_c for one in year("58.6", "0.0", 1)]) + 8
    cloud = np.concatenate([one.cloud_percent(one.mjd) for one in january + north])
    assert cloud.min() < 5 and cloud.max() > 80  # some nights are clear and some are not
