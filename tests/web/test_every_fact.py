"""Every fact × every choice: typed in the bench, shown, saved in the file, read back, the same."""

from django.test import TestCase

from returnpath.site import Add, Set, apply, fields_of, loads
from returnpath.study import study
from returnpath.vocabulary import FactPath, System

from ..core.test_vocabulary import typed
from .people import job_of, person


class EveryFact(TestCase):
    """A house of one circuit with one of every list: small, so that a page is quick."""

    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)
        self.job = job_of(self.owner, self.site())

    @staticmethod
    def site():
        from ..core.houses import house

        site = house("20A 12/2 NM 85ft kitchen")
        for to, facts in (
            ("buildings", {"name": "House"}), ("panels", {"kind": "sub", "bond": "out"}),
            ("feeders", {"source": "p1", "to": "p4", "egc": "wire"}),
            ("metals", {"kind": "water", "panel": "p1"}), ("arrays", {"circuit": "c2"}),
            ("joints", {"on": "s1.neutral", "ohm": 0.01}),
        ):  # fmt: skip
            site = apply(site, Add(to=to, facts=facts))
        return site

    def test_all_of_them(self):
        site, tried = self.job.latest.site, 0
        for element in site.elements().values():
            for info in fields_of(type(element)):
                for text in typed(info, site):
                    path = FactPath.of(element.id, info.path)
                    with self.subTest(path=path, text=text):
                        before = self.job.latest.number
                        page = self.client.post(
                            f"/jobs/{self.job.pk}/edit",
                            {"path": path, "text": text, "base": before, "at": element.id,
                             "stage": "survey"},
                            headers={"HX-Request": "true"},
                        )  # fmt: skip
                        self.assertEqual(page.status_code, 200)
                        latest = self.job.latest
                        if latest.number == before:
                            continue
                        tried += 1
                        file = self.client.get(f"/jobs/{self.job.pk}/job.json")
                        again = loads(file.content.decode())
                        self.assertEqual(again, latest.site)
                        self.assertEqual(
                            [f.lowest_a for f in study(again).cases],
                            [f.lowest_a for f in study(latest.site).cases],
                        )
                        self.client.post(f"/jobs/{self.job.pk}/undo", {"base": latest.number})
        self.assertGreater(tried, 300)

    def test_choosing_230_v(self):
        page = self.client.post(
            f"/jobs/{self.job.pk}/edit",
            {"path": "u1.system", "text": "230", "base": 1, "stage": "service"},
            headers={"HX-Request": "true"},
        )
        self.assertEqual(page.status_code, 200)
        self.assertIs(self.job.latest.site.supply.system, System.SINGLE_230)
        for stage in ("survey", "service", "buildings", "prove", "fix"):
            self.assertEqual(self.client.get(f"/jobs/{self.job.pk}/{stage}").status_code, 200)
        file = self.client.get(f"/jobs/{self.job.pk}/job.json").content.decode()
        self.assertEqual(loads(file), self.job.latest.site)
        self.assertEqual(Set(path="u1.system", value="230").value, "230")
