"""Sign Pebblewick, change one byte, be told; an apprentice's first lesson on a phone."""

import tempfile
from pathlib import Path

from playwright.sync_api import expect

from justloop.learn.models import Card
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase


class HandOver(BrowserCase):
    def setUp(self):
        self.owner = person("wren")

    def at(self, path):
        return f"{self.live_server_url}{path}"

    def test_pebblewick_is_signed_and_one_changed_byte_is_told(self):
        job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        page = self.open()
        self.sign_in(page)
        page.goto(self.at(f"/jobs/{job.pk}/sign"))
        expect(page.locator(".sign-form h3").first).to_contain_text("Dangers stand")
        for box in page.locator("[name^='danger-']").all():
            box.fill("owner told in writing on 27 November")
        page.fill("#sign-reason", "Handed over as found, the rest is ordered")
        page.fill("#licence", "L-77")
        with page.expect_navigation(timeout=60000):
            page.click(".sign-form button.act")
        expect(page.locator("#sign-h")).to_have_text("Signed")
        with page.expect_download() as download:
            page.click("a:text-is('Bundle')")
        data = bytearray(Path(download.value.path()).read_bytes())
        with tempfile.TemporaryDirectory() as folder:
            whole, broken = Path(folder) / "whole.zip", Path(folder) / "broken.zip"
            whole.write_bytes(data)
            data[len(data) // 3] ^= 1
            broken.write_bytes(data)
            for file, words in ((whole, "Whole, by a key that is known"), (broken, "")):
                page.goto(self.at("/verify"))
                page.set_input_files("#bundle", str(file))
                with page.expect_navigation():
                    page.click("button:has-text('Check it')")
                if words:
                    expect(page.locator(".verdict-line")).to_contain_text(words)
                else:
                    told = page.locator(".not-met, .field-error").first
                    expect(told).to_be_visible()

    def test_the_owners_walk_by_keys_and_swipe(self):
        job = job_of(self.owner, example("pebblewick"), "Pebblewick Cottage")
        page = self.open()
        self.sign_in(page)
        page.goto(self.at(f"/jobs/{job.pk}/owner"))
        expect(page.locator(".slide:not([hidden])")).to_have_count(1)
        page.keyboard.press("ArrowRight")
        expect(page.locator("#slide-2")).to_be_visible()
        page.click("#owner-on")
        expect(page.locator("#slide-3")).to_be_visible()
        page.keyboard.press("ArrowLeft")
        expect(page.locator("#slide-2")).to_be_visible()

    def test_an_apprentices_first_lesson_by_touch_and_keyboard(self):
        page = self.open(PHONE)
        self.sign_in(page)
        page.goto(self.at("/learn/lessons/1"))
        page.tap("text=Do it >> nth=0")
        page.wait_for_selector(".big-answer")
        page.tap(".big-answer:has-text('Next to nothing')")
        expect(page.locator(".learn-verdict")).to_contain_text("Right.")
        expect(page.locator(".learn-map svg")).to_be_visible()
        page.focus("a.act:has-text('Next')")
        page.keyboard.press("Enter")
        page.wait_for_selector(".big-answer")
        page.focus(".big-answer >> nth=0")
        page.keyboard.press("Enter")
        page.wait_for_selector(".learn-verdict")
        page.goto(self.at("/learn/sizes/egc?seed=7"))
        page.tap(".big-answer >> nth=0")
        page.wait_for_selector(".working")
        self.assertEqual(Card.objects.count(), 3)
        page.goto(self.at("/learn/known"))
        expect(page.locator(".date-list li")).to_have_count(3)
