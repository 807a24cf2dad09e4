"""Stages, trials, the fix list, history, files: the workspace without a browser."""

import io
import json
import re

from django.test import TestCase

from justloop.jobs.models import Job
from justloop.solved import solve
from returnpath.rules import unproven
from returnpath.site import Set, apply, loads, read_csv
from returnpath.working import figures
from tests.core.houses import house
from tests.core.test_findings import example

from .people import flat, job_of, person

STAGES = ("survey", "service", "buildings", "prove", "fix")


class Workspace(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"), name="Pebblewick")

    def get(self, stage="service", **query):
        return flat(self.client.get(f"/jobs/{self.job.pk}/{stage}", query).content)

    def post(self, op, path="", text="", **more):
        data = {"op": op, "path": path, "text": text, "base": self.job.latest.number, **more}
        return self.client.post(f"/jobs/{self.job.pk}/edit", data, headers={"HX-Request": "true"})

    def place(self, name):
        parts = [*self.job.latest.site.elements().values()]
        return next(e.id for e in reversed(parts) if getattr(e, "name", "") == name)

    def key_of(self, id):
        solved = solve(self.job.latest.site)
        return next(f.key for f in solved.findings if f.id == id)


class Stages(Workspace):
    def test_every_stage_of_every_demo_and_every_look(self):
        for name in ("pebblewick", "millrace", "larkfield"):
            self.job = job_of(self.owner, example(name), name=name)
            for stage in STAGES:
                with self.subTest(name, stage=stage):
                    html = self.get(stage)
                    self.assertIn('aria-current="page"', html)
                    self.assertNotRegex(html, re.compile(r"\b(safe|compliant)\b", re.I))
                    self.assertNotIn("None", re.sub(r"<[^>]+>", " ", html))
            for look in ("fault", "load", "neutral", "touch"):
                self.assertIn(f'data-look="{look}" aria-current="true"', self.get(look=look))

    def test_only_the_visible_stage_is_rendered(self):
        self.assertIn('class="prove"', self.get("prove"))
        self.assertNotIn('class="prove"', self.get("service"))
        self.assertNotIn("map-box", self.get("prove"))
        self.assertNotIn("fix-group", self.get("survey"))

    def test_every_part_can_be_selected_on_the_map_stages(self):
        for element in self.job.latest.site.elements():
            for more in ("", "1"):
                with self.subTest(element, more=more):
                    html = self.get("buildings", at=element, more=more)
                    self.assertIn(f'name="at" value="{element}"', html)

    def test_a_job_opens_at_its_worst_loop(self):
        for stage in ("survey", "service", "prove"):
            with self.subTest(stage):
                self.assertIn("Line to enclosure at <strong>Boathouse</strong>", self.get(stage))

    def test_an_array_is_tied_to_its_inverters_panel_on_every_map(self):
        for at in (self.place("Boathouse"), self.place("Table saw"), self.place("Dryer")):
            with self.subTest(at):
                self.assertIn("→ Roof inverter</text>", self.get("buildings", at=at))
        self.post("duplicate", self.job.latest.site.arrays[0].id)  # a second one is drawn too
        self.assertEqual(self.get("buildings").count("→ Roof inverter</text>"), 2)

    def test_every_list_holds_its_own_value(self):
        # a box that shows a value its list does not have goes empty after a swap
        for element in self.job.latest.site.elements():
            html = self.get(at=element, more="1")
            for value, options in re.findall(
                r'<select class="box" name="text"[^>]*data-value="([^"]*)"[^>]*>(.*?)</select>',
                html,
                re.S,
            ):
                with self.subTest(element, value=value):
                    found = re.findall(r'<option value="([^"]*)"( selected)?', options)
                    chosen = [v for v, selected in found if selected]
                    self.assertEqual(chosen, [value] if value else [])

    def test_chosen_panel_is_open_and_others_are_posts(self):
        html = self.get("buildings", at=self.place("Table saw"))
        svg = html[html.index("map-box") : html.index("</svg>", html.index("map-box"))]
        self.assertEqual(svg.count('class="post"'), 1)  # the loft studio
        self.assertEqual(svg.count('class="bar-neutral"'), 2)
        self.assertIn("Roof array", svg)
        self.assertIn("footing steel, 2 rods", svg)

    def test_the_load_look_tells_the_amperes_on_metal(self):
        done = solve(self.job.latest.site).study.loads["u1"]
        amps = done.currents["f8.egc"]
        html = self.get(at=self.place("Loft studio"), look="load")
        self.assertIn(f"{amps:.2f} A", html)
        self.assertIn("EGC Studio feeder", html)

    def test_the_lost_neutral_look_tells_what_each_leg_sees(self):
        done = solve(self.job.latest.site).study.open_neutrals["u1"]
        legs = done.legs(self.job.latest.site.panel.id)
        html = self.get(look="neutral")
        for leg, volts in legs.items():
            self.assertIn(f"{leg} {figures(volts)} V", html)

    def test_two_places_side_by_side(self):
        one, two = self.place("Table saw"), self.place("Dryer")
        html = self.get(at=one, beside=two)
        pair = html[html.index('id="pair"') : html.index("</table>", html.index('id="pair"'))]
        loops = solve(self.job.latest.site).study.loops
        for place in (one, two):
            self.assertIn(f"{loops[place].multiple:.1f} ×", pair)

    def test_practice_shows_both_reasons(self):
        self.assertIn("Wire: fittings loosen with the years.", self.get(at="practice", more="1"))


class Proving(Workspace):
    def test_the_table_is_worst_first_and_can_be_filtered(self):
        html = self.get("prove", show="all")
        names = re.findall(r'<th scope="row"><a [^>]*>([^<]+)</a>', html)
        self.assertEqual(len(names), 19)  # 16 circuits, 3 enclosures
        self.assertEqual(names[0], "Boathouse")
        first = self.get("prove")  # the worst dozen; the rest is proven
        self.assertIn("7 more, all proven", first)
        self.assertEqual(re.findall(r'<th scope="row"><a [^>]*>([^<]+)</a>', first), names[:12])
        slow = re.findall(r'<th scope="row"><a [^>]*>([^<]+)</a>', self.get("prove", show="slow"))
        self.assertEqual(slow, ["Boathouse"])
        found = self.get("prove", q="studio")
        self.assertIn("Studio outlets", found)
        self.assertNotIn("Table saw</a>", found)
        self.assertIn("show all", self.get("prove", q="no such circuit"))

    def test_a_row_leads_the_map_until_it_is_closed(self):
        saw, dryer = self.place("Table saw"), self.place("Dryer")
        plain = self.get("prove", at=saw)
        self.assertNotIn("map-row", plain)
        self.assertIn(f"/prove?at={saw}&amp;map=1#loop", plain)
        html = self.get("prove", at=saw, map="1")
        row = html.split('<tr class="current">')[1]
        self.assertIn("Table saw", row.split("</tr>")[0])
        self.assertTrue(row.split("</tr>")[1].strip().startswith('<tr class="map-row">'))
        self.assertIn(f"/prove?at={dryer}&amp;map=1", html)  # the next row leads it too
        after = self.post("set", f"{saw}.length_ft", "50", stage="prove", at=saw, map="1")
        self.assertContains(after, "map-row")  # a change leaves it open

    def test_the_map_of_a_part_without_a_row_stands_under_the_table(self):
        pipe = self.place("Gas pipe")
        html = self.get("prove", at=pipe, map="1")
        self.assertNotIn("map-row", html)
        self.assertIn('class="led-map"', html)
        self.assertIn("led-map", self.get("prove", at=self.place("Dryer"), map="1", q="saw"))

    def test_questions_prove_the_house(self):
        before = len(unproven(solve(self.job.latest.site).study))
        self.post("answer", "curve", "Yes", stage="prove")
        for _ in range(30):
            html = self.get("prove")
            asked = re.search(r'name="path" value="(c\d+\.length_ft)"', html)
            if not asked:
                break
            self.post("answer", asked[1], "No", stage="prove")
        left = unproven(solve(self.job.latest.site).study)
        self.assertEqual((before, len(left)), (8, 0))
        self.assertIn("Every circuit trips instantaneously.", self.get("prove"))
        source = self.job.latest.site.sources[f"{self.place('Table saw')}.breaker.hi"]
        self.assertEqual((source.kind, source.who), ("told", "wren"))

    def test_the_test_sheet_has_a_band_and_a_blank(self):
        html = self.client.get(f"/jobs/{self.job.pk}/test-sheet").content.decode()
        loop = solve(self.job.latest.site).study.loops[self.place("Tool shed")]
        self.assertIn(f"–{loop.loop_ohm:.3f} Ω", html)
        self.assertEqual(html.count('class="blank figure"'), 16)
        self.assertIn("competent person", html)


class Fixing(Workspace):
    def test_do_it_makes_one_revision_and_the_danger_goes(self):
        key = self.key_of("bond-downstream")
        self.post("fix", key, stage="fix")
        self.assertEqual(self.job.latest.number, 2)
        self.assertIn("take the bond screw or strap out", self.job.latest.words)
        self.assertNotIn(key, {f.key for f in solve(self.job.latest.site).findings})

    def test_set_aside_with_a_reason_and_taken_up_again(self):
        key = self.key_of("rods-too-near")
        bare = self.post("aside", key, "  ", stage="fix").content.decode()
        self.assertIn("Write why it does not apply here", bare)
        self.post("aside", key, "The inspector measured 6 ft", stage="fix")
        revision = self.job.latest
        self.assertEqual(revision.aside[key]["reason"], "The inspector measured 6 ft")
        self.assertEqual(revision.aside[key]["who"], "wren")
        html = self.get("fix")
        self.assertIn("Set aside</h2>", html)
        self.assertIn("The inspector measured 6 ft", html)
        self.post("set", f"{self.place('Dryer')}.length_ft", "60")  # it stays set aside
        self.assertIn(key, self.job.latest.aside)
        self.post("unaside", key, stage="fix")
        self.assertNotIn(key, self.job.latest.aside)
        self.client.post(f"/jobs/{self.job.pk}/undo")
        self.assertIn(key, self.job.latest.aside)

    def test_a_danger_set_aside_no_longer_leads(self):
        for _ in range(4):
            worst = self.job.latest.summary
            if worst["level"] != "danger":
                break
            key = next(f.key for f in solve(self.job.latest.site).findings
                       if f.level == "danger" and f.key not in self.job.latest.aside)  # fmt: skip
            self.post("aside", key, "seen and judged on site")
        self.assertEqual(self.job.latest.summary["level"], "fix")

    def test_all_fixes_one_by_one_leave_no_danger_and_no_fix(self):
        for _ in range(20):
            bad = [f for f in solve(self.job.latest.site).findings
                   if f.level in ("danger", "fix") and f.fix]  # fmt: skip
            if not bad:
                break
            self.post("fix", bad[0].key, stage="fix")
        left = [f.key for f in solve(self.job.latest.site).findings if f.level in ("danger", "fix")]
        self.assertEqual(left, [])
        self.assertIn("danger", self.client.get("/").content.decode() + "danger")

    def test_what_is_gone_says_so(self):
        for op, path in (("fix", "no-such:c1"), ("whatif", "no-such"), ("aside", "no:c1"),
                         ("answer", "curve2"), ("everywhere", "circuits.year"),
                         ("presence", "circuits:gas"), ("duplicate", "c999"), ("remove", "c999"),
                         ("nonsense", "")):  # fmt: skip
            with self.subTest(op):
                answer = self.post(op, path, "yes")
                self.assertEqual(answer.status_code, 200)
                self.assertIn('role="alert"', answer.content.decode())
        self.assertEqual(self.job.revisions.count(), 1)


class Surveying(Workspace):
    def test_adding_by_line_selects_what_was_added(self):
        html = self.post(
            "add", text="panel Attic from Utility room 40A 8/3 NM 30ft"
        ).content.decode()
        panel = self.place("Attic")
        self.assertIn(f'name="at" value="{panel}"', html)
        self.assertEqual(self.job.revisions.count(), 2)  # panel and feeder are one change
        self.post("add", text="15A 14/2 NM 20ft lamp", panel=panel)
        self.assertEqual(self.job.latest.site.circuits[-1].panel, panel)

    def test_pasting_twenty_circuits_is_one_change(self):
        lines = "\n".join(f"20A 12/2 NM {30 + n}ft room {n}" for n in range(20))
        self.post("paste", text=lines)
        self.assertEqual(len(self.job.latest.site.circuits), 36)
        self.assertEqual(self.job.revisions.count(), 2)
        bad = self.post("paste", text="20A 12/2 NM 30ft a\n20 b", stage="survey").content.decode()
        self.assertIn("Line 2, “20 b”", bad)
        self.assertIn("20A 12/2 NM 30ft a\n20 b", bad)  # what was typed is kept
        self.assertEqual(self.job.revisions.count(), 2)

    def test_duplicate_and_remove(self):
        html = self.post("duplicate", self.place("Dryer")).content.decode()
        copy = self.place("Dryer copy")
        self.assertIn(f'name="at" value="{copy}"', html)
        self.post("remove", self.place("Boathouse"))
        self.assertIn("parts with it", self.job.latest.words)
        self.client.post(f"/jobs/{self.job.pk}/undo")
        self.assertIn("Table saw", {c.name for c in self.job.latest.site.circuits})

    def test_one_answer_for_every_place(self):
        self.post("everywhere", "circuits.outlet_bond", "no", stage="survey")
        site = self.job.latest.site
        asked = [c for c in site.circuits if c.neutral != "no" and c.egc not in (None, "none")]
        self.assertTrue(all(c.outlet_bond == "no" for c in asked))
        self.assertEqual(self.job.revisions.count(), 2)
        self.assertNotIn("Is neutral connected to ground at a receptacle", self.get("survey"))

    def test_none_here_is_an_answer(self):
        self.post("presence", "metals:pool", "none", stage="survey")
        self.assertNotIn("Is there a pool or spa?", self.get("survey"))
        self.post("presence", "metals:structure", "metal", stage="survey")
        ids = {f.id for f in solve(self.job.latest.site).findings}
        self.assertIn("structure-bond-check", ids)
        self.assertNotIn("pool-bonding-missing", ids)


class Records(Workspace):
    def test_names_old_revisions_and_comparing(self):
        address = f"/jobs/{self.job.pk}/history"
        self.assertNotContains(self.client.get(address), "Compare revision")
        circuit = self.place("Dryer")
        self.post("set", f"{circuit}.length_ft", "200")
        self.client.post(f"{address}/1/name", {"name": "as found"})
        html = self.client.get(address).content.decode()
        self.assertIn("Compare revision", html)
        self.assertIn("<strong>as found</strong>", html)
        old = self.client.get(f"/jobs/{self.job.pk}/history/1").content.decode()
        self.assertIn("revision 1: as found", old)
        compared = self.client.get(f"/jobs/{self.job.pk}/compare?a=1&b=2").content.decode()
        self.assertIn("200 ft", compared)
        self.assertIn("one-way length", compared)
        self.assertRegex(compared, "Dryer: trips instantaneously .*→")
        for query in ("", "?a=99&b=x", "?a=-1&b=" + "9" * 40):
            answer = self.client.get(f"/jobs/{self.job.pk}/compare{query}")
            self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/history/77").status_code, 404)

    def test_the_job_file_goes_out_and_comes_in_as_a_new_job(self):
        answer = self.client.get(f"/jobs/{self.job.pk}/job.json")
        self.assertIn("attachment", answer["Content-Disposition"])
        self.assertEqual(loads(answer.content.decode()), self.job.latest.site)
        file = io.BytesIO(answer.content)
        file.name = "otterby-mill.json"
        self.client.post("/jobs/open", {"file": file})
        copy = Job.objects.get(name="Otterby mill")
        self.assertEqual(copy.latest.site, self.job.latest.site)

    def test_a_wrong_job_file_says_why(self):
        wrong = {
            b"{}": "two keys",
            b"\xff\xfe": "not JSON",
            b'{"format": 99, "site": {}}': "format 99",
            None: "Choose",
        }
        for body, words in wrong.items():
            data = {}
            if body is not None:
                file = io.BytesIO(body)
                file.name = "x.json"
                data = {"file": file}
            answer = self.client.post("/jobs/open", data, follow=True)
            self.assertContains(answer, words)
        self.assertEqual(Job.objects.count(), 1)

    def test_the_circuits_as_a_table_out_and_in(self):
        text = self.client.get(f"/jobs/{self.job.pk}/circuits.csv").content.decode()
        self.assertEqual(len(read_csv(text)), 16)
        file = io.BytesIO(text.replace(",140,", ",150,").encode())
        file.name = "circuits.csv"
        self.post("table", file=file)
        site = self.job.latest.site
        self.assertEqual(len(site.circuits), 16)
        self.assertEqual(next(c for c in site.circuits if c.name == "Tool shed").length_ft, 150)
        bad = io.BytesIO(b"panel,name\nNowhere,Lamp\n")
        bad.name = "circuits.csv"
        self.assertContains(self.post("table", file=bad), "no panel “Nowhere”")

    def test_the_practice_file(self):
        body = self.client.get(f"/jobs/{self.job.pk}/practice.json").content.decode()
        self.assertEqual(json.loads(body)["practice"]["edition"], 2023)

    def test_the_map_as_svg_has_its_colours_in_it(self):
        for look in ("fault", "load", "neutral", "touch"):
            answer = self.client.get(f"/jobs/{self.job.pk}/drawing/map.svg?loop=c28&look={look}")
            body = answer.content.decode()
            self.assertTrue(body.startswith("<svg"))
            self.assertNotIn("class=", body)
            self.assertNotIn("<a ", body)


class Together(Workspace):
    def test_two_people_both_changes_stand_and_both_are_told(self):
        mate = person("mate")
        self.job.crew.add(mate)
        one, two = self.place("Dryer"), self.place("Table saw")
        self.post("set", f"{one}.length_ft", "50")
        self.client.force_login(mate)
        answer = self.post("set", f"{two}.length_ft", "60", base=1)
        self.assertContains(answer, "wren saved meanwhile")
        site = self.job.latest.site
        self.assertEqual(
            (site.value_at(f"{one}.length_ft"), site.value_at(f"{two}.length_ft")), (50, 60)
        )

    def test_a_fix_does_not_run_over_somebody_elses_change(self):
        key = self.key_of("wire-breaker-mismatch")
        path = f"{key.partition(':')[2]}.breaker.rating_a"
        self.post("set", path, "25")
        answer = self.post("fix", key, base=1)
        self.assertContains(answer, "set this to 25 A meanwhile")
        self.assertEqual(self.job.latest.site.value_at(path), 25)


class Empty(TestCase):
    def test_a_job_with_nothing_teaches_how_to_begin(self):
        owner = person("wren")
        self.client.force_login(owner)
        site = house("20A 12/2 NM 85ft a")
        site = site.model_copy(update={"circuits": ()})
        job = job_of(owner, apply(site, Set(path="p1.bond", value=None)))
        for stage, words in (("survey", "What can be typed"), ("service", "No circuit here yet"),
                             ("prove", "No circuit yet"), ("buildings", "What is there"),
                             ("fix", "Fix list")):  # fmt: skip
            with self.subTest(stage):
                self.assertContains(self.client.get(f"/jobs/{job.pk}/{stage}"), words)
        self.assertContains(self.client.get(f"/jobs/{job.pk}/test-sheet"), "No circuit to measure")
