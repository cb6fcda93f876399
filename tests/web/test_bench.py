"""The Bench through the API: parts, rigs, verdicts, habits, packing, files; each person's own."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from tests.web.conftest import context_of, faults, listed
from tests.web.test_records import post, put


def rig_named(client, word: str) -> dict:
    return next(rig for rig in listed(client, "rigs") if word in rig["name"])


def part_named(client, name: str) -> dict:
    return next(part for part in listed(client, "parts") if part["name"] == name)


def bench(client, rig: dict, **more) -> dict:
    context = context_of(client)
    place = {name: context[name] for name in ("spot", "night", "target")}
    answer = post(client, "/api/bench", {"rig": rig, **place, **more})
    assert answer.status_code == 200, answer.content
    return answer.json()


def said(answer: dict, topic: str) -> dict:
    return next(one for one in answer["verdicts"] if one["topic"] == topic)


def test_a_part_is_checked_kept_copied_archived_and_not_lost(ours):
    kinds = {one["kind"]: one for one in ours.get("/api/parts/kinds").json()["kinds"]}
    assert len(kinds) == 20 and {"focal_mm", "f_best"} <= {one["name"] for one in kinds["lens"]["fields"] if one["needed"]}
    told = faults(
        post(ours, "/api/parts", {"kind": "lens", "values": {"name": "Anvil", "mass_g": "90 kg", "focal_mm": "long", "f_best": 4}})
    )
    assert "90000 g cannot be right" in told["mass_g"] and told["focal_mm"] == "Give a number, like 2.8." and "f_widest" in told
    assert "no kind of part" in faults(post(ours, "/api/parts", {"kind": "spoon", "values": {"name": "x", "mass_g": 1}}))["kind"]
    assert (
        "already have" in faults(post(ours, "/api/parts", {"kind": "plate", "values": {"name": "Ball head", "mass_g": 1}}))["name"]
    )

    used, free = part_named(ours, "Counterweight"), part_named(ours, "Second weight")
    refusal = faults(ours.delete(f"/api/parts/{used['id']}"))[""]
    assert "used by Heron, long and sturdy" in refusal and "archive it" in refusal
    assert post(ours, f"/api/parts/{used['id']}/archive", {"away": True}).json()["archived"] is True
    assert used["id"] in {one["part"] for one in rig_named(ours, "Heron")["placed"]}
    assert used["name"] not in {one["name"] for one in listed(ours, "parts")}
    assert ours.get("/api/parts", {"archived": "true"}).json()["count"] == 1
    assert ours.delete(f"/api/parts/{free['id']}").status_code == 200
    assert post(ours, f"/api/parts/{free['id']}/restore").json()["values"] == free["values"]

    thick = {**used["values"], "thickness_mm": 250}
    assert (
        "Heron, long and sturdy would no longer hold together"
        in faults(put(ours, f"/api/parts/{used['id']}", {"kind": "counterweight", "values": thick}))[""]
    )
    assert (
        "stays one"
        in faults(put(ours, f"/api/parts/{used['id']}", {"kind": "plate", "values": {"name": "x", "mass_g": 1}}))["kind"]
    )


def test_nobody_reaches_another_persons_parts(ours, client_of):
    other = client_of("other")
    part, rig = part_named(ours, "Ball head"), rig_named(ours, "Sparrow")
    assert post(other, f"/api/parts/{part['id']}/archive", {"away": True}).status_code == 404
    assert "no part number" in faults(post(other, "/api/rigs", {**rig, "name": "taken"}))["placed.0.part"]
    context = context_of(ours)
    assert set(
        faults(
            post(
                other,
                "/api/bench",
                {"rig": {"name": "mine"}, "spot": context["spot"], "night": "2026-12-08", "target": context["target"]},
            )
        )
    ) == {"spot", "target"}
    assert set(
        faults(
            other.get("/api/bench/compare", {"left": rig["id"], "right": rig["id"], "spot": context["spot"], "night": "2026-12-08"})
        )
    ) <= {"spot", "left"}
    assert "spot" in faults(other.get("/api/packing", {"spot": context["spot"], "night": "2026-12-08"}))
    assert json.loads(other.get("/api/exchange/kit.json").json()["text"])["parts"] == []


def test_the_bench_follows_what_is_in_hand_without_keeping_it(ours):
    rig = rig_named(ours, "Heron")
    there = bench(ours, rig)
    assert [one["topic"] for one in there["verdicts"]] == [
        "Payload",
        "Balance",
        "Mounting",
        "Optics",
        "Back focus",
        "Power",
        "Dew",
        "Complete",
    ]
    weight = next(one for one in rig["placed"] if one["kind"] == "counterweight")
    weight["arm_mm"] = "-3 in"
    near = bench(ours, rig)
    assert "too heavy" in said(near, "Balance")["sentence"] and said(there, "Balance")["level"] == "go"
    assert near["drawing"]["solved_mm"] == pytest.approx(there["drawing"]["solved_mm"])
    weight["arm_mm"] = there["drawing"]["solved_mm"]
    assert "Balanced to 0.00 kg·cm" in said(bench(ours, rig), "Balance")["sentence"]
    assert rig_named(ours, "Heron")["placed"] != rig["placed"], "a reading keeps nothing"
    weight["arm_mm"] = "near"
    told = faults(post(ours, "/api/bench", {"rig": rig}))
    assert list(told) == [f"rig.placed.{rig['placed'].index(weight)}.arm_mm"]
    # Whatever is wrong is told at once, wherever it was typed.
    weight["arm_mm"] = 9999
    wrong = {"rig": {**rig, "star_fwhm_px": 99}, "spot": 10**6, "night": "2026-12-08", "choices": {"gap_s": -5}}
    told = faults(post(ours, "/api/bench", wrong))
    assert {"rig.star_fwhm_px", f"rig.placed.{rig['placed'].index(weight)}.arm_mm", "gap_s", "spot"} == set(told)


@pytest.mark.parametrize(
    ("topic", "choices"),
    [
        ("Payload", {"payload_school": "full"}),
        ("Balance", {"lifting": "camera east", "lifting_g_cm": 2000}),
        ("Balance", {"dec_school": "balance"}),
        ("Mounting", {"support_school": "ball head to 200"}),
        ("Optics", {"aperture_school": "wide"}),
        ("Dew", {"dew_school": "hood", "air_evening_c": 20, "air_low_c": 8, "humidity_percent": 60}),
    ],
)
def test_every_school_of_the_bench_is_remembered_and_changes_its_verdict(ours, topic, choices):
    rig = rig_named(ours, "Heron")
    if topic == "Mounting":
        rig["placed"] = [one for one in rig["placed"] if one["kind"] != "bracket"] + [{"part": part_named(ours, "Ball head")["id"]}]
    weather = {name: value for name, value in choices.items() if name in {"air_evening_c", "air_low_c", "humidity_percent"}}
    assert said(bench(ours, rig, choices=weather), topic) != said(bench(ours, rig, choices=choices), topic)
    kept = put(ours, "/api/habits/schools", choices).json()["choices"]
    assert kept == {name: value for name, value in choices.items() if name not in weather}
    ours.delete(f"/api/plans/{listed(ours, 'plans')[0]['id']}")
    assert ours.get("/api/tonight/start").json()["choices"] == kept


def test_units_are_the_persons_own(ours):
    kept = put(ours, "/api/habits/units", {"mass_unit": "lb", "length_unit": "in", "carry_limit": "26 lb"}).json()
    assert kept["carry_limit"] == "26 lb" and kept["carry_limit_g"] == pytest.approx(26 * 453.59237)
    assert part_named(ours, "Ball head")["mass"] == "10.9 oz"
    answer = bench(ours, rig_named(ours, "Heron"))
    assert "lb" in said(answer, "Payload")["sentence"] and "lb·in" in said(answer, "Balance")["sentence"]
    made = post(ours, "/api/parts", {"kind": "shaft", "values": {"name": "Rod", "mass_g": "8 oz", "length_mm": "10"}}).json()
    assert made["values"]["length_mm"] == pytest.approx(254) and made["texts"]["mass_g"] == "8 oz"
    assert (
        "from 1000 to 60000 g"
        in faults(put(ours, "/api/habits/units", {"mass_unit": "g", "length_unit": "mm", "carry_limit": "200 kg"}))["carry_limit"]
    )


def test_comparing_needs_whole_rigs_and_takes_another_lens(ours):
    context, heron = context_of(ours), rig_named(ours, "Heron")
    asked = {
        "left": heron["id"],
        "right": heron["id"],
        "lens": part_named(ours, "85 mm portrait")["id"],
        **{name: context[name] for name in ("spot", "night", "target")},
    }
    answer = ours.get("/api/bench/compare", asked).json()
    rows = {row["name"]: row for row in answer["rows"]}
    assert answer["right"]["title"].endswith("with 85 mm portrait") and rows["Scale"]["change"].startswith("+")
    assert {"Load", "Scale", "Field", "Tolerance", "Sub"} <= set(rows)
    bare = post(ours, "/api/rigs", {"name": "bare"}).json()
    assert (
        "no camera and no lens"
        in faults(ours.get("/api/bench/compare", {**asked, "right": bare["id"], "lens": ""} | {"lens": asked["lens"]}))["right"]
    )


def test_the_packing_list_keeps_ticks_notices_clashes_and_remembers(ours):
    context = {name: context_of(ours)[name] for name in ("spot", "night")}
    numbers = [rig["id"] for rig in listed(ours, "rigs")]
    first = ours.get("/api/packing", {**context, "rigs": numbers}).json()
    assert first["packing"]["clashes"] == ["Intervalometer: Heron, long and sturdy and Sparrow, wide and light"]
    kept = put(
        ours, "/api/packing", {**context, "rigs": numbers, "ticked": ["tape", "counterweight"], "forgotten": ["Dew strap, long"]}
    ).json()
    assert kept["ticked"] == ["counterweight", "tape"]
    again = ours.get("/api/packing", context).json()
    assert (
        again["ticked"] == kept["ticked"] and sorted(again["rigs"]) == sorted(numbers) and again["forgotten"] == ["dew strap, long"]
    )
    later = ours.get("/api/packing", {**context, "night": "2027-01-06", "rigs": numbers[:1]}).json()
    assert later["ticked"] == [] and later["packing"]["items"][0]["key"] == "dew strap, long"
    assert later["packing"]["items"][0]["group"] == "Forgotten before"


def test_a_rig_that_comes_back_brings_its_parts(ours):
    rig, part = rig_named(ours, "Sparrow"), part_named(ours, "Ball head")
    ours.delete(f"/api/rigs/{rig['id']}")
    assert ours.delete(f"/api/parts/{part['id']}").status_code == 200, "no rig uses it any more"
    back = post(ours, f"/api/rigs/{rig['id']}/restore").json()
    assert part["id"] in {one["part"] for one in back["placed"]} and part_named(ours, "Ball head")["used_by"] == [rig["name"]]
    assert said(bench(ours, back), "Mounting")["level"] == "go"
    zoom = {**back, "placed": [{"part": part_named(ours, "Old zoom")["id"]}], "name": "zoomed"}
    assert [one["zoom"] for one in post(ours, "/api/rigs", zoom).json()["placed"]] == [True]


def upload(client, name: str, content: bytes):
    return client.post("/api/exchange", {"file": SimpleUploadedFile(name, content)})


def test_a_rig_of_one_account_goes_into_another(ours, client_of):
    other = client_of("other")
    text = ours.get("/api/exchange/kit.json").json()["text"]
    taken = upload(other, "kit.json", text.encode()).json()
    assert len(taken["parts"]) == len(listed(ours, "parts")) and len(taken["rigs"]) == 2 and taken["renamed"] == []
    assert other.get("/api/exchange/kit.json").json()["text"] == text
    again = upload(other, "kit.json", text.encode()).json()
    assert again["parts"] == again["rigs"] == [] and again["there"] == len(taken["parts"]) + 2
    table = ours.get("/api/exchange/parts.csv").json()["text"].replace("Ball head,310", "Ball head,999")
    renamed = upload(other, "parts.csv", table.encode()).json()
    assert renamed["renamed"] == ["Ball head → Ball head 2"] and listed(other, "rigs") != []
    told = upload(other, "parts.csv", b"kind,name,mass_g,colour\nplate,p,1,red\n")
    assert "Column “colour” is not known" in faults(told)["file"]
    assert "bytes" in faults(upload(other, "big.csv", b"x" * 1_000_001))["file"]


@pytest.mark.nightly
def test_rigs_entered_before_there_was_a_cupboard_are_carried_over(empty_tables, django_user_model):
    executor = MigrationExecutor(connection)
    latest = executor.loader.graph.leaf_nodes()
    try:
        executor.migrate([("plans", None), ("trips", None), ("kit", "0001_initial")])
        old = executor.loader.project_state([("kit", "0001_initial")]).apps
        Camera, Lens, Tracker, Rig, Carried, IsoStep = (
            old.get_model("kit", name) for name in ("Camera", "Lens", "Tracker", "Rig", "Carried", "IsoStep")
        )
        owner = django_user_model.objects.create(username="early")
        for name in ("First", "Second"):
            camera = Camera.objects.create(
                name="Body", mass_g=500, width_mm=36, height_mm=24, pitch_um=6, raw_file_mb=30, response_nm=40, dark_e_s=0.02
            )
            IsoStep.objects.create(camera=camera, iso=800, read_noise_e=3, full_well_e=20_000)
            lens = Lens.objects.create(name="Lens", mass_g=400, focal_mm=50, f_widest=1.8, f_best=2.8)
            tracker = Tracker.objects.create(
                name="Tracker",
                rating_g=3000,
                rating_includes_counterweights=False,
                pe_half_amplitude_arcsec=20,
                pe_period_s=480,
                scope_view="inverted",
            )
            rig = Rig.objects.create(
                owner_id=owner.pk, name=name, support="ball head", star_fwhm_px=2.5, camera=camera, lens=lens, tracker=tracker
            )
            Carried.objects.create(rig=rig, name="Counterweight", mass_g=900, counterweight=True)
        executor = MigrationExecutor(connection)
        executor.migrate(latest)
        from widedusk.records.kit.services import rig_of, rigs_of

        rigs = [rig_of(row) for row in rigs_of(owner)]
        assert [(rig.name, rig.support, rig.lens.focal_mm, rig.camera.iso_steps[0].iso) for rig in rigs] == [
            ("First", "ball head", 50, 800),
            ("Second", "ball head", 50, 800),
        ]
        assert [rig.camera.name for rig in rigs] == ["Body", "Body 2"] and any(one.counterweight for one in rigs[0].carried)
    finally:
        MigrationExecutor(connection).migrate(latest)


def test_values_by_the_book_learned_and_by_hand_are_told_apart(ours):
    """What nobody typed is typical; a measured row is learned until somebody types over it; the rest stays."""
    typed = {"name": "Wren", "mass_g": 500, "width_mm": 36, "height_mm": 24, "pitch_um": 6, "raw_file_mb": 25}
    camera = post(ours, "/api/parts", {"kind": "camera", "values": typed}).json()
    origins = camera["origins"]
    assert origins["iso_steps.800"] == "book" == origins["response_nm"] and "mass_g" not in origins and "raw_file_mb" not in origins
    heron = rig_named(ours, "Heron")
    lens = next(one for one in heron["placed"] if one["kind"] == "lens")["part"]
    rig = post(ours, "/api/rigs", {"name": "still", "placed": [{"part": camera["id"]}, {"part": lens}]}).json()
    assert rig["star_fwhm_px"] == 2.5 and rig["star_origin"] == "book"
    body = {"rig": rig["id"], "iso": 800, "read_noise_e": 3.1, "full_well_e": 9000}
    before = post(ours, "/api/exposure/camera", body).json()
    assert before["origin"] == "book"
    row = part_named(ours, "Wren")
    assert row["origins"]["iso_steps.800"] == "learned" and row["origins"]["iso_steps.1600"] == "book"
    changed = {**row["values"], "pitch_um": 3}
    row = put(ours, f"/api/parts/{camera['id']}", {"kind": "camera", "values": changed}).json()
    table = {step["iso"]: step for step in row["values"]["iso_steps"]}
    assert table[800]["read_noise_e"] == 3.1 and table[1600]["full_well_e"] == 2000 * 9 / 16  # the estimate follows the pixels
    assert row["origins"]["iso_steps.800"] == "learned" and row["origins"]["iso_steps.1600"] == "book"
    steps = [{**step, "full_well_e": 1234} if step["iso"] == 1600 else step for step in row["values"]["iso_steps"]]
    row = put(ours, f"/api/parts/{camera['id']}", {"kind": "camera", "values": {**row["values"], "iso_steps": steps}}).json()
    assert "iso_steps.1600" not in row["origins"] and row["origins"]["response_nm"] == "book"
    undone = post(
        ours, "/api/exposure/camera", {**body, **{name: before[name] for name in ("read_noise_e", "full_well_e", "origin")}}
    )
    assert undone.json()["origin"] == "learned" and part_named(ours, "Wren")["origins"]["iso_steps.800"] == "book"
    kept = {"name": "still", "star_fwhm_px": 2.1, "placed": [{"part": camera["id"]}, {"part": lens}]}
    assert put(ours, f"/api/rigs/{rig['id']}", kept).json()["star_origin"] == "by hand"
