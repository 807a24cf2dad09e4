"""The ladder: from the source to a part, a rung a conductor or device, the weakest named."""

import json
import unittest

from returnpath.errors import BadInput
from returnpath.rules import Evidence, Footing, RungKind, findings, ladder
from returnpath.site import dumps
from returnpath.study import study

from .test_chain import story
from .test_command import run
from .test_findings import example


def climbed(site, part: str):
    """The ladder to a part of a site."""
    done = study(site)
    return ladder(Evidence(site, done), findings(site, done), part)


class Rungs(unittest.TestCase):
    def test_every_conductor_and_device_on_the_way(self):
        found = climbed(story("The base"), "c5")
        kinds = [(r.kind, r.element) for r in found.rungs]
        self.assertEqual(kinds, [
            (RungKind.SOURCE, "u1"), (RungKind.CONDUCTOR, "s1"), (RungKind.DEVICE, "p1"),
            (RungKind.BARS, "p1"), (RungKind.DEVICE, "f1"), (RungKind.CONDUCTOR, "f1"),
            (RungKind.BARS, "p2"), (RungKind.DEVICE, "c5"), (RungKind.CONDUCTOR, "c5"),
        ])  # fmt: skip

    def test_what_it_carries_and_must(self):
        rungs = {(r.kind, r.element): r for r in climbed(story("The base"), "c3").rungs}
        service = rungs[RungKind.CONDUCTOR, "s1"]
        self.assertEqual((service.carries_a, service.allowed_a, service.must_a), (180, 200, 200))
        heater = rungs[RungKind.CONDUCTOR, "c3"]  # 18.75 A for hours on 10 AWG NM
        self.assertEqual((heater.carries_a, round(heater.must_a, 2)), (30, 23.44))

    def test_the_weakest_is_what_a_finding_is_about(self):
        found = climbed(story("6 AWG copper as service"), "c1")
        self.assertEqual((found.weakest.element, found.weakest.mark), ("s1", Footing.SHORT))
        self.assertEqual(found.weakest.level, "danger")

    def test_a_device_not_typed_is_asked_for(self):
        found = climbed(story("The den feeder's breaker was not typed"), "c5")
        self.assertEqual((found.weakest.element, found.weakest.mark), ("f1", Footing.ASKED))
        self.assertIn("not typed; ahead of it 200 A", found.weakest.protection)

    def test_a_tap_is_behind_the_nearest_device_ahead(self):
        found = climbed(story("A ten-foot tap"), "Den feeder")
        self.assertEqual(found.rungs[-1].element, "f1")
        self.assertEqual(found.rungs[-1].protection, "nearest ahead: 200 A, Main")

    def test_a_transformer_begins_a_ladder_of_its_own(self):
        found = climbed(story("A transformer of its own"), "Lathe")
        self.assertEqual(found.rungs[0].element, "u101")
        self.assertNotIn("p1", [r.element for r in found.rungs])

    def test_where_all_hold_the_fullest_is_named(self):
        found = climbed(story("The base"), "p1")
        self.assertTrue(all(r.mark is Footing.HOLDS for r in found.rungs))
        self.assertEqual(found.weakest.used, max(r.used for r in found.rungs))

    def test_a_metric_run_has_its_capacity(self):
        found = climbed(example("thistle"), "c8")
        self.assertEqual(found.rungs[-1].carries_a, 27)
        self.assertEqual(found.rungs[1].mark, Footing.ASKED)  # the fuse of the cut-out

    def test_no_such_part(self):
        with self.assertRaises(BadInput):
            climbed(story("The base"), "moon")


class Command(unittest.TestCase):
    def test_the_command_says_the_same(self):
        site = story("6 AWG copper as service")
        path = self.enterContext(_file(dumps(site)))
        code, out, _ = run("chain", path, "c1", "--json")
        body = json.loads(out)["result"]
        self.assertEqual((code, body["weakest"]), (1, "s1"))
        weak = [r for r in body["rungs"] if r["weakest"]]
        self.assertEqual([(r["element"], r["mark"], r["level"]) for r in weak],
                         [("s1", "too small", "danger")])  # fmt: skip
        code, out, _ = run("chain", path, "Kitchen")
        self.assertRegex(out, r"→ too small +65 A  Service run: 6 AWG copper")
        code, _, err = run("chain", path, "moon")
        self.assertEqual(code, 2)
        self.assertIn("“moon” is no circuit", err)


class _file:
    """A job file for as long as a test needs it."""

    def __init__(self, text: str):
        self.text = text

    def __enter__(self) -> str:
        import tempfile

        self.file = tempfile.NamedTemporaryFile("w", suffix=".json", encoding="utf-8")
        self.file.write(self.text)
        self.file.flush()
        return self.file.name

    def __exit__(self, *_):
        self.file.close()
