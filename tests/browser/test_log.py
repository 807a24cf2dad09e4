"""The Log on a phone: a house's test sheet with the stand-in meter; a basement without signal."""

import io
import threading

from django.test import override_settings
from PIL import Image
from playwright.sync_api import expect

from justloop.log.models import LoggedReading, Photo
from justloop.standin.meter import demo_meter
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase


def photograph() -> dict:
    """As a phone's camera gives it."""
    out = io.BytesIO()
    Image.new("RGB", (3000, 2000), "peru").save(out, "JPEG")
    return {"name": "rod.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}


class Phone(BrowserCase):
    def setUp(self):
        self.owner = person("wren")
        self.job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        self.log = f"/jobs/{self.job.pk}/readings"

    def at(self, path):
        return f"{self.live_server_url}{path}"


class WithTheMeter(Phone):
    def setUp(self):
        super().setUp()
        self.meter = demo_meter(0)
        threading.Thread(target=self.meter.serve_forever, daemon=True).start()
        self.addCleanup(self.meter.server_close)
        self.addCleanup(self.meter.shutdown)
        here = override_settings(METER=f"127.0.0.1:{self.meter.server_address[1]}", DEMO=True)
        here.enable()
        self.addCleanup(here.disable)

    def from_the_meter(self, page):
        before = LoggedReading.objects.count()
        with page.expect_navigation():
            page.tap("button:has-text('Read from the meter')")
        self.assertEqual(LoggedReading.objects.count(), before + 1)

    def test_a_test_sheet_from_end_to_end_one_defect_found_tried_mended_read_again(self):
        page = self.open(PHONE)
        self.sign_in(page)
        page.goto(self.at(f"/jobs/{self.job.pk}/test-sheet"))
        page.tap("text=Kitchen counter")
        expect(page.locator("#log-h")).to_have_text("Read next: Kitchen counter")
        self.from_the_meter(page)
        expect(page.locator("#detail-h")).to_have_text("Kitchen counter")
        expect(page.locator("#detail .not-met").first).to_contain_text("Over")
        # The whole sheet, as the walk asks for it.
        for _ in range(len(self.job.latest.site.circuits) - 1):
            self.from_the_meter(page)
        expect(page.locator(".log-card .muted").first).to_contain_text("0 loops to read")
        self.assertEqual(LoggedReading.objects.filter(kind="loop").count(), 16)
        # What would explain it, and what is proposed until it is named.
        page.goto(self.at(f"{self.log}?show=why"))
        for _ in range(3):
            first = page.locator(".why-list strong").first.inner_text()
            if "Kitchen counter: a loose joint in the EGC" in first:
                break
            page.tap(".next-reading a")
            self.from_the_meter(page)
            page.goto(self.at(f"{self.log}?show=why"))
        self.assertIn("Kitchen counter: a loose joint in the EGC", first)
        page.locator(".why-list button:has-text('Try')").first.tap()
        page.wait_for_selector(".trial")
        expect(page.locator(".trial")).to_contain_text("On trial")
        page.tap("#discard")
        page.wait_for_selector(".trial", state="detached")
        # Mended at the receptacle; the meter says so.
        self.meter.instrument = type(self.meter.instrument)(
            type(self.meter.instrument.twin)("Pebblewick Cottage", self.job.latest.site, 7)
        )
        page.goto(self.at(f"{self.log}?at=c17"))
        self.from_the_meter(page)
        newest = LoggedReading.objects.filter(kind="loop", place="c17").first()
        self.assertLess(newest.value, 0.4)
        expect(page.locator(".log-list .met").first).to_have_text("as predicted")


class WithoutSignal(Phone):
    allowed = ("Failed to load resource",)

    def keep(self, page):
        """Keep the job's pages on this phone."""
        self.sign_in(page)
        page.goto(self.at(self.log))
        page.tap("#files summary")
        page.tap("#keep-here")
        expect(page.locator("#keep-said")).to_contain_text("Kept on this phone", timeout=20000)

    def waiting(self, page):
        return page.locator("#waiting-list li")

    def number(self, page, number):
        page.fill("#number", number)
        page.tap("button:has-text('Log it')")

    def test_five_readings_and_a_photo_wait_through_a_closed_page_and_go_up_once(self):
        page = self.open(PHONE)
        self.keep(page)
        context = page.context
        context.set_offline(True)
        for n, number in enumerate(("0.28", "0.31", "0.2", "0.5", "0.13"), 1):
            self.number(page, number)
            expect(self.waiting(page)).to_have_count(n)
        expect(page.locator("#log-h")).to_have_text("Read next: Dryer")
        page.goto(self.at(f"{self.log}?show=cover"))  # kept: it opens without the network
        page.set_input_files("#shot-1", photograph())
        page.tap(".slot[open] button:has-text('Keep photo')")
        expect(self.waiting(page)).to_have_count(6)
        self.assertEqual(LoggedReading.objects.count() + Photo.objects.count(), 0)
        page.close()

        page = context.new_page()
        page.goto(self.at(self.log))
        expect(self.waiting(page)).to_have_count(6)
        expect(self.waiting(page).first).to_contain_text("Kitchen counter loop 0.28 · waiting")
        context.set_offline(False)
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.locator("#waiting-list")).to_be_hidden()
        kept = list(LoggedReading.objects.order_by("pk").values_list("place", "value"))
        self.assertEqual(kept, [("c17", 0.28), ("c18", 0.31), ("c19", 0.2), ("c20", 0.5),
                                ("c21", 0.13)])  # fmt: skip
        photo = Photo.objects.get()
        self.assertEqual(max(photo.width, photo.height), 2400)
        page.reload()
        self.settle(page)
        self.assertEqual((LoggedReading.objects.count(), Photo.objects.count()), (5, 1))

    def test_another_person_sends_nothing_and_a_line_nobody_understands_stays(self):
        page = self.open(PHONE)
        self.keep(page)
        page.context.set_offline(True)
        page.tap("#type-lines summary")
        page.fill("#reading", "sauna loop 0.2")
        page.tap("button:has-text('Log it')")
        expect(self.waiting(page)).to_have_count(1)
        self.number(page, "0.28")
        expect(self.waiting(page)).to_have_count(2)
        mate = person("robin")
        self.job.crew.add(mate)
        page.goto("about:blank")  # the page is closed before the signal is back
        page.context.set_offline(False)
        page.context.clear_cookies()  # the session has ended
        self.sign_in(page, "robin")
        page.goto(self.at(self.log))
        expect(self.waiting(page).first).to_contain_text("waits for wren to sign in")
        self.assertEqual(LoggedReading.objects.count(), 0)
        page.goto("about:blank")
        page.context.clear_cookies()
        self.sign_in(page)
        page.goto(self.at(self.log))
        expect(self.waiting(page)).to_have_count(1)
        expect(self.waiting(page).first).to_contain_text("sauna")
        expect(self.waiting(page).first).to_contain_text("was not understood")
        self.assertEqual(LoggedReading.objects.get().value, 0.28)
        page.once("dialog", lambda asked: asked.accept())
        page.tap("#waiting-list button:has-text('Throw away')")
        expect(page.locator("#waiting-list")).to_be_hidden()

    def test_a_page_that_is_not_kept_says_so_and_names_those_that_are(self):
        page = self.open(PHONE)
        self.keep(page)
        page.context.set_offline(True)
        page.goto(self.at(f"/jobs/{self.job.pk}/survey"))
        expect(page.locator("h1")).to_have_text("No signal")
        page.click(f"a[href='/jobs/{self.job.pk}/test-sheet']")
        expect(page.locator("h1")).to_contain_text("Test sheet")
        page.goto(self.at(f"/jobs/{self.job.pk}/find"))
        expect(page.locator("h1")).to_have_text("Find circuits")
