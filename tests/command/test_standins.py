"""The stand-in services beside the web server: started once, found again, stopped."""

import json
import urllib.error
import urllib.request

from widedusk.command import basics, standins


def ask(address: str, **query: str) -> tuple[int, dict]:
    url = address + "?" + "&".join(f"{name}={value}" for name, value in query.items())
    try:
        with urllib.request.urlopen(url, timeout=30) as answer:  # noqa: S310
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as refused:
        return refused.code, json.load(refused)


PLACE = {"latitude_deg": "-24.62", "longitude_deg": "16.94", "height_m": "1420", "from": "2026-12-08T10:00Z"}


def test_the_stand_in_answers_the_same_whenever_it_is_asked():
    port = basics.free_port(None)
    service, address = standins.launch_forecast(port), standins.address(port)
    try:
        status, first = ask(address, **PLACE, hours="30")
        _, again = ask(address, **PLACE, hours="30")
        _, later = ask(address, **{**PLACE, "from": "2026-12-08T15:00Z"}, hours="5")
        assert status == 200 and first["hours"] == again["hours"] and first["hours"][5:10] == later["hours"]
        _, elsewhere = ask(address, **{**PLACE, "latitude_deg": "58.6"}, hours="30")
        assert elsewhere["hours"] != first["hours"]
        for wrong in ({"hours": "0"}, {"hours": "many"}, {"hours": "30", "from": "soon"}, {"hours": "30", "latitude_deg": "99"}):
            assert ask(address, **{**PLACE, **wrong})[0] == 422
    finally:
        service.kill()
        service.wait()


def test_invented_weather_is_weather():
    """Nights colder than days, summers warmer than winters, every figure within what the reader of forecasts takes."""
    from datetime import UTC, datetime, timedelta

    import numpy as np

    from standins.forecast import forecast
    from widedusk.core.night.weather import read_forecast

    def year(latitude: str, longitude: str, month: int):
        first = datetime(2026, month, 1, tzinfo=UTC)
        days = [first + timedelta(days=step) for step in range(0, 28, 7)]
        asked = [
            {**PLACE, "latitude_deg": latitude, "longitude_deg": longitude, "from": day.isoformat(), "hours": "168"} for day in days
        ]
        return [read_forecast(forecast(one, first)) for one in asked]

    january, july = year("-24.6", "0.0", 1), year("-24.6", "0.0", 7)
    hour = (january[0].mjd % 1) * 24
    by_day, by_night = (np.mean([one.temperature_c[mask] for one in january]) for mask in ((hour > 12) & (hour < 17), hour < 5))
    assert by_day > by_night + 5
    assert np.mean([one.temperature_c for one in january]) > np.mean([one.temperature_c for one in july]) + 3
    north = year("58.6", "0.0", 7)
    assert np.mean([one.temperature_c for one in north]) > np.mean([one.temperature_c for one in year("58.6", "0.0", 1)]) + 8
    cloud = np.concatenate([one.cloud_percent(one.mjd) for one in january + north])
    assert cloud.min() < 5 and cloud.max() > 80  # some nights are clear and some are not
