"""A night of frames from the card to what it teaches: sixty in which a worm turns, somebody stumbles, a cloud passes and dew
falls; a folder that fills while one looks; and workers that are killed again and again."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlsplit

import boto3
import numpy as np
import psycopg
import pytest
from moto.server import ThreadedMotoServer
from PIL import Image
from playwright.sync_api import Page, expect

from demo.pictures import SITE
from standins.run_of_frames import Night, shoot
from tests.cached_result import DRAWING, cached_result
from tests.e2e.conftest import PictureWorker, Served, a_site, age_heartbeats, choose, own, weather_is_known
from tests.e2e.journeys import BOTH, sized, violations, wait_until
from tests.e2e.sizes import wrong_with
from widedusk.command import standins

NIGHT = Night(SITE, datetime(2026, 12, 8, 20, 30, tzinfo=UTC), (55.0, 100.0), sides=(1200, 802))
READ_MS = 420_000
MEASURED_MORE_THAN = """(count) => [...document.querySelectorAll('.folders > li')]
  .some((one) => one.textContent.includes('many') && Number(one.textContent.match(/(\\d+) of \\d+ measured/)?.[1]) > count)"""
SITE_NAME = "widedusk_frames"


def shot_frames(numbers: range) -> dict[str, bytes]:
    """Frames of the night as the camera writes them, by name."""

    def shot() -> dict[str, bytes]:
        with TemporaryDirectory() as folder:
            return {path.name: path.read_bytes() for path in shoot(Path(folder), NIGHT, numbers, 120)}

    return cached_result("run-of-frames", DRAWING, (NIGHT, numbers), shot)


@pytest.fixture(scope="module")
def many(pytestconfig) -> int:
    """Black frames in one folder."""
    return 200 if pytestconfig.getoption("everything") else 36


@pytest.fixture(scope="module")
def card(tmp_path_factory, many) -> Path:
    """The allowed folder: one night whole, one that will fill, one of many black frames."""
    root = tmp_path_factory.mktemp("frames-card")
    for name in ("run", "live", "many"):
        (root / name).mkdir()
    for name, content in shot_frames(range(60)).items():
        (root / "run" / name).write_bytes(content)
    rng = np.random.default_rng(3)
    for number in range(many):
        Image.fromarray(rng.integers(0, 3, (420, 620), dtype=np.uint8)).save(root / "many" / f"D{number:04d}.jpg")
    return root


@pytest.fixture(scope="module")
def bucket() -> Iterator[tuple[str, object]]:
    """A general S3 server on loopback: its address as a setting, and the bucket that uploads go to."""
    server = ThreadedMotoServer("127.0.0.1", 0)
    server.start()
    host, port = server.get_host_and_port()
    keys = {"aws_access_key_id": "somebody", "aws_secret_access_key": "secret"}
    night = boto3.resource("s3", endpoint_url=f"http://{host}:{port}", region_name="us-east-1", **keys).Bucket("night-of-frames")
    night.create()
    yield f"http://somebody:secret@{host}:{port}/night-of-frames", night
    server.stop()


@pytest.fixture(scope="module")
def site(forecast, demo_copy, card, bucket) -> Iterator[Served]:
    more = {
        "WIDE_DUSK_FORECAST_URL": standins.address(forecast.port),
        "WIDE_DUSK_PICTURE_FOLDER": str(card),
        "WIDE_DUSK_OBJECT_STORE": bucket[0],
    }
    with a_site(demo_copy, SITE_NAME, **more) as one:
        yield one


@pytest.fixture(scope="module")
def hands(site, pytestconfig) -> Iterator[list[PictureWorker]]:
    """Two workers that share the night; the second is started by whoever needs it."""
    both = [PictureWorker(site.env, remembers=not pytestconfig.getoption("everything")) for _ in range(2)]
    both[0].start()
    yield both
    for one in both:
        one.kill()


@pytest.fixture
def frames_page(signed_in, site, hands):
    def go(size: str = "laptop") -> Page:
        page = sized(signed_in(site.address), size)
        page.goto(page.url.replace("/tonight", "/frames"))
        page.get_by_role("region", name="Folders of frames").wait_for()
        return page

    return go


def read_folder(page: Page, name: str, watched: bool = False) -> None:
    choose(page, "Folder of frames", name)
    if watched:
        page.get_by_label("Watch it while the night runs").check()
    page.get_by_role("button", name="Read the folder").click()


def cause(page: Page, name: str):
    return page.get_by_role("region", name="Causes").locator("details").filter(has_text=name)


def undo(page: Page, words: str) -> None:
    """Take back what was said last, and nothing that was said before it."""
    bar = page.get_by_role("status").filter(has_text=words)
    bar.get_by_role("button", name="Undo").click()
    expect(bar).to_be_hidden()


def counts(page: Page) -> tuple[int, int, int]:
    """Kept, kept with less weight, culled, as the run's card says."""
    card = page.get_by_role("region", name="Frames", exact=True)
    return tuple(
        int(card.locator(".figures div").filter(has=page.get_by_text(name, exact=True)).locator("dd").inner_text())
        for name in ("Kept", "Kept with less weight", "Culled")
    )  # type: ignore[return-value]


def test_a_night_is_judged_and_the_person_has_the_last_word(frames_page):
    page = frames_page()
    read_folder(page, "run ·")
    expect(page.get_by_text("60 of 60 measured")).to_be_visible(timeout=READ_MS)
    expect(page.get_by_role("region", name="Frames", exact=True)).to_contain_text("of 60 frames")  # the last one is judged, too

    # Each cause with the frames it was put into.
    for name, frames in (
        ("Periodic error of the worm", None),
        ("Dew on the glass", range(NIGHT.dew_from + 5, 60)),
        ("Cloud passing", range(NIGHT.cloud[0] + 1, NIGHT.cloud[1])),
        ("Something was knocked", [NIGHT.knock_at]),
        ("A satellite", [NIGHT.satellite_at]),
    ):
        one = cause(page, name)
        expect(one).to_be_visible()
        if frames is None:
            continue
        if one.get_attribute("open") is None:
            one.locator("summary").click()
        one.get_by_role("button", name="Show only its frames").click()
        rows = page.get_by_role("region", name="Frames with their figures").get_by_role("row")
        names = rows.get_by_role("rowheader").all_inner_texts()
        assert {f"RUN_{number + 1:04d}.JPG" for number in frames} <= set(names), name
        one.get_by_role("button", name="Show all frames").click()

    # Steps by keys, and two are overruled.
    look = page.get_by_role("region", name="One frame")
    page.locator("body").click(position={"x": 640, "y": 5})
    page.keyboard.press("ArrowRight")
    expect(look.get_by_role("heading")).to_have_text("RUN_0002.JPG")
    for _ in range(20):
        page.keyboard.press("ArrowRight")
    expect(look.get_by_role("heading")).to_have_text("RUN_0022.JPG")
    kept, less, culled = counts(page)
    page.keyboard.press("k")  # under cloud; the person wants it
    expect(look.locator(".word")).to_contain_text("kept, by you")
    for _ in range(20):
        page.keyboard.press("ArrowRight")
        if look.locator(".word").inner_text() == "kept":
            break
    page.keyboard.press("c")
    expect(look.locator(".word")).to_contain_text("culled, by you")
    expect(page.get_by_role("region", name="Frames", exact=True)).to_contain_text(f"{kept + less} of 60")
    assert counts(page) == (kept, less, culled)  # one each way
    undo(page, "culled.")
    expect(look.locator(".word")).to_have_text("kept")

    # A line drawn on the plot.
    choose(page, "Cull by a line", "Starlight")
    page.get_by_label("Where the line lies").fill("95")
    page.get_by_role("button", name=re.compile(r"Cull \d+ below it")).click()
    expect(page.get_by_role("status").filter(has_text="frames: culled")).to_be_visible()
    assert counts(page)[2] > culled

    # Out: a list whose words are those on the page, and a sidecar for every file.
    with page.expect_download() as waiting:
        page.get_by_role("button", name="CSV", exact=True).click()
    lines = Path(waiting.value.path()).read_text().splitlines()
    assert len(lines) == 61
    assert sum(",cull," in line for line in lines) == counts(page)[2]
    with page.expect_download() as waiting:
        page.get_by_role("link", name="XMP sidecars").click()
    assert Path(waiting.value.path()).read_bytes()[:2] == b"PK"
    # None of the demo's targets is in these frames: nothing is counted until somebody says what they show.
    expect(page.get_by_role("button", name="Count what is kept for the target")).to_be_disabled()
    expect(page.get_by_text("Not recognised. Is this the right lens?")).to_be_visible()
    choose(page, "These frames show", "Vela")
    page.get_by_role("button", name="Use this target").click()
    page.get_by_role("button", name="Count what is kept for the target").click()
    expect(page.get_by_role("region", name="Out", exact=True)).to_contain_text("The files do not say the f-number; type it")
    page.get_by_label("f-number").fill("f/4")
    page.get_by_role("button", name="Count what is kept for the target").click()
    expect(page.get_by_text(re.compile(r"\d+ frames count for"))).to_be_visible()
    assert violations(page) == []

    # Beside the plan: every figure opens its working.
    beside = page.get_by_role("region", name="As planned, and as measured")
    expect(beside).to_contain_text(re.compile(r"\d of \d figures are as planned"))
    beside.get_by_role("button", name=re.compile("^Frames that are kept, measured: ")).click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("kept / frames")
    sheet.get_by_role("button", name="Close").click()
    expect(sheet).to_be_hidden()

    # What it teaches: the plan's sub follows, and goes back.
    taught = page.get_by_role("region", name="What it teaches")
    lesson = taught.locator("dl").filter(has_text="Periodic error")
    told = re.search(r"±([\d.]+) ± ([\d.]+)″ in (\d+) s", lesson.inner_text())
    assert told and abs(float(told[1]) - NIGHT.half_amplitude_arcsec) < 2 * float(told[2]) and abs(int(told[3]) - 430) <= 4

    axis = taught.locator("dl").filter(has_text="Axis in this run")
    off = re.search(r"measured ([\d.]+)′ off", axis.inner_text())
    assert off and abs(float(off[1]) - np.hypot(1.5, 1.0)) < 1.0
    axis.get_by_role("button", name="Keep as this night’s alignment").click()
    undo(page, "The axis is kept")

    def planned() -> float:
        return page.evaluate(
            "async () => (await (await fetch('/api/tonight' + location.search)).json()).card.exposure_s"  # as every page asks
        )

    weather_is_known(page)
    taught.wait_for()
    before = planned()
    lesson.get_by_role("button", name="Use it from now on").click()
    expect(lesson).to_contain_text("They agree.")
    assert planned() < before
    undo(page, "From now on this tracker is planned")
    expect(lesson.get_by_role("button", name="Use it from now on")).to_be_visible()
    assert planned() == before


@BOTH
def test_frames_at_every_size(frames_page, size):
    page = frames_page(size)
    expect(page.get_by_role("navigation", name="Runs")).to_be_visible()
    page.get_by_role("region", name="Causes").wait_for()
    assert wrong_with(page, size) == []
    assert violations(page) == []


def test_a_watched_folder_tells_of_dew_while_it_falls(frames_page, card):
    page = frames_page()
    read_folder(page, "live ·", watched=True)
    folder = page.locator(".folders > li").filter(has_text="live")
    numbers = range(NIGHT.dew_from - 6, NIGHT.dew_from + 10)
    for done, (name, content) in enumerate(shot_frames(numbers).items(), 1):
        partial = card / "live" / f"{name}.part"
        partial.write_bytes(content)
        partial.rename(card / "live" / name)  # as a camera leaves it: all there or not at all
        if done % 4 == 0:
            expect(folder).to_contain_text(f"{done} of {done} measured", timeout=READ_MS)
    page.get_by_role("navigation", name="Runs").get_by_role("button").filter(has_text="16 ×").click()
    expect(cause(page, "Dew on the glass")).to_be_visible()
    expect(page.get_by_role("alert").filter(has_text="Dew on the glass")).to_contain_text("Warm the glass")
    # And on the phone beside the tripod, while it is connected; seen once, it is quiet.
    night = page.evaluate("async () => (await (await fetch('/api/nights/field' + location.search)).json()).night")
    phone = page.context.new_page()
    phone.goto(f"{urlsplit(page.url)._replace(path='/field/', query='', fragment='').geturl()}#/{night}")
    call = phone.get_by_role("alertdialog", name="It is time").filter(has_text="Dew on the glass")
    expect(call).to_contain_text("Warm the glass")
    call.get_by_role("button", name="OK, got it").click()
    expect(call).to_be_hidden()


def test_files_of_this_device_are_measured_by_workers_that_share_no_disk(frames_page, hands, site, bucket, tmp_path):
    """Each worker has a disk of its own and no folder of pictures; the database and the object store are all they share."""
    for one in hands:
        one.kill()
    apart = []
    for name in ("first", "second"):
        own_disk = {"WIDE_DUSK_PICTURES": str(tmp_path / name), "WIDE_DUSK_PICTURE_FOLDER": ""}
        apart.append(PictureWorker({**site.env, **own_disk}))
    page = frames_page()
    files = []
    for number in range(16):
        files.append(tmp_path / f"N{number:03d}.jpg")
        Image.fromarray(np.random.default_rng(90 + number).integers(0, 3, (420, 620), dtype=np.uint8)).save(files[-1])
    page.get_by_label("Frames from this device").set_input_files(files)
    folder = page.locator(".folders > li").filter(has_text="Brought for")
    expect(folder).to_contain_text("0 of 16 measured")
    assert len(list(bucket[1].objects.all())) == 16
    try:
        for one in apart:
            one.start()
        expect(folder).to_contain_text("16 of 16 measured, 16 darks", timeout=READ_MS)
    finally:
        for one in apart:
            one.kill()
        hands[0].start()
    assert not list(tmp_path.glob("first/*")) and not list(tmp_path.glob("second/*"))


def test_a_folder_on_another_machine_is_measured_there(frames_page, hands, site, tmp_path):
    """It has the address of the database and nothing else of ours: no object store, no disk. The server sees none of its files."""
    for one in hands:
        one.kill()
    (tmp_path / "card" / "tonight").mkdir(parents=True)

    def black(number: int) -> None:
        dark = np.random.default_rng(700 + number).integers(0, 3, (420, 620), dtype=np.uint8)
        Image.fromarray(dark).save(tmp_path / "card" / "tonight" / f"F{number:03d}.jpg")

    for number in range(6):
        black(number)
    theirs = {"WIDE_DUSK_MACHINE": "laptop", "WIDE_DUSK_PICTURE_FOLDER": str(tmp_path / "card"), "WIDE_DUSK_OBJECT_STORE": ""}
    far = PictureWorker({**site.env, **theirs, "WIDE_DUSK_PICTURES": str(tmp_path / "own")}, elsewhere=True)
    far.start()
    try:
        page = frames_page()
        expect(page.get_by_role("region", name="Folders of frames")).to_be_visible()
        # Its folder is offered once it was heard.
        lent = "async () => (await (await fetch('/api/frames/folders/there')).json()).items.map((one) => one.machine)"
        wait_until(page, lent, lambda machines: "laptop" in machines)
        page.reload()
        read_folder(page, "laptop: tonight · 6 files", watched=True)
        folder = page.locator(".folders > li").filter(has_text="on laptop")
        expect(folder).to_contain_text("6 of 6 measured, 6 darks", timeout=READ_MS)
        black(6)
        expect(folder).to_contain_text("7 of 7 measured, 7 darks", timeout=30_000)
        far.kill()
        age_heartbeats(site)
        expect(folder).to_contain_text("“laptop” is not heard", timeout=60_000)
    finally:
        far.kill()
        hands[0].start()


def test_workers_are_killed_and_every_frame_is_measured_once(frames_page, hands, site, many):
    page = frames_page()
    hands[1].start()
    read_folder(page, "many ·")
    folder = page.locator(".folders > li").filter(has_text="many")
    expect(folder).to_contain_text(re.compile(rf"[1-9]\d* of {many} measured"), timeout=60_000)
    for turn in range(3):
        measured = int(re.search(r"(\d+) of \d+ measured", folder.inner_text())[1])
        page.wait_for_function(MEASURED_MORE_THAN, arg=min(measured + 3, many - 1))
        hands[turn % 2].kill()
        hands[turn % 2].start()
    expect(folder).to_contain_text(f"{many} of {many} measured", timeout=READ_MS)
    expect(folder).to_contain_text(f"{many} darks")
    given = {"port": site.env["WIDE_DUSK_DB_PORT"], "password": site.env["WIDE_DUSK_DB_PASSWORD"]}
    with psycopg.connect(host="127.0.0.1", dbname=own(SITE_NAME), user="widedusk", **given) as database:
        told = database.execute(
            "select times_measured, count(*) from frames_frame f join frames_folder d on d.id = f.folder_id "
            "where d.path = 'many' group by times_measured"
        ).fetchall()
    assert told == [(1, many)]
