"""Four rods placed by keyboard on a laptop and on a phone; a washer broken, tried and mended."""

from playwright.sync_api import expect

from tests.core.houses import house
from tests.core.test_findings import example
from tests.web.people import job_of, person

from .driver import PHONE, BrowserCase

LINES = ("2 ground rods 8 ft, 6 ft apart", "2 ground rods 8 ft, 6 ft apart")


class Outdoors(BrowserCase):
    def setUp(self):
        self.owner = person("wren")

    def rods(self, job):
        return [e for e in job.latest.site.electrodes if e.kind == "rod"]

    def four_rods(self, viewport):
        job = job_of(self.owner, house("20A 12/2 NM 85ft counter"))
        page = self.open(viewport)
        self.sign_in(page)
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/survey")
        for line in LINES:
            page.fill("#line", line)
            page.keyboard.press("Enter")
            expect(page.locator("#line")).to_have_value("")
        rods = self.rods(job)[-4:]
        for n, rod in enumerate(rods):
            page.goto(f"{self.live_server_url}/jobs/{job.pk}/earth?at={rod.id}")
            page.fill("#place-text", f"{40 + 8 * n}, 20")
            page.keyboard.press("Enter")
            expect(page.locator("#place-h")).to_contain_text(f"{40 + 8 * n}, 20")
        # The last one by the arrow keys: three feet north, one east.
        page.focus(".plan-box")
        for key in ("ArrowUp", "ArrowUp", "ArrowUp", "ArrowRight"):
            page.keyboard.press(key)
        expect(page.locator("#place-h")).to_contain_text("65, 23")
        self.settle(page)
        placed = self.rods(job)[-4:]
        self.assertEqual(
            [(r.east_ft, r.north_ft) for r in placed], [(40, 20), (48, 20), (56, 20), (65, 23)]
        )
        return job, page

    def test_four_rods_on_a_laptop_and_back_again(self):
        job, page = self.four_rods(None)
        page.click("#undo")
        page.wait_for_selector("text=64, 20")
        self.assertEqual(self.rods(job)[-1].north_ft, 20)

    def test_four_rods_on_a_phone_and_one_by_touch(self):
        job, page = self.four_rods(PHONE)
        page.tap(".step-south")
        expect(page.locator("#place-h")).to_contain_text("65, 22")
        self.settle(page)
        self.assertEqual(self.rods(job)[-1].north_ft, 22)

    def test_one_is_dragged_with_the_mouse(self):
        job = job_of(self.owner, example("pebblewick"))
        rod = self.rods(job)[1]
        page = self.open()
        self.sign_in(page)
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/earth?at={rod.id}")
        page.wait_for_selector(".plan-box svg")
        mark = page.locator(f"[data-place={rod.id}]").bounding_box()
        x, y = mark["x"] + mark["width"] / 2, mark["y"] + mark["height"] / 2
        scale = float(page.get_attribute(".plan-box", "data-scale"))
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + 5 * scale, steps=4)
        page.mouse.up()
        expect(page.locator("#place-h")).to_contain_text(f"46, {rod.north_ft - 5:g}")
        self.settle(page)
        self.assertEqual(self.rods(job)[1].spacing_ft, 9)

    def test_a_washer_is_broken_tried_and_mended(self):
        job = job_of(self.owner, example("pebblewick"))
        page = self.open()
        self.sign_in(page)
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/array")
        self.assertIn("Row 2, module 3 floats", page.inner_text(".array-card"))
        page.click("a[aria-label='row 1, module 2: its joint']")
        expect(page.locator("#joint-h")).to_contain_text("Row 1, module 2: sound")
        page.click("text=Try it open")
        page.wait_for_selector(".trial")
        page.click("#discard")
        page.wait_for_selector("text=Thrown away")
        page.goto(f"{self.live_server_url}/jobs/{job.pk}/array?q=frame1m2")
        page.click(".joint-says button:has-text('Open')")
        expect(page.locator("#joint-h")).to_contain_text("open")
        self.settle(page)
        self.assertEqual(len(job.latest.site.joints), 5)
        page.click(".joint-says button:has-text('Made good')")
        expect(page.locator("#joint-h")).to_contain_text("sound")
        self.settle(page)
        page.click("text=Labels")
        with page.expect_request("**/labels/*.svg") as sent:
            page.click(".face-links a:has-text('SVG')")
        self.assertIn("labels/", sent.value.url)
