"""Starts the demo in a folder of its own and takes a picture of each main view."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).resolve().parents[1]
OUT = ROOT / "docs" / "screenshots"
PORT = 8917
BASE = f"http://127.0.0.1:{PORT}"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]


def start(folder: str) -> subprocess.Popen:
    """The demo's server, answering."""
    environment = os.environ | {"PORT": str(PORT), "JUSTLOOP_DATA": folder, "JUSTLOOP_DEMO": "1"}
    server = subprocess.Popen([sys.executable, "manage.py", "serve"], cwd=ROOT, env=environment)
    for _ in range(100):
        try:
            urllib.request.urlopen(f"{BASE}/sign-in")
            return server
        except OSError:
            time.sleep(0.2)
    raise SystemExit("The demo did not start.")


def shoot(page, name: str, full: bool = False) -> None:
    """One picture, fonts loaded."""
    page.evaluate("document.fonts.ready")
    page.wait_for_timeout(250)
    page.screenshot(path=OUT / f"{name}.png", full_page=full)


def main() -> None:
    """All pictures."""
    OUT.mkdir(parents=True, exist_ok=True)
    server = start(tempfile.mkdtemp(prefix="justloop-shots-"))
    try:
        with sync_playwright() as playwright:
            found = shutil.which("chromium")
            browser = playwright.chromium.launch(executable_path=found, args=FLAGS)
            context = browser.new_context(viewport={"width": 1280, "height": 800})
            page = context.new_page()
            take(page, context)
            browser.close()
    finally:
        server.terminate()
        server.wait(10)


def take(page, context) -> None:
    """The views, in the order a person meets them."""
    page.goto(f"{BASE}/sign-in")
    page.click("text=Open the demo")
    shoot(page, "jobs")
    page.click(".job h2 a:has-text('Pebblewick Cottage')")
    job = page.url.rsplit("/", 1)[0]
    page.goto(f"{job}/service?tab=facts")
    shoot(page, "service")
    page.goto(f"{job}/panels")
    page.click(".panel-tabs a:has-text('Utility room')")
    page.wait_for_selector("text=them out")
    shoot(page, "panels")
    page.goto(f"{job}/buildings")
    page.click(".map-card a:has-text('Table saw')")
    page.wait_for_selector("text=Line to enclosure at Table saw")
    page.click("[data-look=neutral]")
    shoot(page, "lost-neutral")
    page.goto(f"{job}/readings")
    for line in ("hall bath loop 0.31", "studio lights loop 0.27", "studio outlets loop 0.66"):
        page.click("#type-lines summary") if not page.is_visible("#reading") else None
        page.fill("#reading", line)
        with page.expect_navigation():
            page.click("button:has-text('Log it')")
    with page.expect_navigation():
        page.click("text=What would explain these readings?")
    shoot(page, "readings")
    for stage in ("survey", "earth", "buildings", "array", "prove", "fix"):
        page.goto(f"{job}/{stage}")
        shoot(page, stage)
        if stage == "prove":
            page.click(".prove tbody th a:has-text('Table saw')")
            page.wait_for_selector(".map-row")
    page.goto(f"{job}/plan?show=parts")
    shoot(page, "plan")
    page.goto(f"{job}/sign")
    shoot(page, "sign")
    page.goto(BASE)
    page.click(".job h2 a:has-text('Foxglove Row 14')")
    page.goto(f"{page.url.rsplit('/', 1)[0]}/panels?show=zs")
    shoot(page, "zs")
    page.goto(f"{BASE}/quick?q=20A+12/2+85ft")
    shoot(page, "quick")
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{job}/service")
    shoot(page, "service-390")
    page.goto(f"{job}/readings?show=cover")
    shoot(page, "log-390")
    page.goto(f"{job}/find")
    page.click("[data-row] a:has-text('Hall bath')")
    shoot(page, "find-390")
    page.goto(f"{job}/plan")
    page.locator("form.offer:has-text('Move the bond') button").first.click()
    page.wait_for_selector(".step-card")
    shoot(page, "work-390")


if __name__ == "__main__":
    main()
