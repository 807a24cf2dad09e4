"""The Earth and the Array stage: places, tests, soil, joints, labels."""

import io

from django.test import TestCase
from pypdf import PdfReader

from justloop.log.models import LoggedReading
from tests.core.test_findings import example

from .people import flat, job_of, person

SOIL = "2 ft 24\r\n5 ft 12.1\r\n10 ft 8\r\n20 ft 6\r\n40 ft 5.4"
FALL = "52 24.5\r\n62 25\r\n72 25.8"


class Stage(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, example("pebblewick"))
        self.site = self.job.latest.site
        self.rods = [e.id for e in self.site.electrodes if e.kind == "rod"]

    def get(self, stage, **more):
        return flat(self.client.get(f"/jobs/{self.job.pk}/{stage}", more).content)

    def post(self, **form):
        base = {"base": self.job.latest.number, "stage": "earth"}
        return self.client.post(
            f"/jobs/{self.job.pk}/edit", base | form, headers={"HX-Request": "true"}
        )

    def keep(self, **form):
        base = {"stage": "earth", "show": "test"}
        return self.client.post(f"/jobs/{self.job.pk}/readings/keep", base | form, follow=True)


class Earth(Stage):
    def test_the_plan_and_the_poor_path(self):
        page = self.get("earth", at=self.rods[0])
        for words in ("Plan from above", "1 square = 5 ft", "A hot wire on rod 1 alone",
                      "No breaker trips.", "one step here", "4 rods"):  # fmt: skip
            self.assertIn(words, page)

    def test_a_typed_place_is_kept_undone_and_refused_beside_its_box(self):
        rod = self.rods[1]
        self.post(op="place", path=rod, text="8 ft south of rod 1")
        placed = self.job.latest.site.elements()[rod]
        self.assertEqual((placed.east_ft, placed.north_ft, placed.spacing_ft), (46, 22, 8))
        self.client.post(f"/jobs/{self.job.pk}/undo", {"stage": "earth"})
        self.assertEqual(self.job.latest.site.elements()[rod].north_ft, 26)
        answer = self.post(op="place", path=rod, text="by the tree", at=rod)
        self.assertContains(answer, "was not understood")
        self.assertContains(answer, 'value="by the tree"')

    def test_two_people_at_one_rod_are_told_and_nothing_typed_is_lost(self):
        rod, old = self.rods[1], self.job.latest.number
        self.post(op="place", path=rod, text="50, 20")
        answer = self.post(op="place", path=rod, text="44, 18", base=old, at=rod)
        self.assertContains(answer, 'value="44, 18"')
        self.assertContains(answer, 'id="place-error"')
        self.assertEqual(self.job.latest.site.elements()[rod].east_ft, 50)
        self.post(op="place", path=self.rods[2], text="60, 20", base=old)
        self.assertEqual(self.job.latest.site.elements()[self.rods[2]].east_ft, 60)

    def test_what_counts(self):
        page = self.get("earth", show="counts")
        for words in ("Footing steel", "24 ft in the footing", "must be used", "copper needed",
                      "no figure is asked of it", "8 AWG; "):  # fmt: skip
            self.assertIn(words, page)

    def test_a_three_point_test_needs_the_hold_and_is_kept_as_measured(self):
        page = self.get(
            "earth", show="test", at=self.rods[0], far="100", readings=FALL, clamp="0.3"
        )
        for words in ("25 Ω", "agree within 5 %", "through metal", "Dead and locked first"):
            self.assertIn(words, page)
        form = {"kind": "three-point", "place": self.rods[0], "value": "25", "detail": FALL}
        self.assertContains(self.keep(**form), "Say that it was")
        self.assertEqual(LoggedReading.objects.count(), 0)
        self.assertContains(self.keep(**form, hold="1"), "Kept: 25 Ω")
        rod = self.job.latest.site.elements()[self.rods[0]]
        self.assertEqual(rod.proved_ohm, 25)
        source = self.job.latest.site.sources[f"{self.rods[0]}.proved_ohm"]
        self.assertEqual((source.kind, source.who), ("measured", "wren"))
        self.assertIn("three-point test, rod 1", self.get("earth", show="test"))

    def test_bad_readings_are_told_beside_their_box_and_stay(self):
        for readings, says in (("62 25", "52, 62 and 72 %"), ("x y", "was not understood")):
            page = self.get("earth", show="test", far="100", readings=readings)
            self.assertIn(says, page)
            self.assertIn(f">{readings}</textarea>", page)
        self.assertIn("“nine” was not", self.get("earth", show="soil", readings="nine"))

    def test_soil_in_two_layers_is_kept_as_the_jobs(self):
        page = self.get("earth", show="soil", season="usual", readings=SOIL)
        for words in ("96.6 Ω·m over 919 Ω·m", "16 ft", "Worst of the year"):
            self.assertIn(words, page)
        self.keep(kind="soil", place="soil", value="122.9", detail=SOIL, show="soil")
        self.assertEqual(self.job.latest.site.soil_ohm_m, 122.9)
        self.post(op="soil", path="soil", text="")
        self.assertIsNone(self.job.latest.site.soil_ohm_m)
        self.assertContains(self.post(op="soil", path="soil", text="mud", show="soil"), "write 100")

    def test_readings_out(self):
        self.keep(kind="soil", place="soil", value="80", detail=SOIL)
        text = self.client.get(f"/jobs/{self.job.pk}/readings.csv").content.decode()
        self.assertIn("soil,soil,80.0,Ω·m", text)
        body = self.client.get(f"/jobs/{self.job.pk}/readings.json").json()
        self.assertEqual(body["readings"][0]["who"], "wren")
        for form in ({"kind": "volts", "value": "1"}, {"kind": "soil", "value": "x"},
                     {"kind": "clamp", "place": "e99", "value": "2"}):  # fmt: skip
            self.assertEqual(self.keep(**form).status_code, 200)
        self.assertEqual(LoggedReading.objects.count(), 1)


class Arrays(Stage):
    def setUp(self):
        super().setUp()
        self.array = self.site.arrays[0].id

    def test_a_joint_is_opened_tried_and_made_good(self):
        self.assertIn("Row 2, module 3 floats: up to 370 V", self.get("array"))
        branch = f"{self.array}.splice1s1"
        self.assertIn("2 frames hang on it", self.get("array", q="splice1s1").lower())
        self.post(op="joint", path=branch, text="open")
        self.assertIn("3 frames", self.get("array"))
        self.post(op="joint", path=branch, text="good")
        self.post(op="joint", path=f"{self.array}.frame2m3", text="good")
        self.assertNotIn("floats: up to", self.get("array"))
        answer = self.post(op="joint", path="a1.rope", text="open")
        self.assertContains(answer, "out of date")

    def test_the_layout_in_one_line(self):
        self.post(op="layout", path=self.array, text="2 rows of 5, lugs, 8 cu")
        made = self.job.latest.site.arrays[0]
        facts = (made.rows, made.columns, made.bonding, made.egc_size)
        self.assertEqual(facts, (2, 5, "lugs", "8"))
        answer = self.post(op="layout", path=self.array, text="two by four", stage="array")
        self.assertContains(answer, "was not understood")
        self.assertContains(answer, 'value="two by four"')

    def test_fault_bars_volts_labels(self):
        for show, words in (
            ("fault", ("Functionally grounded", "26.5 A", "No breaker clears it")),
            ("bars", ("238 A ≤ 270 A", "One way is met")),
            ("volts", ("both wires, copper at 75 °C", "meant here", "3 % is advice")),
            ("labels", ("16", "6 along 55 ft, 3 at turns, 2 at penetrations", "fire code")),
        ):
            page = self.get("array", show=show)
            for said in words:
                self.assertIn(said, page, show)

    def test_the_labels_on_paper(self):
        answer = self.client.get(f"/jobs/{self.job.pk}/labels/{self.array}.pdf")
        text = " ".join(
            "".join(p.extract_text() for p in PdfReader(io.BytesIO(answer.content)).pages).split()
        )
        self.assertEqual(text.count("SOLAR PV DC CIRCUIT"), 1 + 12)
        self.assertIn("370 V MAX", text)
        drawn = self.client.get(f"/jobs/{self.job.pk}/labels/{self.array}.svg").content.decode()
        self.assertEqual(drawn.count("SOLAR PV DC CIRCUIT"), 2)
        gone = self.client.get(f"/jobs/{self.job.pk}/labels/a99.pdf")
        self.assertEqual(gone.status_code, 302)

    def test_a_job_without_an_array_has_no_such_stage(self):
        plain = job_of(self.owner)
        self.assertNotIn(
            'data-stage="array"', self.client.get(f"/jobs/{plain.pk}/earth").content.decode()
        )
        answer = self.client.get(f"/jobs/{plain.pk}/array")
        self.assertContains(answer, "No array is described")
