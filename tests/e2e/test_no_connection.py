"""What outlives a reload and the end of a session. What is left of every page without a connection is in test_every_page.py."""

import re

from tests.e2e.journeys import wait_until

# What Tonight was answered once the address had taken up the choices of the plan.
WITH_THE_PLANS_CHOICES = r'"queryKey":\["tonight",\{[^}]*alignment_arcmin'


def test_answers_outlive_a_reload_and_go_with_whoever_signs_out(signed_in, served):
    page = signed_in()
    page.get_by_role("region", name="Card").wait_for()
    kept = """() => new Promise((done) => {
      const asked = indexedDB.open('wide-dusk')
      asked.onsuccess = () => {
        const read = asked.result.transaction('answers').objectStore('answers').getAll()
        read.onsuccess = () => { asked.result.close(); done(read.result.join('')) }
      }
    })"""
    wait_until(page, kept, lambda text: re.search(WITH_THE_PLANS_CHOICES, text))  # written every two seconds
    page.route("**/api/tonight?*", lambda route: route.abort())
    page.reload()
    page.get_by_role("region", name="Card").wait_for()
    page.unroute("**/api/tonight?*")


def test_a_session_that_ran_out_leads_to_the_sign_in_page_and_back(signed_in, served):
    page = signed_in()
    page.wait_for_load_state("networkidle")  # so that the press is the first to be refused
    page.context.clear_cookies()
    page.get_by_role("button", name="Night after").click()
    page.get_by_role("button", name="Look around with the demo account").click()
    page.get_by_role("region", name="Exposure").wait_for()
    assert "night=2026-12-09" in page.url
