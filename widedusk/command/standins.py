"""The stand-in services that the demo talks to: started beside the web server, stopped with it."""

import subprocess

from widedusk.command import background
from widedusk.command.basics import LOG, ROOT, Failure, fingerprint, free_port, remember, remembered

FORECAST = "standins.forecast"
USUAL_PORT = 8087


def launch_forecast(port: int) -> subprocess.Popen[bytes]:
    """Start the stand-in forecast service and wait until it answers. Raises Failure."""
    process = background.launch((FORECAST, "--port", str(port)), LOG / "forecast.log", {})
    if background.comes_up(process, port):
        return process
    raise Failure("The stand-in forecast service did not come up; see var/log/forecast.log.")


def start() -> dict[str, str]:
    """Start what is not running; return what the web server needs to know of it."""
    kept = remembered()
    port, stamp = kept.get("forecast_port"), fingerprint([ROOT / "standins" / "forecast.py"])
    if not (
        isinstance(port, int)
        and kept.get("forecast_stamp") == stamp
        and background.is_ours(kept.get("forecast_pid"), FORECAST)
        and background.answers(port)
    ):
        stop()
        port = free_port(port if isinstance(port, int) else USUAL_PORT)
        remember(forecast_pid=launch_forecast(port).pid, forecast_port=port, forecast_stamp=stamp)
    return {"WIDE_DUSK_FORECAST_URL": f"http://127.0.0.1:{port}/"}


def stop() -> bool:
    """Stop the stand-ins. True when one was running."""
    return background.stop("forecast_pid", FORECAST)
