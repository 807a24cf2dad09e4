"""The firm's breaker lines, and a job's local practice with its profiles."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from justloop.firm.models import FirmLine, PracticeProfile
from tests.core.test_findings import example

from .people import job_of, person


class Firm(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.owner.is_staff = True
        self.owner.save()
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))

    def csv(self, text):
        file = SimpleUploadedFile("lines.csv", text.encode(), "text/csv")
        return self.client.post("/breaker-lines", {"file": file}, follow=True)

    def test_three_made_up_lines_ship_and_the_list_goes_out_and_in(self):
        self.assertEqual(FirmLine.objects.count(), 3)
        text = self.client.get("/breaker-lines.csv").content.decode()
        self.assertIn("Harrow plug-in,inverse-time,15,60,5,10,10,standard", text)
        added = text + "Mill B,B,6,32,,,6,metric\n"
        self.assertContains(self.csv(added), "4 breaker lines are kept")
        self.assertContains(self.client.get("/breaker-lines"), "Mill B")

    def test_a_bad_list_says_which_row_and_changes_nothing(self):
        head = "name,type,rating_from_a,rating_to_a,magnetic_from,magnetic_to\n"
        for row, words in (
            ("X,inverse-time,15,60,12,8", "Row 2: The magnetic trip cannot end before"),
            ("X,odd,15,60,5,10", "is not a type"),
            ("X,B,15,60,5,10", "its type"),
            ("X,inverse-time,many,60,5,10", "is not a number"),
            ("X,inverse-time,15,60,5,10\nx,inverse-time,15,60,5,10", "is there twice"),
        ):
            with self.subTest(row):
                self.assertContains(self.csv(head + row), words)
        self.assertContains(self.csv("a,b\n1,2"), "missing")
        self.assertContains(self.csv("a,b\rc\r\x00\n"), "missing")
        self.assertContains(self.csv("Odd\x07name,inverse-time,15,60,5,10\n"), "missing")
        self.assertEqual(FirmLine.objects.count(), 3)

    def test_one_tap_makes_a_whole_panels_curves_known(self):
        site = self.job.latest.site
        panel = site.panel
        page = self.client.get(f"/jobs/{self.job.pk}/prove").content.decode()
        self.assertIn("Harrow plug-in", page)
        self.client.post(
            f"/jobs/{self.job.pk}/edit",
            {"op": "breaker-line", "path": panel.id, "text": "Harrow plug-in", "stage": "prove",
             "base": self.job.latest.number},
        )  # fmt: skip
        self.assertEqual(self.job.revisions.count(), 2)
        after = self.job.latest.site
        self.assertEqual(next(p for p in after.panels if p.id == panel.id).breaker_line,
                         "Harrow plug-in")  # fmt: skip
        here = [c for c in after.circuits if c.panel == panel.id and c.breaker.rating_a <= 60]
        self.assertTrue(here)
        self.assertTrue(all((c.breaker.lo, c.breaker.hi) == (5, 10) for c in here))
        self.assertIn("marking", str(after.sources[f"{here[0].id}.breaker.hi"].kind))

    def practice(self, **post):
        base = {"base": self.job.latest.number} | post
        return self.client.post(f"/jobs/{self.job.pk}/practice", base, follow=True)

    def test_schools_requirements_and_profiles(self):
        page = self.practice(op="school", path="rod_spacing", value="twice").content.decode()
        self.assertEqual(self.job.latest.site.practice.rod_spacing, "twice")
        self.assertIn("share their soil", page)  # both reasons on screen
        self.assertContains(self.practice(op="require", text="Two rods", who=""), "who said so")
        self.practice(op="require", text="Two rods", who="Office", when="May")
        (one,) = self.job.latest.site.practice.requirements
        self.assertEqual((one.text, one.who, one.when), ("Two rods", "Office", "May"))
        self.practice(op="save-profile", name="North county")
        self.assertEqual(PracticeProfile.objects.get().by, self.owner)
        self.practice(op="unrequire", number="0")
        self.practice(op="school", path="rod_spacing", value="six")
        self.assertEqual(self.job.latest.site.practice.requirements, ())
        self.practice(op="use-profile", name="North county")
        now = self.job.latest.site.practice
        self.assertEqual((now.rod_spacing, len(now.requirements)), ("twice", 1))
        self.assertIn("Local requirement", self.job.latest.words)

    def test_odd_posts_are_a_sentence(self):
        for post in ({}, {"op": "school", "path": "x", "value": "y"}, {"op": "file"},
                     {"op": "unrequire", "number": "99"}, {"op": "use-profile", "name": "none"},
                     {"op": "save-profile"}, {"op": "school", "path": "edition", "value": "1900"},
                     {"op": "require", "text": "x", "who": "y", "base": "9" * 40}):  # fmt: skip
            with self.subTest(post):
                self.assertEqual(self.practice(**post).status_code, 200)

    def test_a_slow_trip_is_a_fix_only_where_somebody_requires_it(self):
        from returnpath.rules import findings
        from returnpath.study import study

        def levels():
            site = self.job.latest.site
            for c in site.circuits:
                if c.name == "Tool shed":
                    break
            return {f.level for f in findings(site, study(site)) if f.id == "loop-slow"}, c

        self.assertLessEqual(levels()[0], {"check"})
        self.practice(op="clearing-by", text="County office, 2024")
        self.assertEqual(self.job.latest.site.practice.clearing_required_by, "County office, 2024")
