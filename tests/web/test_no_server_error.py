"""Requests that were once answered with a server error or by too much: each is answered in words, and no further than it may."""

import json
import logging
import os
import re
import resource
import signal

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tests.web.conftest import context_of, faults, listed, send
from widedusk.records.frames.folders import look_through, opened_frame
from widedusk.records.frames.models import Folder, Frame
from widedusk.records.pictures.store import lay_down
from widedusk.settings.logs import WhoAsked


def finite(value: object) -> bool:
    """Whether a whole answer can be written as JSON of RFC 8259, which knows no infinity."""
    json.dumps(value, allow_nan=False)
    return True


@pytest.mark.parametrize("turn", ["any", "rig", "bracket"])
def test_a_single_point_is_composed(ours, turn):
    rig = context_of(ours)["rig"]
    point = {"name": "M31", "ra_deg": 10.7, "dec_deg": 41.3}
    found = send(ours, "framings/compose", {"rig": rig, "turn": turn, "subjects": [point]})
    assert found.status_code == 200, found.content
    assert finite(found.json()) and found.json()["longest_mm"] is None


@pytest.mark.parametrize("school", ["best", "sky", "tracks", "fixed"])
def test_drift_is_told_by_every_rule_for_the_sub(ours, school):
    context = context_of(ours)
    stars = [
        {"azimuth_deg": 180, "altitude_deg": 50, "minutes": 5, "moved": 3, "unit": "px", "towards": "north"},
        {"azimuth_deg": 90, "altitude_deg": 35, "minutes": 5, "moved": 2, "unit": "px", "towards": "south"},
    ]
    for target in listed(ours, "targets"):
        for given in ([], stars):
            choices = {"sub_school": school, "fixed_sub_s": 60}
            found = send(ours, "pole/drift", {"context": {**context, "target": target["id"]}, "choices": choices, "stars": given})
            assert found.status_code in {200, 422}, found.content
            assert finite(found.json())


def test_a_path_that_no_disk_can_have_is_refused(ours, here):
    context = context_of(ours)
    for path in ("x" * 300, "a/" * 190, "..", "é" * 200, "con\u202e"):
        assert "There is no folder" in faults(send(ours, "frames/folders", {"context": context, "path": path}))["path"], path
        assert "There is no picture" in faults(send(ours, "pictures/folder", {"names": [path]}))["names"], path


@pytest.mark.parametrize(
    "kind",
    [
        "multipart/form-data",
        "multipart/form-data; boundary=" + "b" * 300,
        'multipart/form-data; boundary="',
        "multipart/form-data; boundary=\u00e9",
    ],
)
def test_an_upload_without_a_boundary_that_holds_is_refused(ours, here, kind):
    answer = ours.generic("POST", "/api/pictures", b"--x\r\n\r\nnothing", content_type=kind)
    assert answer.status_code in {400, 422}, answer.content
    assert answer.json()["faults"][0]["message"]


def test_headers_of_a_part_that_are_too_long_are_refused(ours, here):
    body = b'--b\r\nContent-Disposition: form-data; name="file"; filename="' + b"n" * 3000 + b'"\r\n\r\nx\r\n--b--\r\n'
    answer = ours.generic("POST", "/api/pictures", body, content_type="multipart/form-data; boundary=b")
    assert answer.status_code in {400, 413, 422}, answer.content
    assert answer.json()["faults"][0]["message"]


def test_answers_of_the_api_are_kept_by_nobody_on_the_way(ours, client):
    for answer in (ours.get("/api/rigs"), ours.get("/api/tonight/start"), client.get("/api/rigs"), ours.get("/api/nothing")):
        assert "no-store" in answer.headers["Cache-Control"], answer.request


def test_a_line_of_the_log_tells_when_and_who_asked_from_where(ours, caplog, rf, django_user_model):
    line = logging.Formatter(settings.LOGGING["formatters"]["line"]["format"])
    request = rf.get("/api/rigs", REMOTE_ADDR="192.0.2.7")
    request._cached_user = django_user_model.objects.get(username="demo")
    records = [logging.makeLogRecord({"name": "x", "msg": "torn", **more}) for more in ({"request": request}, {})]
    told = [line.format(record) for record in records if WhoAsked().filter(record)]
    assert f"account {request._cached_user.pk} from 192.0.2.7: torn" in told[0] and "account - from -: torn" in told[1]
    assert re.match(r"\d{4}-\d\d-\d\d \d\d:\d\d:\d\d", told[0])


def test_a_link_in_the_allowed_folder_is_neither_listed_nor_opened(ours, here, tmp_path):
    """It leads outside; one that is put there after the folder was read, in the place of a picture, is not opened either."""
    secret, night = tmp_path / "secret.jpg", here / "card" / "night"
    night.mkdir()
    Image.new("RGB", (500, 500)).save(secret)
    Image.new("RGB", (500, 500)).save(night / "real.jpg")
    os.utime(night / "real.jpg", (1e9, 1e9))  # not while it is still being written
    (night / "link.jpg").symlink_to(secret)
    (here / "card" / "elsewhere").symlink_to(tmp_path)
    context = context_of(ours)
    assert {one["path"]: one["files"] for one in listed(ours, "frames/folders/there")} == {"night": 1}
    assert "There is no folder" in faults(send(ours, "frames/folders", {"context": context, "path": "elsewhere"}))["path"]
    folder = send(ours, "frames/folders", {"context": context, "path": "night"}).json()["id"]
    look_through(Folder.objects.get(pk=folder))
    (frame,) = Frame.objects.filter(folder=folder)
    assert frame.name == "real.jpg"
    (night / "real.jpg").unlink()
    (night / "real.jpg").symlink_to(secret)
    with pytest.raises(FileNotFoundError), opened_frame(frame):
        pass


def test_a_full_disk_is_told_and_leaves_no_half_file(ours, here, tmp_path):
    """A limit of what one file may grow to stands for a disk that is full."""
    picture = tmp_path / "night.jpg"
    Image.effect_noise((900, 700), 90).save(picture, quality=95)
    before = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    limits = resource.getrlimit(resource.RLIMIT_FSIZE)
    try:
        resource.setrlimit(resource.RLIMIT_FSIZE, (50_000, limits[1]))
        assert picture.stat().st_size > 100_000
        answer = ours.post("/api/pictures", {"file": SimpleUploadedFile("night.jpg", picture.read_bytes())})
        with pytest.raises(OSError, match="too large"):
            lay_down("kept/one.jpg", picture)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, limits)
        signal.signal(signal.SIGXFSZ, before)
    assert answer.status_code == 507 and "no room left" in answer.json()["faults"][0]["message"]
    assert not [path for path in (here / "kept").rglob("*") if path.is_file()]
    assert ours.post("/api/pictures", {"file": SimpleUploadedFile("night.jpg", picture.read_bytes())}).status_code == 201
    kept = [path for path in (here / "kept").rglob("*") if path.is_file()]
    assert kept and all(path.stat().st_mode & 0o077 == 0 for path in kept), "no business of other people of the machine"
