"""Whatever file a stranger sends ends in a sentence or is taken in; it reaches no other file and no address, and takes no more than
its share of memory and time."""

import os
import socket
import threading
import time
from pathlib import Path

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tests.web import hostile
from tests.web.conftest import begin, bring, context_of, shot
from widedusk.jobs.queue import measure_pictures
from widedusk.records.pictures.models import Picture

EVERYDAY_STEP = 6  # of the files that reach nowhere, every sixth; all of them in the nightly set
MOST_MB = 150  # by which the web server may grow
SECRET = "the-moon-is-behind-the-barn"


@pytest.fixture
def outside(tmp_path):
    """A file that nobody may read and a port at which nobody may call; the calls that came."""
    canary = tmp_path / "canary.txt"
    canary.write_text(f"name,ra_deg,dec_deg\n{SECRET},1,2\n")
    os.utime(canary, (1_000_000_000, 1_000_000_000))  # read, its time of reading would change
    calls: list[object] = []
    with socket.create_server(("127.0.0.1", 0)) as server:

        def listen() -> None:
            while True:
                try:
                    calls.append(server.accept()[1])
                except OSError:
                    return

        threading.Thread(target=listen, daemon=True).start()
        yield canary, server.getsockname()[1], calls


def resident_mb() -> float:
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6


def test_every_hostile_file_ends_in_a_sentence_and_reaches_nothing(ours, here, outside, settings, pytestconfig):
    canary, port, calls = outside
    spot, target = (context_of(ours)[name] for name in ("spot", "target"))
    step = 1 if pytestconfig.getoption("everything") else EVERYDAY_STEP
    files = list(hostile.reaching(canary, port))
    files += [*hostile.odd_tables(), *hostile.odd_pictures(), *hostile.changed()][::step]
    horizon, panels = f"places/spots/{spot}/horizon.csv", f"framings/file?target={target}"
    files += [(horizon, "h.csv", content) for door, _, content in files if door == hostile.PLACES][:40:step]
    files += [(panels, name, content) for door, name, content in files if door == hostile.TARGETS][:80:step]
    assert len(files) > 120
    for (door, name), content in hostile.sound().items():  # the sound ones are taken, so the others are refused for what they are
        answer = ours.post(f"/api/{door}", {"file": SimpleUploadedFile(name, content)})
        assert answer.status_code in {200, 201}, (door, name, answer.content[:300])
    Picture.objects.all().delete()
    for left in (here / "kept").iterdir():
        left.unlink()
    before, slowest, taken = resident_mb(), 0.0, 0
    for door, name, content in files:
        began = time.monotonic()
        answer = ours.post(f"/api/{door}", {"file": SimpleUploadedFile(name, content)})
        slowest = max(slowest, time.monotonic() - began)
        what = (door, name, content[:120], answer.content[:400])
        assert answer.status_code in {200, 201, 413, 422}, what
        assert SECRET not in answer.content.decode(errors="replace") and "Traceback" not in answer.content.decode(
            errors="replace"
        ), what
        taken += door == hostile.PICTURES and answer.status_code == 201
        if answer.status_code == 422:
            told = answer.json()["faults"]
            assert told and all(14 < len(fault["message"]) < 700 for fault in told), what
        Picture.objects.all().delete()
    assert not calls, "somebody called"
    assert canary.stat().st_atime == 1_000_000_000, "somebody read it"
    assert resident_mb() - before < MOST_MB
    assert slowest < 15, "five seconds are promised; a busy machine is slow, not wrong"
    assert len(list((here / "kept").iterdir())) == taken  # what was refused left nothing behind


@pytest.mark.parametrize(
    ("name", "content", "words"), [("scans.jpg", hostile.many_scans(20_000), "passes"), ("tile.tif", hostile.tile_bomb(), "MB")]
)
def test_a_picture_built_to_block_the_queue_is_refused_and_the_next_is_measured(ours, asked, here, jpegs, name, content, words):
    (here / name).write_bytes(content)
    one = bring(ours, here / name)
    made = begin(ours, asked, [shot(one, taken=None, focal_mm=180)], "pointing").json()
    next_one = begin(ours, asked, [shot(bring(ours, jpegs[0]), taken=None)], "pointing").json()
    for waiting in (made, next_one):
        measure_pictures(measurement=waiting["id"])
    assert ours.get(f"/api/pictures/measurements/{next_one['id']}").json()["state"] == "done"
    told = ours.get(f"/api/pictures/measurements/{made['id']}").json()
    assert told["state"] == "failed" and words in told["faults"][0]["message"], told["faults"]
