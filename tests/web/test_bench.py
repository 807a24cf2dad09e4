"""The bench, the map and the figures for every part of the service."""

import re

from django.test import TestCase

from justloop.solved import solve, summarise
from justloop.workspace import fields
from returnpath.rules import findings
from returnpath.site import Add, Set, apply
from returnpath.study import Verdict, study
from returnpath.working import figures
from tests.core.houses import house

from .people import flat, job_of, person


class Bench(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)

    def page(self, site, at="c2", **query):
        job = job_of(self.owner, site)
        more = "".join(f"&{k}={v}" for k, v in query.items())
        return self.client.get(f"/jobs/{job.pk}/service?at={at}{more}").content.decode()

    def field(self, site, path):
        element = path.split(".")[0]
        shown, more = fields.bench_fields(solve(site), element, fields.Typed())
        return next((f for f in [*shown, *more] if f.path == path), None)

    def test_every_part_can_be_chosen_and_edited(self):
        site = house("20A 12/2 NM 85ft kitchen")
        for at, words in (
            ("u1", "available fault current"),
            ("s1", "line conductors"),
            ("p1", "kind of bond"),
            ("e1", "electrode conductor"),
            ("practice", "clearing judged by"),
            ("c2", "one-way length"),
        ):
            with self.subTest(at):
                html = self.page(site, at)
                self.assertIn(words, html.lower())
                self.assertIn(f'value="{at}', html)

    def test_an_assumed_fact_is_shown_as_assumed_with_its_reason(self):
        site = house("20A 12/2 NM kitchen", length_ft=None)
        field = self.field(site, "c2.length_ft")
        self.assertEqual((field.value, field.assumed, field.assumed_text), ("", "75 ft", "75 ft"))
        self.assertIn("long enough", field.why)
        known = self.field(house("20A 12/2 NM 85ft kitchen"), "c2.length_ft")
        self.assertEqual((known.value, known.assumed), ("85 ft", ""))

    def test_fields_follow_the_return_path(self):
        wire = house("20A 12/2 NM 85ft kitchen")
        emt = house("20A #12 EMT 1/2 85ft kitchen")
        self.assertIsNotNone(self.field(wire, "c2.egc_size"))
        self.assertIsNone(self.field(wire, "c2.raceway_size"))
        self.assertIsNone(self.field(emt, "c2.egc_size"))
        self.assertIsNotNone(self.field(emt, "c2.raceway_size"))

    def test_an_old_breaker_has_no_magnetic_figures_to_enter(self):
        site = house("20A 12/2 NM 85ft kitchen", lo=None, hi=None)
        self.assertEqual(self.field(site, "c2.breaker.hi").assumed, "10 × rating")
        old = apply(site, Set(path="c2.breaker.magnetic", value="none"))
        self.assertIsNone(self.field(old, "c2.breaker.hi"))

    def test_sizes_offered_are_those_of_the_metal(self):
        site = house("20A 12/2 NM 85ft kitchen")
        copper = [c[0] for c in self.field(site, "c2.line_size").choices]
        self.assertIn("14", copper)
        bare = apply(site, Set(path="c2.line_size", value=None))
        aluminium = apply(bare, Set(path="c2.line_material", value="aluminium"))
        self.assertNotIn("14", [c[0] for c in self.field(aluminium, "c2.line_size").choices])

    def test_the_figures_on_the_page_are_the_cores(self):
        for line in ("20A 12/2 NM 85ft a", "20A #12 EMT 1/2 ground 12 85ft b", "60A #6 PVC 40ft c"):
            site = house(line, egc="wire", egc_size="10")
            loop = study(site).loops["c2"]
            html = self.page(site)
            with self.subTest(line):
                self.assertIn(f"{figures(loop.lowest_a, 4)} A", html)
                self.assertIn(f"{figures(loop.highest_a, 4)} A", html)
                self.assertIn(f"{figures(loop.loop_ohm)} Ω", html)
                self.assertIn(f"{figures(loop.touch_bar_v)} V", html)
                legs = re.findall(r'<li data-leg="([^"]+)"', html)
                self.assertEqual(legs, [leg.id for leg in loop.legs])

    def test_each_working_opens_by_an_ordinary_link(self):
        site = house("20A 12/2 NM 85ft kitchen")
        for key in ("lowest_a", "highest_a", "loop_ohm", "opens", "heat", "touch",
                    "longest_run_ft"):  # fmt: skip
            html = self.page(site, open=key)
            with self.subTest(key):
                self.assertEqual(html.count('class="working"'), 1)
                self.assertIn(f'id="row-{key}"', html)
                self.assertIn('aria-expanded="true"', html)
        html = self.page(site, open="size-c2-egc_size")
        self.assertIn("250.122(A) (2023)", html)

    def test_all_five_verdicts_have_words_and_a_mark(self):
        sites = {
            Verdict.AT_ONCE: house("20A 12/2 NM 85ft a"),
            Verdict.AT_ONCE_IF_ASSUMED: house("20A 12/2 NM 85ft a", lo=None, hi=None),
            Verdict.SLOW: house("20A 12/2 NM 200ft a"),
            Verdict.MAY_NEVER_OPEN: house("20A 12/2 NM 85ft a", p1__bond="out"),
            Verdict.NOT_KNOWN: house("20A 12/2 NM 85ft a", p1__bond=None),
        }
        marks = set()
        for verdict, site in sites.items():
            html = self.page(site)
            with self.subTest(verdict):
                self.assertIn(f'<span class="c-verdict">{verdict}</span>', html)
                marks.add(re.search(r'class="verdict-mark ([a-z-]+)"', html)[1])
        self.assertEqual(len(marks), 5)

    def test_a_gfci_is_listed_as_a_second_line(self):
        html = self.page(house("20A 12/2 NM 85ft a", gfci="yes"))
        self.assertIn("Second line: GFCI", html)
        self.assertIn("not counted above", html)

    def test_kinds_of_electrode_and_bond_are_drawn(self):
        site = house("20A 12/2 NM 85ft a")
        for kind, words in (
            ("rod", ">rod</text>"),
            ("concrete", ">footing steel</text>"),
            ("water", ">length not known</text>"),
            ("ring", ">ring</text>"),
            ("plate", ">plate</text>"),
            ("several", ">several kinds</text>"),
        ):
            with self.subTest(kind):
                html = self.page(apply(site, Set(path="e1.kind", value=kind)))
                self.assertIn(words, html)
        self.assertIn("bond ?", self.page(house("20A 12/2 NM 85ft a", p1__bond=None)))

    def test_findings_of_the_place_first_the_rest_in_a_line(self):
        site = house("20A 12/2 NM 85ft a", egc_size="14")
        site = apply(site, Add(facts={"name": "Other", "breaker": {"rating_a": 20},
                                      "line_size": "14", "egc": "wire", "egc_size": "14",
                                      "length_ft": 20}))  # fmt: skip
        html = flat(self.page(site))
        here, elsewhere = html.split("Elsewhere: ")
        self.assertIn("EGC 14 AWG; 12 AWG copper is needed", here)
        self.assertTrue(elsewhere.startswith("1 to mend, "), elsewhere[:40])
        self.assertNotIn("Run 12 AWG", elsewhere)

    def test_an_open_bond_folds_what_follows_from_it(self):
        html = self.page(house("20A 12/2 NM 85ft a", p1__bond="out"), at="p1", loop="c2")
        self.assertRegex(html, r"Why, and \d+ more with it")

    def test_local_practice_changes_the_answer(self):
        site = house("20A 12/2 NM 200ft a")
        self.assertIn('class="decides"><span>Magnetic trip reached', self.page(site))
        five = apply(site, Set(path="practice.clearing", value="five times"))
        html = self.page(five)
        self.assertIn('class="decides"><span>Five times the rating', html)
        self.assertIn("judged by “five times”", html)


class Summaries(TestCase):
    def test_what_a_list_shows(self):
        good = summarise(house("20A 12/2 NM 85ft a"))
        self.assertEqual((good["circuits"], good["proven"]), (1, 1))
        bad = summarise(house("20A 12/2 NM 85ft a", p1__bond="out"))
        self.assertEqual(bad["level"], "danger")
        self.assertIn("main bonding jumper is out", bad["worst"])
        self.assertIn("Install the main", bad["next"])
        unknown = summarise(house("20A 12/2 NM 85ft a", p1__bond=None))
        self.assertEqual(unknown["proven"], 0)

    def test_solved_once_for_the_same_content(self):
        site = house("20A 12/2 NM 85ft a")
        self.assertIs(solve(site), solve(house("20A 12/2 NM 85ft a")))
        other = apply(site, Set(path="practice.arc_v", value=40))
        self.assertIsNot(solve(site), solve(other))


class Places(TestCase):
    def test_what_a_circuit_serves_is_read_shown_and_corrected_by_a_tap(self):
        owner = person("wren")
        job = job_of(owner)
        self.client.force_login(owner)
        page = self.client.get(f"/jobs/{job.pk}/service?at=c2").content.decode()
        self.assertIn("read from its name", page)
        self.assertIn("kitchen counter", page)
        post = {"op": "set", "path": "c2.places", "base": 1, "stage": "service", "at": "c2"}
        self.client.post(f"/jobs/{job.pk}/edit", post | {"text": "kitchen"})
        self.assertEqual(job.latest.site.circuit("c2").places, "kitchen")
        self.client.post(f"/jobs/{job.pk}/edit", post | {"base": 2, "text": "none of these"})
        site = job.latest.site
        self.assertEqual(site.circuit("c2").places, "none of these")
        done = study(site)
        self.assertNotIn("ground-fault-protection-by-place", {f.id for f in findings(site, done)})
        refused = self.client.post(f"/jobs/{job.pk}/edit", post | {"base": 3, "text": "moon"})
        self.assertContains(refused, "is not a place known here")
