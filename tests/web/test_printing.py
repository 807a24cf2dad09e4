"""Paper is made in a process of its own: it blocks nobody, and comes back when it dies."""

import threading
import time
import unittest

from django.conf import settings
from django.test import TestCase

from justloop.firm.models import Firm
from justloop.reports import printing

from .people import job_of, person, printed

BASE = (settings.PACKAGE / "static").as_uri()
LONG = "<p>" + "a row of the sheet, and one more word<br>" * 3000 + "</p>"


class Printing(unittest.TestCase):
    def test_it_goes_on_after_its_process_died(self):
        self.assertEqual(printing.pdf("<p>one</p>", BASE)[:5], b"%PDF-")
        pool = printing._running()
        for process in list(pool._processes.values()):
            process.kill()
        self.assertEqual(printing.pdf("<p>two</p>", BASE)[:5], b"%PDF-")

    def test_others_are_served_while_a_long_sheet_is_made(self):
        printing.pdf("<p>warm</p>", BASE)
        made = []
        thread = threading.Thread(target=lambda: made.append(printing.pdf(LONG, BASE)))
        thread.start()
        turns = 0
        while thread.is_alive():
            time.sleep(0.002)
            turns += 1
        thread.join()
        self.assertEqual(made[0][:5], b"%PDF-")
        self.assertGreater(turns, 50)  # this thread kept running all the while

    def test_a_fourth_at_once_is_asked_to_come_again(self):
        held = [printing._places.acquire(blocking=False) for _ in range(printing.MOST_WAITING)]
        try:
            self.assertTrue(all(held))
            with self.assertRaisesRegex(printing.Busy, "try again"):
                printing.pdf("<p>x</p>", BASE)
        finally:
            for _ in held:
                printing._places.release()

    def test_nothing_is_fetched_from_outside(self):
        with self.assertLogs("justloop.reports.printing", "WARNING") as logs:
            printing.pdf('<img src="https://loop.example/x.png">', BASE)
        self.assertIn("fetches nothing from outside", logs.output[0])


class Sheet(TestCase):
    def test_the_firms_line_stands_on_it_and_a_busy_printer_is_said(self):
        owner = person("wren")
        job = job_of(owner)
        Firm.objects.create(name="Loop & Daughters", licence="Licensed, number 7 <b>")
        self.client.force_login(owner)
        _, page = printed(self.client, f"/jobs/{job.pk}/sheet.pdf")
        self.assertIn("Loop &amp; Daughters</b> · Licensed, number 7 &lt;b&gt;", page)
        held = [printing._places.acquire(blocking=False) for _ in range(printing.MOST_WAITING)]
        try:
            answer = self.client.get(f"/jobs/{job.pk}/sheet.pdf")
            self.assertContains(answer, "Others are printing", status_code=503)
        finally:
            for _ in held:
                printing._places.release()
