"""One account on two tabs: what one saved, the other does not save over unseen."""

from playwright.sync_api import expect


def test_two_tabs_on_one_part_and_the_choice_is_the_persons(signed_in, served):
    here = signed_in()
    there = here.context.new_page()

    def opened(page, name: str):
        page.goto(f"{served.address}/bench/parts")
        page.wait_for_load_state("networkidle")
        page.get_by_role("button", name=name, exact=True).click()
        drawer = page.get_by_role("dialog", name=f"Change “{name}”")
        drawer.wait_for()
        return drawer

    name = "85 mm portrait"
    ours, theirs = opened(here, name), opened(there, name)
    theirs.get_by_label("Mass", exact=False).first.fill("444")
    theirs.get_by_role("button", name="Save", exact=True).click()
    expect(theirs).to_be_hidden()

    ours.get_by_label("Mass", exact=False).first.fill("555")
    ours.get_by_role("button", name="Save", exact=True).click()
    asked = here.get_by_role("dialog", name="Changed elsewhere meanwhile")
    expect(asked.get_by_role("row").nth(1)).to_contain_text("444")
    asked.get_by_role("button", name="Back to the form").click()
    expect(ours.get_by_label("Mass", exact=False).first).to_have_value("555")  # nothing typed is lost
    ours.get_by_role("button", name="Save", exact=True).click()
    asked.get_by_role("button", name="Save mine over it").click()
    expect(ours).to_be_hidden()
    drawer = opened(there, name)
    assert drawer.get_by_label("Mass", exact=False).first.input_value().startswith("555")
    drawer.get_by_label("Mass", exact=False).first.fill("410")  # as the other tests know it
    drawer.get_by_role("button", name="Save", exact=True).click()
    expect(drawer).to_be_hidden()
    there.close()
