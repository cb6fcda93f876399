"""The stand-in services that the demo talks to, started beside the web server."""

import subprocess

from widedusk.command import background
from widedusk.command.basics import LOG, Failure

FORECAST = "standins.forecast"
PART = "forecast"
USUAL_PORT = 8087


def words(port: int) -> tuple[str, ...]:
    return (FORECAST, "--port", str(port))


def address(port: int) -> str:
    return f"http://127.0.0.1:{port}/collections/weather"


def launch_forecast(port: int) -> subprocess.Popen[bytes]:
    """Start the stand-in forecast service with nobody to keep it, and wait until it answers. Raises Failure."""
    process = background.launch(words(port), LOG / "forecast.log", {})
    if background.comes_up(process, port):
        return process
    raise Failure("The stand-in forecast service did not come up; see var/log/forecast.log.")
