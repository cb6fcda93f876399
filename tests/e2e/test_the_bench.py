"""A third rig from nothing: parts, weights, files, and what the verdicts make of it."""

import json
import re

from playwright.sync_api import Page, expect

from tests.e2e.conftest import choose
from tests.e2e.test_bench_of_forms import add_new_part, empty_rig


def to_the_bench(page: Page) -> None:
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("region", name="Balance").wait_for()


def line(page: Page, topic: str):
    return page.get_by_role("region", name=topic, exact=True).locator(".sentence")


def take(page: Page, *names: str) -> None:
    """Parts out of the inventory onto the rig."""
    page.get_by_role("button", name="Add a part").click()
    sheet = page.get_by_role("dialog", name="Add a part")
    for name in names:
        sheet.get_by_role("button", name=f"Add {name}", exact=True).click()
        expect(sheet.get_by_role("button", name=f"Add {name}", exact=True)).to_have_count(0)
    sheet.get_by_role("button", name="Close").click()
    expect(sheet).to_be_hidden()


def drag(page: Page, name: str, dx: float, dy: float) -> None:
    box = page.get_by_role("slider", name=name, exact=True).locator(".grip").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2, steps=4)
    page.mouse.move(x + dx, y + dy, steps=4)
    page.mouse.up()


def test_a_third_rig_is_built_balanced_exported_deleted_and_taken_in_again(signed_in, tmp_path):
    page = signed_in()
    to_the_bench(page)
    empty_rig(page)
    expect(page.get_by_label("Name of the rig")).to_have_value("New rig")
    name = page.get_by_label("Name of the rig")
    name.fill("Kestrel, built here")
    name.press("Enter")
    expect(page.get_by_text("Renamed New rig.")).to_be_visible()

    take(page, "Bracket", "Shaft", "Second weight", "85 mm portrait", "Small tracker")
    add_new_part(
        page,
        "camera",
        {
            "Name": "Third body",
            "Mass (g)": "500",
            "Sensor, long side (mm)": "23.5",
            "Sensor, short side (mm)": "15.6",
            "Pixel pitch (µm)": "3.9",
        },
    )
    page.get_by_role("dialog", name="Add a part").get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.locator("dialog[open]")).to_have_count(0)
    expect(line(page, "Payload")).to_contain_text("1.34 kg is 45 % of the rating: easy")
    expect(line(page, "Mounting")).to_contain_text("Bracket and counterweight suit 85 mm")
    expect(line(page, "Complete")).to_contain_text("no tripod")

    # Dragging the weight along its shaft changes the verdict; the button puts it where the moments cancel.
    weight = page.get_by_role("slider", name="Second weight", exact=True)
    before = int(weight.get_attribute("aria-valuenow") or 0)
    drag(page, "Second weight", -60, -130)
    expect(weight).not_to_have_attribute("aria-valuenow", str(before))
    expect(line(page, "Balance")).to_contain_text("The camera side is")
    page.get_by_role("button", name="Put the weight right").click()
    expect(line(page, "Balance")).to_contain_text("Balanced to 0.00 kg·cm")
    page.get_by_role("button", name="Undo").click()
    expect(line(page, "Balance")).to_contain_text("The camera side is")

    # A place that is none is told with the part's name; nothing on the page is lost, and what was typed stands.
    arm = page.get_by_label("Arm of Second weight, negative on the weight side")
    arm.fill("far out")
    arm.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="Second weight: This is no length; write it like 120 mm")).to_be_visible()
    expect(arm).to_have_value("far out")
    expect(line(page, "Balance")).to_contain_text("The camera side is")
    expect(page.get_by_label("Arm of Shaft, negative on the weight side")).to_have_value("-150")
    arm.fill("-60")
    arm.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="This is no length")).to_have_count(0)

    # By keyboard alone: move the weight, read the result.
    weight.focus()
    told = weight.get_attribute("aria-valuetext") or ""
    for _ in range(3):
        page.keyboard.press("PageDown")
    expect(weight).not_to_have_attribute("aria-valuetext", told)
    assert re.search(r"mm out on the weight side, 700 g, moment [\d.]+ kg·cm", weight.get_attribute("aria-valuetext") or "")

    # A zoom in place of the prime; a part that two rigs want is marked.
    page.get_by_role("combobox", name=re.compile("^lens: 85 mm portrait")).select_option(label="Old zoom")
    expect(page.get_by_label("Zoom set to, mm")).to_be_visible()
    page.get_by_label("Zoom set to, mm").fill("500")
    page.get_by_label("Zoom set to, mm").press("Enter")
    expect(page.get_by_role("alert").filter(has_text="give a value from 70 to 210 mm")).to_be_visible()
    expect(page.get_by_label("Zoom set to, mm")).to_have_value("500")
    page.get_by_label("Zoom set to, mm").fill("135")
    page.get_by_label("Zoom set to, mm").press("Enter")
    expect(line(page, "Optics")).to_contain_text("5.96″ a pixel")  # 206.265 x 3.9 / 135
    expect(page.locator(".shared").first).to_be_visible()

    # Every figure opens its working.
    page.get_by_role("button", name=re.compile("^Weight belongs at: .* Open the working")).click()
    expect(page.get_by_role("dialog")).to_contain_text("r = (M_wanted − M_rest) / m")
    page.keyboard.press("Escape")

    # Out to a file, away, back by undo, away again, in from the file.
    page.get_by_role("link", name="Inventory").click()
    page.get_by_role("button", name="Files in and out").click()
    with page.expect_download() as saved:
        page.get_by_role("button", name="All, as JSON").click()
    kit = tmp_path / "kit.json"
    saved.value.save_as(kit)
    assert "Kestrel, built here" in {rig["name"] for rig in json.loads(kit.read_text())["rigs"]}
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    page.get_by_role("link", name="Rig", exact=True).click()

    def delete() -> None:
        page.get_by_role("button", name="Delete rig").click()
        expect(page.get_by_text("Deleted the rig “Kestrel, built here”.")).to_be_visible()

    delete()
    page.get_by_role("button", name="Undo").click()
    choose(page, "With rig", "Kestrel, built here")
    expect(page.get_by_label("Name of the rig")).to_have_value("Kestrel, built here")
    delete()
    page.get_by_role("link", name="Inventory").click()
    page.get_by_label("Find by name").fill("Second weight")
    page.get_by_role("button", name="Delete Second weight").click()
    expect(page.get_by_text("Nothing like that here.")).to_be_visible()
    page.get_by_role("button", name="Files in and out").click()
    wrong = tmp_path / "wrong.csv"
    wrong.write_text("kind,name,mass_g,colour\nplate,p,10,red\n")
    page.get_by_label("File", exact=True).set_input_files(wrong)
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("Column “colour” is not known")
    page.get_by_label("File", exact=True).set_input_files(kit)
    expect(page.get_by_role("dialog")).to_contain_text("Parts added: Second weight.")
    expect(page.get_by_role("dialog")).to_contain_text("Rigs added: Kestrel, built here.")
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    page.get_by_role("link", name="Rig", exact=True).click()
    choose(page, "With rig", "Kestrel, built here")
    expect(line(page, "Optics")).to_contain_text("5.96″ a pixel")


def test_a_part_in_use_is_archived_rather_than_deleted(signed_in, served):
    page = signed_in()
    to_the_bench(page)
    page.get_by_role("link", name="Inventory").click()
    page.get_by_label("Find by name").fill("Mount adapter")
    page.get_by_role("button", name="Delete Mount adapter").click()
    expect(page.get_by_role("alert")).to_contain_text("is used by Sparrow, wide and light")
    page.get_by_role("button", name="Archive it").click()
    expect(page.get_by_text("Nothing like that here.")).to_be_visible()
    page.get_by_role("checkbox", name="Put away").check()
    page.get_by_role("button", name="Take out Mount adapter").click()
    page.get_by_role("checkbox", name="Put away").uncheck()
    expect(page.get_by_role("button", name="Mount adapter", exact=True)).to_be_visible()


def test_schools_and_units_are_remembered_past_a_new_sign_in(page, served):
    page.goto(served.address)
    page.get_by_role("button", name="No account yet? Make one").click()
    page.get_by_label("Name").fill("ilse")
    page.get_by_label("Password").fill("tape-and-tripod")
    page.get_by_role("button", name="Make the account").click()
    page.get_by_role("link", name="Bench").click()
    empty_rig(page, last=True)
    add_new_part(page, "ball head", {"Name": "Head", "Mass (g)": "310"})
    page.get_by_role("dialog", name="Add a part").get_by_role("button", name="Close").click()
    expect(page.get_by_role("button", name="On the tripod: 310 g. Open the working")).to_be_visible()
    page.get_by_role("button", name=re.compile("^How")).click()
    choose(page, "Aperture", "wide open")
    choose(page, "Masses in", "lb and oz")
    page.get_by_role("button", name="Use these").click()
    expect(page.get_by_role("button", name="On the tripod: 10.9 oz. Open the working")).to_be_visible()

    page.get_by_role("button", name="Sign out").click()
    page.wait_for_url("**/sign-in**")
    expect(page.get_by_label("Name of the rig")).to_have_count(0)
    page.get_by_label("Name").fill("ilse")
    page.get_by_label("Password").fill("tape-and-tripod")
    page.get_by_role("button", name="Sign in", exact=True).click()
    page.get_by_role("link", name="Bench").click()
    expect(page.get_by_role("button", name="On the tripod: 10.9 oz. Open the working")).to_be_visible()
    page.get_by_role("button", name=re.compile("^How")).click()
    expect(page.get_by_label("Aperture", exact=True).locator("option:checked")).to_have_text("wide open")


def test_the_packing_list_survives_a_reload_and_remembers_what_stayed_at_home(signed_in):
    page = signed_in()
    to_the_bench(page)
    page.get_by_role("link", name="Packing").click()
    page.get_by_role("checkbox", name="Sparrow, wide and light", exact=True).check()
    expect(page.get_by_text("One part, two rigs: Intervalometer")).to_be_visible()
    page.get_by_role("button", name="Walks. Open the working").click()
    expect(page.get_by_role("dialog")).to_contain_text("n = m / limit, rounded up")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    tape = page.get_by_role("checkbox", name=re.compile("Tape that leaves no residue"))
    with page.expect_response(lambda answer: answer.request.method == "PUT" and "/api/packing" in answer.url):
        tape.check()
    with page.expect_response(lambda answer: answer.request.method == "PUT" and "/api/packing" in answer.url):
        page.get_by_role("button", name=re.compile("forgot it: Red light")).click()
    page.reload()
    expect(page.get_by_role("checkbox", name=re.compile("Tape that leaves no residue"))).to_be_checked()
    expect(page.get_by_role("button", name=re.compile("left at home: Red light"))).to_be_visible()
    page.get_by_role("button", name="Night after").click()
    first = page.get_by_role("region", name="Forgotten before").get_by_role("listitem").first
    expect(first).to_contain_text("Red light")
    expect(first).to_contain_text("forgotten once")


def test_two_rigs_side_by_side_and_the_power_of_the_night(signed_in):
    page = signed_in()
    to_the_bench(page)
    page.get_by_role("link", name="Compare").click()
    choose(page, "What to compare with", "Sparrow, wide and light")
    expect(page.get_by_role("row", name=re.compile("Optics Scale"))).to_contain_text("35.18″/px")
    choose(page, "What to compare with", "with 85 mm portrait")
    expect(page.get_by_role("row", name=re.compile("Optics Scale"))).to_contain_text("+4.83″/px")
    page.get_by_role("button", name=re.compile("^Tolerance of Heron, long and sturdy. Open")).click()
    expect(page.get_by_role("dialog")).to_contain_text("How “Pole” was worked out")
    page.keyboard.press("Escape")
    page.get_by_role("link", name="Power").click()
    lanes = page.get_by_role("img", name=re.compile("Crop body's cell 1"))
    expect(lanes).to_have_attribute("aria-label", re.compile("Crop body's cell 2 from .* lasts to the end"))
    # A bitter night: less in every battery, and the swap comes sooner.
    swap = page.locator(".swap").first.get_attribute("x1")
    page.get_by_role("button", name="Type the weather of this night").click()
    expect(page.get_by_label("Air at sunset (°C)")).to_be_focused()
    page.get_by_label("Coldest in the night (°C)").fill("-15")
    page.get_by_role("button", name="Use these").click()
    expect(page.locator(".swap").first).not_to_have_attribute("x1", swap or "")
