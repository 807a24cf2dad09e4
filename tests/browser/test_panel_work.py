"""At the panel: a list becomes a face, two moves even its legs, circuits are found on a phone."""

from playwright.sync_api import expect

from justloop.jobs import revisions
from returnpath.site import Remove
from tests.core.houses import house
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase

#: (name, space, VA): everything heavy on one leg.
LIST = (
    ("kitchen left", 1, 1200), ("range hood", 2, 400), ("kitchen right", 5, 1500),
    ("bath fan heater", 6, 1400), ("den", 9, 900), ("north bedroom", 10, 300),
    ("hall lights", 3, 200), ("porch lights", 4, 100), ("cellar bench", 13, 1000),
    ("freezer", 14, 700), ("sump pump", 17, 800), ("doorbell", 8, 20),
)  # fmt: skip


class AtThePanel(BrowserCase):
    allowed = ("Failed to load resource",)

    def setUp(self):
        self.owner = person("wren")

    def test_a_panel_from_a_list_evened_out_and_undone(self):
        job = job_of(self.owner, house("20A 12/2 NM 85ft counter space 21", p1__spaces=24))
        page = self.open()
        self.sign_in(page)
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/survey")
        page.click("#paste summary")
        rows = "\n".join(
            f"20A 12/2 NM 40ft {name} space {space} {va} VA" for name, space, va in LIST
        )
        page.fill("#list", rows)
        page.click("text=Add them all")
        expect(page.locator(".outline")).to_contain_text("Doorbell")
        page.click(".rail a:has-text('Panels')")
        page.wait_for_selector(".face-box svg")
        face = page.text_content(".face-box svg")
        for name, _, _ in LIST:
            self.assertIn(name[:1].upper() + name[1:], face)
        self.assertIn("11 of 24 spaces free", page.inner_text(".face-side"))
        before = [c.space for c in job.latest.site.circuits]
        apart = self.apart(page)
        page.click(".face-side button:has-text('Try')")
        page.wait_for_selector(".trial")
        page.click("#keep")
        page.wait_for_selector("text=Kept")
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/panels")
        self.assertLess(self.apart(page), max(2.0, 0.05 * apart))
        self.assertNotIn("them out", page.inner_text(".face-side"))
        page.click("#undo")
        page.wait_for_selector("text=them out")
        self.assertEqual([c.space for c in job.latest.site.circuits], before)

    def apart(self, page) -> float:
        """Amperes between the two legs."""
        one, two = (
            float(text.split()[0]) for text in page.locator(".leg-bars .figure").all_inner_texts()
        )
        return abs(one - two)

    def test_three_circuits_found_on_a_phone_one_without_a_signal(self):
        job = job_of(self.owner, example("pebblewick"))
        mate = person("robin")
        job.crew.add(mate)
        panel = self.open()
        self.sign_in(panel)
        panel.goto(f"{self.live_server_url}/jobs/{job.pk}/find")
        phone = self.open(PHONE)
        self.sign_in(phone, "robin")
        phone.goto(f"{self.live_server_url}/jobs/{job.pk}/find")
        # One at the panel switches; the other sees it and answers.
        panel.click("[data-row] a:has-text('Hall bath')")
        panel.click("text=I switched it off")
        phone.wait_for_selector("#now.is-off:has-text('Hall bath')")
        phone.click("text=What went dead?")
        phone.fill("#find-name", "Hall bath receptacle")
        phone.click("text=That went dead")
        expect(phone.locator("[data-row]:has-text('Hall bath receptacle')")).to_contain_text(
            "✓ found"
        )
        panel.wait_for_selector("#now:has-text('Nothing is off')")
        # Alone: tap, name, keep.
        phone.click("[data-row] a:has-text('Cellar bench')")
        phone.click("text=More places")
        phone.click("label.tap:has-text('unfinished basement')")
        phone.click("text=That went dead")
        expect(phone.locator("[data-row]:has-text('Cellar bench')")).to_contain_text("✓ found")
        # In the cellar: it waits, and goes when there is a signal again.
        phone.context.set_offline(True)
        phone.click("[data-row] a:has-text('Bedroom lights')")
        phone.click("text=Nothing went dead")
        phone.wait_for_selector("#waiting:has-text('1 answer waits')")
        traced = {c.name: c.traced for c in job.latest.site.circuits}
        self.assertIsNone(traced["Bedroom lights"])
        phone.context.set_offline(False)
        phone.evaluate("dispatchEvent(new Event('online'))")
        phone.wait_for_selector("#waiting", state="hidden")
        traced = {c.name: c.traced for c in job.latest.site.circuits}
        self.assertEqual(traced["Hall bath receptacle"], "found")
        self.assertEqual(traced["Cellar bench"], "found")
        self.assertEqual(traced["Bedroom lights"], "nothing")
        # What is refused is set aside with its reason, and what waits behind it goes on.
        phone.context.set_offline(True)
        for name in ("Water heater", "Dryer"):
            phone.click(f"[data-row] a:has-text('{name}')")
            phone.click("text=Nothing went dead")
        phone.wait_for_selector("#waiting:has-text('2 answers wait')")
        gone = next(c.id for c in job.latest.site.circuits if c.name == "Water heater")
        revisions.save_edits(job, self.owner, job.latest.number, [Remove(id=gone)])
        phone.context.set_offline(False)
        phone.evaluate("dispatchEvent(new Event('online'))")
        phone.wait_for_selector("#waiting", state="hidden")
        expect(phone.locator("#refused-list li")).to_have_count(1)
        expect(phone.locator("#refused-list")).to_contain_text("was removed meanwhile")
        traced = {c.name: c.traced for c in job.latest.site.circuits}
        self.assertEqual(traced["Dryer"], "nothing")
        phone.once("dialog", lambda asked: asked.accept())
        phone.click("#refused-list button:has-text('Throw away')")
        expect(phone.locator("#refused-list")).to_be_hidden()
        self.assertEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
