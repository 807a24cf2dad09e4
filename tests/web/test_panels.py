"""The Panels stage: the face with its breakers, what evens the legs out, moving one or several."""

import io

from django.test import TestCase
from pypdf import PdfReader

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
        self.assertContains(page, "48 A vehicle charger fits")

    def test_its_own_tab_says_it_by_every_method_and_what_would_fit(self):
        home = next(b for b in self.site.buildings if b.permit == "dwelling")
        panel = self.site.panel.id
        self.assertContains(self.page(at=panel, show="load"), "Say the floor area")
        self.post(op="set", path=f"{home.id}.floor_area_sqft", text="1800")
        page = self.page(at=panel, show="load")
        for words in ("existing dwelling", "optional", "standard", "220 part III", "220.61"):
            self.assertContains(page, words)
        asked = self.page(at=panel, show="load", q="300 A kiln", open="standard")
        self.assertContains(asked, "300 A kiln does not fit")
        self.assertContains(asked, "lighting and receptacles")
        wrong = self.page(at=panel, show="load", q="<b>a hot tub")
        self.assertContains(wrong, "Type its amperes or kilowatts")
        self.assertContains(wrong, 'value="&lt;b&gt;a hot tub"')
        other = next(p.id for p in self.site.panels if p.id != panel)
        self.assertContains(self.page(at=other, show="load"), "added up from its floor area")

    def test_protection_by_place_and_what_to_buy(self):
        counter = self.by_name["Kitchen counter"]
        panel = self.site.panel.id
        self.post(op="set", path=f"{counter.id}.gfci", text="No")
        self.post(op="set", path=f"{counter.id}.afci", text="No")
        page = self.page(at=panel, show="protection")
        self.assertContains(page, "What the 2023 edition asks for")
        self.assertContains(page, "GFCI and AFCI breaker")
        self.assertContains(page, "at the receptacle")
        self.post(op="set", path="practice.gfci_at", text="outlet")
        self.assertContains(self.page(at=panel, show="protection"), "home run of at most 50 ft")

    def test_two_breakers_change_places_by_hand(self):
        saw, fridge = self.by_name["Table saw"], self.by_name["Kitchen counter"]
        page = self.page(at=fridge.id).content.decode()
        self.assertIn("or change places with", page)
        places = {c.id: c.space for c in self.site.circuits}
        same = next(c for c in self.site.circuits
                    if c.panel == fridge.panel and c.id not in (fridge.id, saw.id)
                    and c.space and (c.poles or 1) == (fridge.poles or 1)
                    and f'{fridge.id}:{c.space},{c.id}:{fridge.space}' in page)  # fmt: skip
        key = f"{fridge.id}:{same.space},{same.id}:{fridge.space}"
        self.post(op="move", path=self.site.panel.id, text=key)
        now = {c.id: c.space for c in self.job.latest.site.circuits}
        self.assertEqual(now[fridge.id], places[same.id])
        self.assertEqual(now[same.id], places[fridge.id])
        for id_ in places.keys() - {fridge.id, same.id}:
            self.assertEqual(now[id_], places[id_])

    def test_two_people_at_one_breaker(self):
        """A swap made on a page that is older than somebody's move of the same breaker is not
        kept, in no part; what the other did stands and is named."""
        counter, bench = self.by_name["Kitchen counter"], self.by_name["Cellar bench"]
        base = self.job.latest.number
        mate = person("robin")
        self.job.crew.add(mate)
        self.client.force_login(mate)
        self.post(op="set", path=f"{counter.id}.space", text="15")
        self.client.force_login(self.owner)
        key = f"{counter.id}:{bench.space},{bench.id}:{counter.space}"
        answer = self.post(op="move", path=self.site.panel.id, text=key, base=base)
        self.assertContains(answer, "robin set this to 15")
        now = {c.id: c.space for c in self.job.latest.site.circuits}
        self.assertEqual((now[counter.id], now[bench.id]), (15, bench.space))

    def test_the_door_card(self):
        panel = self.site.panel.id
        answer, page = printed(self.client, f"/jobs/{self.job.pk}/door-card/{panel}.pdf")
        self.assertEqual(answer.content[:5], b"%PDF-")
        for words in ("Utility room", "Kitchen counter", "Water heater", "feeds in",
                      "Available fault current about", "proves nothing dead"):  # fmt: skip
            self.assertIn(words, page)
        self.assertNotIn('class="', page.split("<svg")[1].split("</svg>")[0])
        self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/door-card/p99.pdf").status_code, 404)

    def test_the_doors_pdf_says_it_in_text(self):
        """Read back from the PDF itself, as a search or a screen reader does."""
        panel = self.site.panel.id
        answer = self.client.get(f"/jobs/{self.job.pk}/door-card/{panel}.pdf")
        pages = PdfReader(io.BytesIO(answer.content)).pages
        self.assertEqual(len(pages), 1)
        text = " ".join(pages[0].extract_text().split())
        for circuit in self.site.circuits:
            if circuit.panel == panel:
                self.assertIn(circuit.name, text)
        for words in ("Utility room", "2–4", "100 A", "spare", "proves nothing dead"):
            self.assertIn(words, text)

    def test_the_door_card_as_one_drawing(self):
        """Names uncut, two halves of a space, the spare ones said; no class is left."""
        panel = self.site.panel.id
        left, shed = self.by_name["Dining left"], self.by_name["Tool shed"]
        self.post(op="set", path=f"{left.id}.name", text="Dining left, north wall & window")
        url = f"/jobs/{self.job.pk}/door-card/{panel}.svg"
        answer = self.client.get(url)
        self.assertEqual(answer["Content-Type"], "image/svg+xml")
        drawn = answer.content.decode()
        for words in (
            "Utility room", "Dining left, north wall &amp;", "window (shares a neutral)",
            "feeds in", "spare", "2–4", "proves nothing dead", "Available fault current about",
        ):  # fmt: skip
            self.assertIn(words, drawn)
        self.assertNotIn("class=", drawn)
        self.assertEqual(self.client.get(url.replace(panel, "p99")).status_code, 404)
        for circuit in (left, shed):
            self.post(op="set", path=f"{circuit.id}.space", text="15")
            self.post(op="set", path=f"{circuit.id}.tandem", text="Yes")
        drawn = self.client.get(url).content.decode()
        self.assertIn("Dining left, north wall &amp; window  20 A", drawn)
        self.assertIn("Tool shed  20 A", drawn)

    def test_nonsense_moves_nothing(self):
        for text in ("", "c1:", "c99999:4", "c17:-1", "c17:999999", "c17", "x:1,y:2"):
            answer = self.post(op="move", path=self.site.panel.id, text=text)
            self.assertEqual(answer.status_code, 200, text)
        self.assertEqual(self.job.revisions.count(), 1)
