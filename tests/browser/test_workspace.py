"""The workspace in the hands of an electrician: survey, try, prove, undo; keys; two people."""

from playwright.sync_api import expect

from justloop.solved import solve
from returnpath.rules import unproven
from returnpath.site import Installation
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase
from .test_walk import number


class AtWork(BrowserCase):
    def setUp(self):
        self.owner = person("wren")
        self.page = self.open()
        self.sign_in(self.page)

    def job(self, name="pebblewick"):
        return job_of(self.owner, example(name), name="Pebblewick")

    def visit(self, job, stage, query="", page=None):
        (page or self.page).goto(f"{self.live_server_url}/jobs/{job.pk}/{stage}{query}")

    def type_line(self, line):
        page = self.page
        page.focus("#line")
        page.keyboard.type(line)
        page.wait_for_selector("#read-back .word")
        page.keyboard.press("Enter")
        expect(page.locator("#line")).to_have_value("")  # for the next
        self.settle(page)

    def test_a_house_from_nothing_to_its_fix_list(self):
        page = self.page
        page.click("text=Describe the first job")
        page.fill("#n-name", "Otterby Ferry House")
        page.select_option("#n-p1-main-rating_a", "200")
        page.select_option("#n-p1-bond", "in")
        page.click("text=Show the loop")
        page.wait_for_selector(".rail")
        page.click(".rail a:has-text('Survey')")
        page.wait_for_selector("#tally")
        for line in (
            "20A 12/2 NM 85ft kitchen counter",
            "20A 14/2 NM 40ft hall lights",
            "shed Ferry shed",
            "panel Shed panel in Ferry shed 60A 6/3 NM 90ft",
            "rod 8ft wire 6",
            "water pipe copper not bonded",
        ):
            self.type_line(line)
        text = page.inner_text(".outline")
        for name in ("Ferry shed", "Shed panel", "Ground rod", "Water pipe"):
            self.assertIn(name, text)
        page.click(".outline a:has-text('Shed panel') >> nth=0")
        page.wait_for_selector("#facts-h:has-text('Shed panel')")
        page.click(".bench-card .pick[id$='-bond'] button:has-text('in')")
        self.tab(page, "findings")
        page.wait_for_selector("text=Bonded although an EGC comes along")
        page.click(".rail a:has-text('Fix list')")
        page.wait_for_selector("#fix-h")
        found = page.inner_text(".stage-fix .wide")
        for words in ("14 AWG copper on 20 A", "The metal water pipe is not bonded",
                      "One rod alone"):  # fmt: skip
            self.assertIn(words, found)

    def test_the_studios_bond_tried_done_and_the_amperes_leave_the_metal(self):
        page, job = self.page, self.job()
        self.visit(job, "fix")
        group = page.locator(".wide-findings .finding:has-text('Loft studio')")
        self.assertIn("1.48 A of load rides", group.inner_text())
        group.locator("button:has-text('Try')").click()
        page.wait_for_selector(".trial")
        self.assertIn("1.48 A → 0.0354 A", page.inner_text(".trial"))
        page.click(".rail a:has-text('Buildings')")
        page.wait_for_selector(".map-box svg")
        svg = page.text_content(".map-box svg")
        self.assertIn("1.48 → 0 A", svg)
        self.assertEqual(job.revisions.count(), 1)
        page.click("#keep")
        page.wait_for_selector("text=Kept: Loft studio")
        self.assertEqual(job.revisions.count(), 2)
        self.assertEqual(page.query_selector(".trial"), None)
        page.click("[data-look=load]")
        page.wait_for_selector("#look-h")
        self.assertNotIn("Studio feeder", page.inner_text(".look-list"))

    def test_twenty_circuits_pasted(self):
        page, job = self.page, self.job()
        self.visit(job, "survey")
        page.click("#paste summary")
        lines = "\n".join(f"20A 12/2 NM {30 + n}ft room {n}" for n in range(20))
        page.fill("#list", lines + "\n20A 12 what")
        page.click("text=Add them all")
        page.wait_for_selector("text=Line 21")
        self.assertIn("room 19", page.input_value("#list"))
        page.fill("#list", lines)
        page.click("text=Add them all")
        expect(page.locator(".outline")).to_contain_text("Room 19")
        self.assertEqual(len(job.latest.site.circuits), 36)

    def test_questions_answered_until_the_house_is_proven(self):
        page, job = self.page, self.job()
        self.visit(job, "prove")
        left = [number(page.inner_text("#unproven"))]
        for _ in range(20):
            asks = page.locator(".asks .answers")
            if not asks.count():
                break
            first = page.inner_text(".asks li >> nth=0")
            answer = "Yes" if "manufacturers" in first else "No"
            asks.nth(0).locator(f"button:has-text('{answer}')").click()
            self.settle(page)
            left.append(number(page.inner_text("#unproven")))
        self.assertEqual((left[0], left[-1]), (8, 0))
        self.assertEqual(left, sorted(left, reverse=True))
        self.assertEqual(unproven(solve(job.latest.site).study), ())
        page.click("text=the test sheet")
        page.wait_for_selector(".sheet")
        self.assertEqual(page.locator(".sheet .blank").count(), 16)

    def test_a_neutral_broken_and_mended(self):
        page, job = self.page, self.job()
        self.visit(job, "service", "?at=c17")
        self.tab(page, "try")
        page.click(".try:has-text('Lose the service neutral')")
        page.wait_for_selector(".trial")
        page.click("[data-look=neutral]")
        page.wait_for_selector("#look-h")
        page.click("#keep")
        page.wait_for_selector("text=Kept")
        joint = job.latest.site.joints[-1]
        self.assertEqual(joint.open, "yes")
        self.visit(job, "buildings", f"?at={joint.id}")
        self.tab(page, "facts")
        page.click("text=Remove this joint")
        page.wait_for_selector("text=revision 3")
        self.assertFalse([j for j in job.latest.site.joints if j.on.element != "a33"])
        self.assertEqual(job.latest.site, job.revisions.get(number=1).site.model_copy(
            update={"last_id": job.latest.site.last_id}))  # fmt: skip

    def test_undo_it_all(self):
        page, job = self.page, self.job()
        first = job.latest.document
        self.visit(job, "fix")
        for name in ("Hall bath", "Loft studio", "Dishwasher"):
            found = page.locator(f".wide-findings .finding:has-text('{name}')")
            if page.locator("#more-fixes:not([open]) summary").count():  # the later ones are folded
                page.click("#more-fixes summary")
            found.locator("button:has-text('Do it')").first.click()
            self.settle(page)
        self.assertEqual(job.revisions.count(), 4)
        for _ in range(3):
            page.click("#undo")
            page.wait_for_selector("text=Took back")
        self.assertEqual(job.latest.document, first)
        self.assertTrue(page.is_disabled("#undo"))

    def test_keys_for_everything(self):
        page, job = self.page, self.job()
        self.visit(job, "service", "?at=c17")
        page.keyboard.press("?")
        page.wait_for_selector("#keys[open]")
        page.keyboard.press("Escape")
        page.wait_for_selector("#keys:not([open])", state="hidden")
        for key, wanted in (("l", "[data-look=load][aria-current]"),
                            ("n", "[data-look=neutral][aria-current]"),
                            ("t", "[data-look=touch][aria-current]"),
                            ("f", "[data-look=fault][aria-current]"),
                            ("j", "#facts-h:has-text('Hall bath')"),
                            ("k", "#facts-h:has-text('Kitchen counter')"),
                            ("7", ".rail a[aria-current]:has-text('Prove')"),
                            ("/", "#find:focus"),):  # fmt: skip
            page.keyboard.press(key)
            page.wait_for_selector(wanted)
        page.keyboard.type("saw")
        page.keyboard.press("Enter")
        page.wait_for_selector(".prove a:has-text('Table saw')")
        self.assertEqual(page.locator(".prove tbody tr").count(), 1)
        page.keyboard.press("1")
        page.wait_for_selector("#line")
        page.keyboard.press("a")
        page.keyboard.type("15A 14/2 NM 20ft u and r")  # letters typed are letters
        page.wait_for_selector("#read-back .word")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 2")
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("e")
        self.assertTrue(page.evaluate("!!document.activeElement.closest('.bench .facts')"))
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("u")
        page.wait_for_selector("text=Took back")

    def test_two_people_lose_nothing_and_both_are_told(self):
        job = self.job()
        mate = person("mate")
        job.crew.add(mate)
        other = self.open()
        self.sign_in(other, "mate")
        self.visit(job, "service", "?at=c17")
        self.visit(job, "service", "?at=c17", other)
        other.fill("#f-c17-length_ft", "120")
        other.keyboard.press("Enter")
        other.wait_for_selector("text=revision 2")
        self.page.fill("#f-c17-egc_size", "10")
        self.page.keyboard.press("Enter")
        self.page.wait_for_selector("text=mate saved meanwhile")
        self.assertEqual(self.page.input_value("#f-c17-length_ft"), "120 ft")
        other.fill("#f-c17-length_ft", "90")
        other.keyboard.press("Enter")
        other.wait_for_selector("text=wren saved meanwhile")
        circuit = job.latest.site.circuit("c17")
        self.assertEqual((circuit.length_ft, circuit.egc_size), (90, "10"))

    def test_on_a_phone_the_same_powers(self):
        page = self.open(PHONE)
        self.sign_in(page)
        job = self.job()
        self.visit(job, "fix", page=page)
        page.tap(".wide-findings .finding:has-text('Loft studio') button:has-text('Try')")
        page.wait_for_selector(".trial")
        self.assertFalse(page.is_visible(".map-box"))
        page.tap("[data-look=load]")
        page.wait_for_selector(".look-list")
        page.tap("#discard")
        page.wait_for_selector("text=Thrown away")
        page.tap(".rail-here")
        page.tap(".rail ol a:has-text('Prove')")
        page.wait_for_selector(".asks")
        page.locator(".asks .answers button:has-text('Yes')").first.tap()
        page.wait_for_selector("text=revision 2")
        self.assertEqual(job.revisions.count(), 2)
        page.tap(".prove tbody th a:has-text('Table saw')")
        page.wait_for_selector("#loop:has-text('Line to enclosure at Table saw')")
        page.tap(".sheet-close")  # the sheet with its loop came up
        expect(page.locator("#loop")).to_be_hidden()

    def top(self, page, selector):
        """Where an element begins in the window, CSS px from its top."""
        return page.evaluate("s => document.querySelector(s).getBoundingClientRect().top", selector)

    def test_what_is_tried_comes_into_view_and_has_the_keys(self):
        page, job = self.page, self.job()
        self.visit(job, "fix")
        page.locator(".wide-findings .finding").last.scroll_into_view_if_needed()
        page.locator(".finding-acts button:has-text('Try')").last.click()
        page.wait_for_selector(".trial")
        self.assertLess(abs(self.top(page, ".trial")), 100)
        self.assertTrue(page.evaluate("document.activeElement.matches('.trial')"))

    def test_a_change_that_takes_long_shows_a_busy_sign_and_a_quick_one_none(self):
        page, job = self.page, self.job()
        self.visit(job, "service", f"?at={job.latest.site.circuits[0].id}")
        length = page.locator(".bench-card input[id$='-length_ft']")
        seen = []

        def slowly(route):
            page.wait_for_timeout(60)
            seen.append(page.evaluate("document.body.classList.contains('is-busy')"))
            page.wait_for_timeout(400)
            seen.append(page.evaluate("document.body.classList.contains('is-busy')"))
            route.continue_()

        page.route("**/edit", slowly)
        length.fill("61 ft")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 2")
        self.assertEqual(seen, [False, True])
        expect(page.locator("body.is-busy")).to_have_count(0)

    def test_without_an_answer_the_typed_text_stays_and_can_be_sent_again(self):
        page, job = self.page, self.job()
        self.allowed = ("Failed to load resource", "htmx: htmx:error")
        self.visit(job, "service", f"?at={job.latest.site.circuits[0].id}")
        length = page.locator(".bench-card input[id$='-length_ft']")
        trouble = page.locator(".told.trouble[role=alert]")
        refused = "<main><h1>Not saved: the disk is full.</h1></main>"
        for fail, words in (
            (lambda route: route.abort(), "No answer from the server"),
            (lambda route: route.fulfill(status=503, body=refused), "Not saved: the disk is full."),
        ):
            page.route("**/edit", fail)
            length.fill("61 ft")
            page.keyboard.press("Enter")
            expect(trouble).to_contain_text(words)
            expect(length).to_have_value("61 ft")
            page.unroute("**/edit")
        page.keyboard.press("Enter")
        page.wait_for_selector("text=revision 2")
        expect(trouble).to_have_count(0)
        self.assertIn("61 ft", job.latest.words)

    def test_enter_keeps_what_is_typed_never_what_is_assumed(self):
        job = self.job()
        page = self.open(script=False)
        self.sign_in(page)
        self.visit(job, "service", f"?at={job.latest.site.circuits[0].id}", page)
        length = page.locator(".bench-card input[id$='-length_ft']")
        expect(length).to_have_attribute("placeholder", "75 ft")
        length.fill("61 ft")
        length.press("Enter")
        self.assertIn("not known to 61 ft", job.latest.words)

    def test_a_row_leads_the_map_under_it_and_the_page_stays(self):
        page, job = self.page, self.job()
        self.visit(job, "prove")
        saw = page.locator(".prove tbody th a:has-text('Table saw')")
        saw.scroll_into_view_if_needed()
        before = page.evaluate("scrollY")
        saw.click()
        page.wait_for_selector(".map-row svg[aria-label*='Table saw']")
        self.assertEqual(page.evaluate("scrollY"), before)
        page.keyboard.press("k")  # the row above leads it now
        page.wait_for_selector(".map-row svg:not([aria-label*='Table saw'])")
        self.assertEqual(page.locator(".map-row").count(), 1)
        self.assertTrue(page.evaluate(
            "document.querySelector('.map-row').previousElementSibling.matches('.current')"
        ))  # fmt: skip
        page.click("text=Close the map")
        expect(page.locator(".map-row")).to_have_count(0)

    def test_a_stranger_to_the_program_starts_with_what_can_be_typed(self):
        job = job_of(self.owner, Installation(), name="Empty")
        self.visit(job, "survey")
        self.assertTrue(self.page.is_visible("text=20A 12/2 NM 85ft kitchen counter"))
        self.assertIn("Type the first circuit", self.page.inner_text(".next"))
