"""As an electrician would: describe a house, read the loop, come back tomorrow."""

import re

from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase


def number(text: str) -> float:
    """The first figure in a text."""
    return float(re.search(r"[\d,]+(?:\.\d+)?", text)[0].replace(",", ""))


class W3(BrowserCase):
    def figure(self, page, key):
        return number(page.inner_text(f"#row-{key} .figure"))

    def close(self, value, expected):
        self.assertLessEqual(abs(value - expected), 0.005 * expected, f"{value} for {expected}")

    def read_w3(self, page):
        self.close(self.figure(page, "highest_a"), 408.3)
        self.close(self.figure(page, "lowest_a"), 326.9)
        self.close(number(page.inner_text("#row-lowest_a dt .muted")), 16.3)
        self.assertIn("0.025 s", page.inner_text("#row-opens"))
        self.assertEqual(page.inner_text("#verdict-h"), "Trips instantaneously")
        self.tab(page, "loop")
        page.click("#row-touch .how")
        self.settle(page)
        shown = page.inner_text("#row-touch .working")
        self.close(number(shown.split("conductors cold:")[1]), 56.2)

    def test_typed_read_closed_and_found_again(self):
        person("wren")
        page = self.open()
        self.sign_in(page)
        page.click("text=Describe the first job")
        page.fill("#n-name", "Otterby Mill House")
        page.select_option("#n-p1-main-rating_a", "200")
        page.select_option("#n-p1-bond", "in")
        page.select_option("#n-s1-run", "overhead")
        page.fill("#n-s1-length_ft", "60")
        page.select_option("#n-s1-line_size", "4/0")
        page.select_option("#n-s1-line_material", "aluminium")
        page.select_option("#n-s1-neutral_size", "4/0")
        page.click("summary:has-text('utility')")
        page.fill("#n-u1-kva", "25")
        page.fill("#n-u1-percent_z", "1.7")
        page.fill("#n-u1-x_over_r", "1.6")
        page.type("#n-line", "20A 12/2 NM 85ft kitchen counter")
        page.wait_for_selector("text=12 AWG EGC")
        page.click("summary:has-text('magnetic trip of its breaker')")
        page.fill("#n-circuit-breaker-lo", "5")
        page.fill("#n-circuit-breaker-hi", "10")
        page.click("text=Show the loop")
        page.wait_for_selector("#verdict-h")
        self.read_w3(page)
        page.context.close()

        tomorrow = self.open()
        self.sign_in(tomorrow)
        tomorrow.click("text=Otterby Mill House")
        self.read_w3(tomorrow)
        sizes = tomorrow.inner_text(".sizes")
        for needed in ("12 Cu", "4 Cu"):
            self.assertIn(needed, sizes)


class Changing(BrowserCase):
    def setUp(self):
        self.owner = person("wren")
        self.job = job_of(self.owner)
        self.page = self.open()
        self.sign_in(self.page)
        self.page.goto(f"{self.live_server_url}/jobs/{self.job.pk}/service?at=c2")

    def test_one_change_one_swap_focus_kept(self):
        page = self.page
        page.evaluate("window.stays = true")
        page.fill("#f-c2-length_ft", "200")
        page.keyboard.press("Tab")
        page.wait_for_selector("#verdict-h:has-text('Delayed trip')")
        self.settle(page)
        self.assertEqual(page.evaluate("document.activeElement.id"), "f-c2-egc")
        self.assertEqual(page.input_value("#f-c2-length_ft"), "200 ft")
        self.assertTrue(page.evaluate("window.stays"), "the page was loaded again")

    def test_enter_saves_once_and_keeps_the_focus(self):
        page = self.page
        page.fill("#f-c2-length_ft", "90")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 2")
        self.settle(page)
        self.assertEqual(page.evaluate("document.activeElement.id"), "f-c2-length_ft")
        self.assertEqual(self.job.revisions.count(), 2)

    def test_size_breaker_and_every_return_path(self):
        page = self.page
        page.goto(page.url.replace("/service", "/buildings"))
        page.fill("#f-c2-line_size", "#14")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=at most 15 A is permitted", state="attached")
        page.fill("#f-c2-breaker-rating_a", "15")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=14 Cu", state="attached")
        page.click("#more-link")
        page.wait_for_selector("#more")
        page.select_option("#f-c2-method", "EMT")
        self.settle(page)
        for egc, shown in (
            ("raceway", "EMT alone"),
            ("both", "12 AWG"),
            ("none", "no return wire"),
            ("wire", "EGC 12 AWG"),
        ):
            page.select_option("#f-c2-egc", egc)
            page.wait_for_selector(f".map-card svg text:has-text('{shown}')")
        self.assertEqual(self.job.latest.site.circuit("c2").egc, "wire")

    def test_opening_the_bond(self):
        page = self.page
        page.click(".bond-here button:has-text('out')")
        page.wait_for_selector("#verdict-h:has-text('May not trip')")
        self.assertIn("120 V", page.inner_text("#row-touch"))
        self.assertIn("does not clear", page.inner_text("#row-touch"))
        self.assertIn("bond out", page.text_content(".map-card svg"))
        page.click(".bond-here button:has-text('in')")
        page.wait_for_selector("#verdict-h:has-text('Trips instantaneously')")

    def test_the_deciding_question(self):
        page = self.page
        page.goto(page.url.replace("/service", "/prove"))
        page.fill("#f-c2-length_ft", "")
        page.keyboard.press("Enter")
        page.wait_for_selector(".next :text('is the run longer than 142 ft?')")
        page.click(".next .answer:has-text('No')")
        page.wait_for_selector("text=no longer than 142 ft")
        self.assertEqual(page.query_selector(".answer"), None)
        self.assertEqual(page.inner_text("#verdict-h"), "Trips instantaneously")

    def test_a_refused_value_stays_with_its_sentence(self):
        page = self.page
        page.fill("#f-c2-length_ft", "eighty")
        page.keyboard.press("Tab")
        page.wait_for_selector("text=was not understood; write 85, 85 ft or 26 m")
        self.assertEqual(page.input_value("#f-c2-length_ft"), "eighty")

    def test_after_undo_every_field_is_what_the_server_holds(self):
        page = self.page
        page.fill("#f-c2-length_ft", "140")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 2")
        page.fill("#f-c2-egc_size", "10")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 3")
        page.click(".bond-here button:has-text('out')")
        page.wait_for_selector("text=revision 4")
        page.fill("#f-c2-length_ft", "999")  # typed, not saved, and focused
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 5")
        for expected in ("140 ft", "140 ft", "140 ft", "85 ft"):
            page.click("#undo")
            page.wait_for_selector("text=Took back")
            self.assertEqual(page.input_value("#f-c2-length_ft"), expected)
        self.assertEqual(page.input_value("#f-c2-egc_size"), "12 AWG")
        pressed = page.inner_text(".bond-here button[aria-pressed=true]")
        self.assertEqual(pressed, "in")
        page.click("#redo")
        page.wait_for_selector("text=Put back")
        self.assertEqual(page.input_value("#f-c2-length_ft"), "140 ft")

    def test_two_windows_lose_nothing_and_are_told(self):
        other = self.open()
        self.sign_in(other)
        other.goto(self.page.url)
        other.fill("#f-c2-length_ft", "120")
        other.keyboard.press("Enter")
        other.wait_for_selector("text=revision 2")
        self.page.fill("#f-c2-length_ft", "60")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("text=set this to 120 ft meanwhile")
        self.page.click("text=Put mine in: 60")
        self.page.wait_for_selector("text=revision 3")
        other.fill("#f-c2-egc_size", "10")
        other.keyboard.press("Enter")
        other.wait_for_selector("text=Both changes are kept")
        circuit = self.job.latest.site.circuit("c2")
        self.assertEqual((circuit.length_ft, circuit.egc_size), (60, "10"))

    def test_adding_a_circuit_by_its_sheath(self):
        page = self.page
        page.click(".rail a:has-text('Survey')")
        page.wait_for_selector("#line")
        page.type("#line", "15A 14/2 NM 40ft hall lights")
        page.wait_for_selector("text=14 AWG EGC")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=Line to enclosure at Hall lights")
        page.click(".outline a:has-text('Kitchen')")
        page.wait_for_selector("text=Line to enclosure at Kitchen counter")
        page.reload()
        self.assertIn("at=c2", page.url)

    def test_by_keyboard_alone(self):
        page = self.page
        page.focus("#f-p1-bond-loop-2")
        page.keyboard.press("Space")
        page.wait_for_selector("#verdict-h:has-text('May not trip')")
        self.settle(page)
        self.assertEqual(page.evaluate("document.activeElement.id"), "f-p1-bond-loop-2")
        page.focus(".tabs a[data-tab=loop]")
        page.keyboard.press("Enter")
        page.focus("#row-heat .how")
        page.keyboard.press("Enter")
        page.wait_for_selector("#row-heat .working")

    def test_without_script(self):
        page = self.open(script=False)
        self.sign_in(page)
        page.goto(self.page.url)
        page.fill("#f-c2-length_ft", "200")
        page.press("#f-c2-length_ft", "Enter")
        self.assertEqual(page.inner_text("#verdict-h"), "Delayed trip")
        page.click(".bond-here button:has-text('out')")
        self.assertEqual(page.inner_text("#verdict-h"), "May not trip")


class Around(BrowserCase):
    """What lies around the loop: lists, crew, themes, history, a phone in one hand."""

    def setUp(self):
        self.owner = person("wren")
        self.mate = person("mate")
        self.job = job_of(self.owner)
        self.page = self.open()
        self.sign_in(self.page)

    def visit(self, path, page=None):
        (page or self.page).goto(f"{self.live_server_url}{path}")

    def test_a_new_job_that_is_refused_keeps_what_was_typed(self):
        page = self.page
        self.visit("/jobs/new")
        page.fill("#n-s1-length_ft", "sixty")
        page.fill("#n-line", "20A 7/2 NM")
        page.click("text=Show the loop")
        page.wait_for_selector("text=3 things to correct")
        self.assertEqual(page.input_value("#n-s1-length_ft"), "sixty")
        self.assertEqual(page.input_value("#n-line"), "20A 7/2 NM")
        self.assertIn("7 AWG is not a size", page.inner_text("#read-back"))
        page.fill("#n-name", "Otterby")
        page.fill("#n-s1-length_ft", "60")
        page.fill("#n-line", "20A 12/2 NM 85ft kitchen")
        page.click("text=Show the loop")
        page.wait_for_selector(".next :text('is the main bond')")

    def test_the_crew_joins_and_sees_the_job(self):
        page = self.page
        self.visit(f"/jobs/{self.job.pk}/crew")
        page.fill("#name", "nobody")
        page.click("button.act:has-text('May change it')")
        page.wait_for_selector("text=Nobody here is called “nobody”")
        self.assertEqual(page.input_value("#name"), "nobody")
        page.fill("#name", "mate")
        page.click("button.act:has-text('May change it')")
        page.wait_for_selector("text=mate can now see and change this job")
        other = self.open()
        self.sign_in(other, "mate")
        other.click("text=Pebblewick")
        other.fill("#f-c2-length_ft", "120")
        other.keyboard.press("Enter")
        other.wait_for_selector("text=revision 2")
        self.visit(f"/jobs/{self.job.pk}/history")
        row = page.inner_text(".history li >> nth=0")
        self.assertIn("one-way length from 85 ft to 120 ft", row)
        self.assertIn("mate", row)

    def test_the_theme_stays(self):
        page = self.page
        page.click("text=Attic (dark)")
        page.wait_for_selector("html[data-theme=attic]")
        self.visit(f"/jobs/{self.job.pk}/service")
        self.assertEqual(page.get_attribute("html", "data-theme"), "attic")
        page.click("text=Light")
        page.wait_for_selector("html[data-theme=light]")

    def test_search_and_sign_out(self):
        page = self.page
        job_of(self.owner, name="Larkfield")
        self.visit("/")
        page.fill("#q", "lark")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=Larkfield")
        self.assertEqual(page.locator(".job").count(), 1)
        page.click("text=Sign out")
        page.wait_for_selector("#id_username")
        self.visit(f"/jobs/{self.job.pk}/service")
        self.assertIn("/sign-in", page.url)

    def test_a_phone_has_the_same_powers(self):
        page = self.open(PHONE)
        self.sign_in(page)
        self.visit(f"/jobs/{self.job.pk}/service", page)
        self.assertFalse(page.is_visible(".map-box"))
        legs = page.locator(".legs li")
        self.assertEqual(legs.count(), 6)
        self.assertIn("branch line", page.inner_text(".legs"))
        page.tap(".sheet-open")
        page.tap(".bond-here button:has-text('out')")
        page.wait_for_selector("#verdict-h:has-text('May not trip')")
        page.tap(".sheet-close")
        self.assertIn("no path back", page.inner_text(".legs"))
        page.tap("#undo")
        page.wait_for_selector("text=Took back")
        self.assertIn("Trips instantaneously", page.inner_text(".sheet-open"))

    def test_the_map_leads_to_its_parts_and_back_works(self):
        page = self.page
        self.visit(f"/jobs/{self.job.pk}/service?at=c2")
        page.click(".map-card a[href*='at=e1'] text")
        page.wait_for_selector("#facts-h:has-text('Electrodes')")
        self.assertIn("Line to the metal of Electrodes", page.inner_text(".verdict-card"))
        page.go_back()
        page.wait_for_selector("#facts-h:has-text('Kitchen counter')")

    def test_pointing_at_a_leg_lights_it_everywhere(self):
        page = self.page
        self.visit(f"/jobs/{self.job.pk}/service?at=c2")
        page.hover(".legs li[data-leg='s1.line']")
        lit = page.evaluate("[...document.querySelectorAll('.lit')].map(e => e.dataset.leg)")
        self.assertGreaterEqual(len(lit), 3)
        self.assertEqual(set(lit), {"s1.line"})

    def test_more_stays_open_through_a_change(self):
        page = self.page
        self.visit(f"/jobs/{self.job.pk}/service?at=c2")
        page.click("#more-link")
        page.wait_for_selector("#more")
        page.fill("#f-c2-name", "Counter by the window")
        page.keyboard.press("Enter")
        page.wait_for_selector("#facts-h:has-text('Counter by the window')")
        self.assertTrue(page.is_visible("#f-c2-breaker-lo"))
        page.fill("#f-c2-breaker-lo", "50")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=must be from 2 to 40")
        self.assertTrue(page.is_visible("#f-c2-breaker-lo"))
        self.assertEqual(page.input_value("#f-c2-breaker-lo"), "50")
