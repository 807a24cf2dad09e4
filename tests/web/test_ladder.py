"""The chain on the Service stage: the same rungs as ``loop chain``, the weakest to be found."""

import re

from django.test import TestCase

from returnpath.command.chain import as_dict
from returnpath.face import judge
from returnpath.rules import Evidence, ladder
from returnpath.site import Set, apply, dumps, loads
from returnpath.study import study
from tests.core import houses_chain
from tests.core.test_findings import example

from .people import flat, job_of, person


class TheLadder(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)

    def page(self, site, at: str) -> str:
        job = job_of(self.owner, site)
        return flat(self.client.get(f"/jobs/{job.pk}/service", {"at": at}).content)

    def rows(self, page: str) -> list[str]:
        body = page.split('<ol class="ladder">', 1)[1].split("</ol>", 1)[0]
        return re.findall(r"<li class=.*?</li>", body)

    def test_the_same_rungs_as_the_command(self):
        site = example("pebblewick")
        done = study(site)
        wanted = as_dict(ladder(Evidence(site, done), judge(site, done), "c18"))["rungs"]
        rows = self.rows(self.page(site, "c18"))
        self.assertEqual(len(rows), len(wanted))
        for row, rung in zip(rows, wanted, strict=True):
            self.assertIn(f"<strong>{rung['name']}</strong> {rung['what']}", row)
            if rung["carries_a"] is not None:
                self.assertIn(f"{rung['carries_a']:g} A", row)
            if rung["mark"] != "holds" or rung["kind"] != "source":
                self.assertIn(rung["mark"], row)

    def test_what_is_too_small_is_what_the_eye_finds(self):
        rows = self.rows(self.page(example("pebblewick"), "c18"))
        telling = [row for row in rows if " telling" in row.split(">", 1)[0]]
        self.assertEqual(len(telling), 1)
        self.assertIn("14 AWG copper", telling[0])
        self.assertIn("too small", telling[0])
        self.assertIn("at most 15 A is permitted", telling[0])

    def test_a_device_that_nobody_typed_leads_to_its_field(self):
        story = next(s for s in houses_chain.stories() if "breaker was not typed" in s["story"])
        page = self.page(houses_chain.built(story), "c5")
        self.assertIn("To find out first: Den feeder.", page)
        (row,) = [r for r in self.rows(page) if " telling" in r.split(">", 1)[0]]
        self.assertIn("not typed; ahead of it 200 A", row)

    def test_never_says_that_every_rung_holds_where_one_was_not_read(self):
        site = example("pebblewick")
        boathouse = next(p for p in site.panels if p.name == "Boathouse")
        page = self.page(site, boathouse.id)
        self.assertIn("Every rung that is known holds. Not read: Boathouse bars.", page)
        self.assertIn("behind 200 A: up to 200 A may protect it", page)
        self.assertNotIn("must carry 200 A; up to", page)
        read = apply(site, Set(path=f"{boathouse.id}.bus_a", value=125))
        self.assertIn("Every rung holds; the fullest is", self.page(read, boathouse.id))

    def test_none_here_is_said_on_the_bench_and_refused_beside_a_rating(self):
        job = job_of(self.owner, houses_chain.built({}))
        address = f"/jobs/{job.pk}/edit"
        form = {"base": 1, "op": "set", "path": "f1.breaker.kind", "text": "none", "stage": "fix"}
        refused = self.client.post(address, form, headers={"HX-Request": "true"})
        self.assertContains(refused, "cannot both be: empty the rating first")
        self.assertEqual(job.latest.number, 1)
        for path in ("f1.breaker.rating_a", "f1.breaker.lo", "f1.breaker.hi"):
            more = {"base": job.latest.number, "path": path, "text": ""}
            self.client.post(address, form | more, headers={"HX-Request": "true"})
        form["base"] = job.latest.number
        self.client.post(address, form, headers={"HX-Request": "true"})
        self.assertEqual(job.latest.site.value_at("f1.breaker.kind"), "none")

    def test_an_old_file_that_has_what_none_could_use_is_still_read(self):
        text = dumps(houses_chain.built({})).replace('"kva": 25', '"kva": 25, "limit": 2', 1)
        text = text.replace('"kva": 25.0', '"kva": 25.0, "limit": 2', 1)
        site = loads(text)
        self.assertEqual(site.supply.limit, 2)
        self.assertIn("The chain to", self.page(site, "c1"))
