"""The Plan on a phone: a service change from the load to the final visit, with the stand-in office
and meter; an outbuilding that fails its visit and passes."""

import threading

from django.test import override_settings
from playwright.sync_api import expect

from justloop.log.models import SlotNote
from justloop.standin.office import Desk, Office
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase


class OnAPhone(BrowserCase):
    def setUp(self):
        self.owner = person("wren")
        office = Office(Desk(), 0)
        threading.Thread(target=office.serve_forever, daemon=True).start()
        self.addCleanup(office.server_close)
        self.addCleanup(office.shutdown)
        here = override_settings(OFFICE=f"http://127.0.0.1:{office.server_address[1]}")
        here.enable()
        self.addCleanup(here.disable)

    def at(self, path):
        return f"{self.live_server_url}{path}"

    def step(self, page, work, figures):
        """Do what the step that is open asks for; its key."""
        card = page.locator("li.now .step-card").first
        key = page.locator("li.now").first.get_attribute("id").removeprefix("step-")
        for box in card.locator("input[type=checkbox]:visible").all():
            box.check()
        number = card.locator("input[name=value]")
        if number.count():
            number.fill(figures(key))
        words = card.locator("input[name=words]")
        if words.count():
            words.fill("P-101")
        with page.expect_navigation():
            card.locator(".big-act").tap()
        self.assertIn(key, list(work.ticks.values_list("step", flat=True)),
                      page.locator(".told, .field-error").all_inner_texts())  # fmt: skip
        return key

    def figures(self, job):
        """What a meter would show there: nothing where all is dead, what is predicted elsewhere."""
        loops = {"loops-c6": "0.3"}

        def of(key):
            fixed = {"target": "0", "neighbours": "0.05", "conductors": "250", "one-bond": "0.1",
                     "volts-ll": "240", "volts-ln": "120", "volts-ng": "0.1", "ng-open": "2000000",
                     "torque": "250", "volts": "0.2"}  # fmt: skip
            return fixed.get(key) or loops.get(key, "0.2")

        return of

    def test_a_service_change_from_the_load_to_the_final_visit(self):
        job = job_of(self.owner, example("millrace"), "Millrace Terrace 9")
        page = self.open(PHONE)
        self.sign_in(page)
        # The planner: worked out, tried on the whole job, kept.
        page.goto(self.at(f"/jobs/{job.pk}/plan?show=service&q=200"))
        expect(page.locator(".change-list")).to_contain_text("main 100 A → 200 A")
        page.tap("button:has-text('Try it on the whole job')")
        page.wait_for_selector(".trial")
        page.tap("#keep")
        page.wait_for_selector(".trial", state="detached")
        self.assertEqual(job.latest.site.panel.main.rating_a, 200)
        # The office: permit and outage.
        page.goto(self.at(f"/jobs/{job.pk}/plan?show=dates"))
        page.tap("#office summary")
        with page.expect_navigation():
            page.tap("button:has-text('Apply for the permit')")
        expect(page.locator(".told").first).to_contain_text("Permit P-101")
        # The procedure, step by step; photographs stand in their slots as seen.
        for slot in ("bond:p3", *(f"water:{m.id}" for m in job.latest.site.metals),
                     *(f"rod:{e.id}" for e in job.latest.site.electrodes)):  # fmt: skip
            SlotNote.objects.create(job=job, slot=slot, seen_by="Wren")
        page.goto(self.at(f"/jobs/{job.pk}/plan"))
        page.locator("form.offer:has-text('Service change') button").first.tap()
        page.wait_for_selector(".step-card")
        work = job.works.get()
        expect(page.locator("h1")).to_contain_text("Service change to 200 A")
        for _ in range(80):
            if not page.locator("li.now").count():
                break
            last = self.step(page, work, self.figures(job))
        self.assertEqual(last, "final")
        self.assertIsNotNone(job.works.get().ended)
        # The final visit, by the office.
        page.goto(self.at(f"/jobs/{job.pk}/plan?show=visits"))
        page.select_option("#visit-kind", "final")
        page.fill("#visit-day", "2026-12-10")
        page.tap("button:has-text('Enter it')")
        page.wait_for_selector("#before-h")
        for result in ("failed", "passed"):
            with page.expect_navigation():
                page.tap("button:has-text('Take the result from the office')")
            self.assertEqual(job.visits.get().result, result)

    def test_an_outbuilding_fails_its_visit_and_passes(self):
        job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        page = self.open(PHONE)
        self.sign_in(page)
        page.goto(self.at(f"/jobs/{job.pk}/plan?show=visits"))
        page.fill("#visit-day", "2026-12-01")
        page.tap("button:has-text('Enter it')")
        page.wait_for_selector("#before-h")
        expect(page.locator(".check-list")).to_contain_text("slots before cover are empty")
        page.fill("#r-text", "EGC of the boathouse feeder too small")
        page.fill("#r-where", "250.122")
        page.select_option("#r-place", "p7")
        with page.expect_navigation():
            page.tap("button:has-text('Keep the remark')")
        with page.expect_navigation():
            page.tap("button:has-text('Failed')")
        with page.expect_navigation():
            page.tap("button:has-text('Passed')")
        expect(page.locator(".told").first).to_contain_text("Remarks are still open")
        number = job.visits.get().remarks.get().pk
        page.fill(f"#h-{number}", "2,5")
        page.fill(f"#p-{number}", "160 ft of 6 AWG")
        with page.expect_navigation():
            page.tap("button:text-is('Mended')")
        with page.expect_navigation():
            page.tap("button:has-text('Passed')")
        self.assertEqual(job.visits.get().result, "passed")
        page.goto(self.at(f"/jobs/{job.pk}/plan?show=visits"))
        expect(page.locator(".log-card")).to_contain_text("Rework so far: 2.5 h")

    def test_a_procedure_goes_on_without_signal_up_to_what_energizes(self):
        job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        page = self.open(PHONE)
        self.allowed = ("Failed to load resource",)
        self.sign_in(page)
        page.goto(self.at(f"/jobs/{job.pk}/plan"))
        page.locator("form.offer:has-text('Move the bond') button").first.tap()
        page.wait_for_selector(".step-card")
        work = job.works.get()
        self.step(page, work, self.figures(job))
        page.context.set_offline(True)
        page.locator("li.now .big-act").first.tap()
        expect(page.locator(".field-error.queued")).to_contain_text("needs signal")
        page.context.set_offline(False)
        self.step(page, work, self.figures(job))
        page.context.set_offline(True)
        for key in ("sources", "open"):
            card = page.locator(f"#step-{key} .step-card")
            for box in card.locator("input[type=checkbox]:visible").all():
                box.check()
            card.locator(".big-act").tap()
            expect(page.locator(f"#step-{key}")).to_contain_text("Waits on this phone")
        expect(page.locator("#waiting-list li")).to_have_count(2)
        page.context.set_offline(False)
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.locator("#waiting-list")).to_be_hidden()
        page.reload()
        expect(page.locator("li.now")).to_contain_text("Lock and tag")
        self.assertEqual(work.ticks.count(), 4)
