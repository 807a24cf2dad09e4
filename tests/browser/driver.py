"""The real interface in headless Chromium, driven through Playwright."""

import os
import shutil
from pathlib import Path

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from playwright.sync_api import sync_playwright

os.environ.setdefault("DJANGO_ALLOW_ASYNC_UNSAFE", "1")
AXE = Path(__file__).parent / "vendor" / "axe.min.js"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-dev-shm-usage",
]
LAPTOP = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}
PASSWORD = "a-long-password"


class BrowserCase(StaticLiveServerTestCase):
    """A server, a browser, and pages that note every stray request and console message."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        found = shutil.which("chromium") or "/usr/bin/chromium"
        cls.browser = cls.playwright.chromium.launch(executable_path=found, args=FLAGS)
        cls.addClassCleanup(cls.browser.close)

    #: Beginnings of console messages that a test brings about itself.
    allowed: tuple[str, ...] = ()

    def open(self, viewport=None, script=True):
        """A fresh context with one page; what it does wrong fails the test at its end."""
        context = self.browser.new_context(
            viewport=viewport or LAPTOP, java_script_enabled=script, has_touch=viewport == PHONE
        )
        context.set_default_timeout(int(os.environ.get("BROWSER_MS", "20000")))
        self.addCleanup(context.close)
        page = context.new_page()
        wrong = []

        def request(sent):
            ours = (self.live_server_url, "data:", "blob:")
            if not sent.url.startswith(ours):
                wrong.append(f"request to {sent.url}")

        def message(said):
            if said.type in ("warning", "error") and not said.text.startswith(self.allowed):
                wrong.append(f"console {said.type}: {said.text}")

        page.on("request", request)
        page.on("console", message)
        page.on("pageerror", lambda error: wrong.append(f"script error: {error}"))
        self.addCleanup(lambda: self.assertEqual(wrong, []))
        return page

    def sign_in(self, page, name="wren"):
        """Sign in by name and password."""
        page.goto(f"{self.live_server_url}/sign-in")
        page.fill("#id_username", name)
        page.fill("#id_password", PASSWORD)
        page.click("button:has-text('Sign in')")
        page.wait_for_url(f"{self.live_server_url}/")

    def tab(self, page, name: str) -> None:
        """Open a tab of the bench."""
        page.click(f".tabs a[data-tab={name}]")
        page.wait_for_selector(f"[data-tab-of={name}]:not([hidden])")

    def settle(self, page):
        """Wait until no swap is under way."""
        page.wait_for_timeout(60)
        while page.evaluate("!!document.querySelector('.htmx-request')"):
            page.wait_for_timeout(20)  # the policy refuses wait_for_function's eval
        page.wait_for_timeout(40)

    def serious(self, page) -> list[str]:
        """axe-core's serious and critical findings on the page."""
        page.evaluate(AXE.read_text("utf-8"))
        result = page.evaluate("axe.run()")
        return [
            f"{v['id']}: {node['html'][:120]}"
            for v in result["violations"]
            if v["impact"] in ("serious", "critical")
            for node in v["nodes"]
        ]
