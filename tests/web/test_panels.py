"""The Panels stage: the face with its breakers, what evens the legs out, moving one or several."""

from django.test import TestCase

from tests.core.test_findings import example

from .people import job_of, person, printed


class Panels(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))
        self.site = self.job.latest.site
        self.by_name = {c.name: c for c in self.site.circuits}

    def page(self, at="", **more):
        return self.client.get(f"/jobs/{self.job.pk}/panels", {"at": at, **more})

    def post(self, **form):
        base = {"base": self.job.latest.number, "stage": "panels"}
        return self.client.post(
            f"/jobs/{self.job.pk}/edit", base | form, headers={"HX-Request": "true"}
        )

    def test_the_face_its_legs_and_what_evens_them_out(self):
        page = self.page(at=self.site.panel.id)
        for words in ("Kitchen counter", "shares a neutral", "feeds in", "on the neutral",
                      "them out", "6 of 24 spaces free", "bond in"):  # fmt: skip
            self.assertContains(page, words)

    def test_a_circuit_opens_its_own_panel_and_where_it_could_go(self):
        saw = self.by_name["Table saw"]
        page = self.page(at=saw.id)
        self.assertContains(page, "Move Table saw")
        self.assertContains(page, '<button class="answer small" name="text" value="2">')
        self.post(op="set", path=f"{saw.id}.space", text="2")
        self.assertEqual(self.job.latest.site.circuit(saw.id).space, 2)

    def test_several_moves_are_tried_and_kept_as_one(self):
        page = self.page(at=self.site.panel.id).content.decode()
        key = page.split('name="text" value="', 1)[1].split('"', 1)[0]
        self.assertRegex(key, r"^c\d+:\d+(,c\d+:\d+)*$")
        self.post(op="move", path=self.site.panel.id, text=key, **{"try": "1"})
        self.assertEqual(self.job.revisions.count(), 1)
        self.client.post(f"/jobs/{self.job.pk}/keep", {"base": 1})
        self.assertEqual(self.job.revisions.count(), 2)
        again = self.page(at=self.site.panel.id)
        self.assertNotContains(again, "them out")
        spaces = [c.space for c in self.job.latest.site.circuits if c.panel == self.site.panel.id]
        self.assertEqual(len(spaces), len(set(spaces)))

    def test_the_dwellings_load_once_its_floor_area_is_said(self):
        page = self.page(at=self.site.panel.id)
        self.assertContains(page, "Say the floor area")
        home = next(b for b in self.site.buildings if b.permit == "dwelling")
        self.post(op="set", path=f"{home.id}.floor_area_sqft", text="1800")
        page = self.page(at=self.site.panel.id)
        self.assertContains(page, "Dwelling load")
        self.assertContains(page, "of 200 A")
        self.assertContains(page, "a 48 A vehicle charger fits")

    def test_the_door_card(self):
        panel = self.site.panel.id
        answer, page = printed(self.client, f"/jobs/{self.job.pk}/door-card/{panel}.pdf")
        self.assertEqual(answer.content[:5], b"%PDF-")
        for words in ("Utility room", "Kitchen counter", "Water heater", "feeds in",
                      "Available fault current about", "proves nothing dead"):  # fmt: skip
            self.assertIn(words, page)
        self.assertNotIn('class="', page.split("<svg")[1].split("</svg>")[0])
        self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/door-card/p99.pdf").status_code, 404)

    def test_nonsense_moves_nothing(self):
        for text in ("", "c1:", "c99999:4", "c17:-1", "c17:999999", "c17", "x:1,y:2"):
            answer = self.post(op="move", path=self.site.panel.id, text=text)
            self.assertEqual(answer.status_code, 200, text)
        self.assertEqual(self.job.revisions.count(), 1)
