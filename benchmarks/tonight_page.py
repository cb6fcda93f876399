"""How long the server takes for one night of a saved plan, over HTTP, signed in.

    ./wide-dusk demo && .venv/bin/python -m benchmarks.tonight_page

Prints the median and the 95th percentile of 60 answers, and the same for the smallest answer of the same server beside it.
"""

import http.cookiejar
import json
import statistics
import time
import urllib.parse
import urllib.request

from widedusk.command.basics import remembered, secret

BASE = f"http://127.0.0.1:{remembered()['web_port']}"
browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar := http.cookiejar.CookieJar()))


def get(path: str) -> bytes:
    with browser.open(BASE + path) as answer:
        return bytes(answer.read())


def sign_in() -> None:
    get("/api/session")
    token = next(cookie.value for cookie in jar if cookie.name == "csrftoken")
    body = json.dumps({"username": "demo", "password": secret("demo")[:12]}).encode()
    headers = {"Content-Type": "application/json", "X-CSRFToken": str(token)}
    browser.open(urllib.request.Request(f"{BASE}/api/session", body, headers, method="POST")).read()


def timed(path: str, times: int = 60) -> str:
    took = []
    for _ in range(times):
        started = time.perf_counter()
        get(path)
        took.append((time.perf_counter() - started) * 1e3)
    return f"median {statistics.median(took):6.1f} ms, 95th percentile {statistics.quantiles(took, n=20)[-1]:6.1f} ms"


def main() -> None:
    sign_in()
    plan = json.loads(get("/api/plans"))["items"][0]
    asked = {name: plan[name] for name in ("rig", "spot", "night", "target")} | plan.get("choices", {})
    night = f"/api/tonight?{urllib.parse.urlencode(asked)}"
    get(night)
    print(f"night of a saved plan  {timed(night)}")
    print(f"health, for comparison {timed('/health')}")


if __name__ == "__main__":
    main()
