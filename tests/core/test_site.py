"""The site as a document: fields, edits, the job file, the sheath grammar."""

import json
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath import site as s
from returnpath.errors import BadInput
from returnpath.site.edits import Require
from returnpath.study import study

from .houses import house

FIXTURES = Path(__file__).parent / "fixtures"


def circuit_info(path):
    return s.field_info(s.Circuit(id="c1"), path)


class Fields(unittest.TestCase):
    def test_lengths_in_feet_and_metres(self):
        info = circuit_info("length_ft")
        for text, feet in [("85", 85), ("85 ft", 85), ("85ft", 85), ("26 m", 85.3), ("85'", 85)]:
            with self.subTest(text=text):
                self.assertEqual(s.parse_text(info, text), feet)

    def test_sizes_as_people_write_them(self):
        info = circuit_info("line_size")
        for text in ("12", "#12", "12 AWG", "12awg"):
            self.assertEqual(s.parse_text(info, text), "12")

    def test_more_digits_than_a_number_has_are_refused_with_a_sentence(self):
        """Python reads no whole number of more than 4,300 digits."""
        for model in (s.Circuit, s.Panel, s.Supply, s.Feeder, s.Electrode, s.Building):
            for info in s.fields_of(model):
                for text in ("9" * 5000, "#" + "9" * 5000, "-" + "9" * 5000, "9" * 5000 + "/0"):
                    with (
                        self.subTest(model=model.__name__, path=info.path),
                        self.assertRaises(BadInput),
                    ):
                        s.parse_text(info, text)

    def test_empty_is_unknown(self):
        self.assertIsNone(s.parse_text(circuit_info("length_ft"), "  "))

    def test_sentences_say_what_is_allowed(self):
        cases = [
            ("length_ft", "abc", "85, 85 ft or 26 m"),
            ("length_ft", "85 yards", "not a unit"),
            ("length_ft", "-3", "from 0 to 5000"),
            ("line_size", "7", "7 AWG is not a size; 6 and 8 are"),
            ("breaker.rating_a", "nan", "was not understood"),
            ("egc", "string", "EGC"),
        ]
        for path, text, words in cases:
            with self.subTest(text=text), self.assertRaises(BadInput) as caught:
                s.parse_text(circuit_info(path), text)
            self.assertIn(words, caught.exception.sentence)

    @settings(max_examples=300, deadline=None)
    @given(st.text(max_size=30), st.sampled_from(s.fields_of(s.Circuit)))
    def test_any_text_is_a_value_or_a_sentence(self, text, info):
        try:
            value = s.parse_text(info, text)
        except BadInput as error:
            self.assertTrue(error.sentence)
        else:
            # What is shown can be typed again.
            shown = s.show_value(info, value)
            self.assertEqual(s.parse_text(info, shown), value)


class Edits(unittest.TestCase):
    def setUp(self):
        self.site = house("20A 12/2 NM 85ft kitchen counter")

    def test_set_and_words(self):
        edit = s.Set(path="c2.length_ft", value=120.0)
        words = s.describe(self.site, edit)
        self.assertEqual(words, "Kitchen counter: one-way length from 85 ft to 120 ft")
        self.assertEqual(s.apply(self.site, edit).circuit("c2").length_ft, 120)
        self.assertEqual(self.site.circuit("c2").length_ft, 85)

    def test_a_new_value_forgets_the_old_source(self):
        bound = s.Provenance(kind="no more than", bound=100)
        one = s.apply(self.site, s.Set(path="c2.length_ft", value=None, source=bound))
        self.assertIn("c2.length_ft", one.sources)
        two = s.apply(one, s.Set(path="c2.length_ft", value=60))
        self.assertNotIn("c2.length_ft", two.sources)

    def test_ids_are_never_used_again(self):
        gone = s.apply(self.site, s.Remove(id="c2"))
        again = s.apply(gone, s.Add(facts={"name": "new"}))
        self.assertEqual([c.id for c in again.circuits], ["c3"])

    def test_what_named_a_removed_circuit_forgets_it(self):
        pair = s.apply(self.site, s.Add(facts={"name": "other", "shares_with": "c2"}))
        alone = s.apply(pair, s.Remove(id="c2"))
        self.assertIsNone(alone.circuits[0].shares_with)
        with self.assertRaises(BadInput):
            s.apply(self.site, s.Remove(id="p1"))  # a circuit needs its panel

    def test_move_and_replace(self):
        two = s.apply(self.site, s.Add(facts={"name": "second"}))
        self.assertEqual(
            [c.id for c in s.apply(two, s.Move(id="c3", position=0)).circuits], ["c3", "c2"]
        )
        new = s.apply(two, s.Replace(items=({"name": "only"},)))
        self.assertEqual([(c.id, c.name) for c in new.circuits], [("c4", "only")])

    def test_what_cannot_exist_is_refused_with_its_path(self):
        cases = [
            (s.Set(path="c2.line_size", value="7"), "7 AWG is not a size"),
            (s.Set(path="c2.egc", value="raceway"), "no steel raceway"),
            (s.Set(path="c9.length_ft", value=1), "no longer in this job"),
            (s.Set(path="c2.nonsense", value=1), "There is no"),
            (s.Set(path="practice.edition", value=None), "cannot be left open"),
            (s.Add(facts={"nonsense": 1}), "not a key"),
        ]
        for edit, words in cases:
            with self.subTest(edit=edit), self.assertRaises(BadInput) as caught:
                s.apply(self.site, edit)
            self.assertIn(words, caught.exception.sentence)

    def test_what_is_merely_wrong_is_saved(self):
        wrong = s.apply(self.site, s.Set(path="c2.line_size", value="14"))  # 14 AWG on 20 A
        self.assertEqual(wrong.circuit("c2").line_size, "14")


class Rebase(unittest.TestCase):
    @given(st.integers(0, 4), st.integers(0, 3))
    def test_edits_keep_to_the_parts_they_made_whatever_was_added_meanwhile(self, others, own):
        base, edits = house("20A 12/2 NM 85ft kitchen"), []
        tried = base
        for n in range(own + 1):
            add = s.Add(facts={"name": f"mine {n}", "panel": base.panel.id})
            tried = s.apply(tried, add)
            edit = s.Set(path=f"{tried.circuits[-1].id}.length_ft", value=40 + n)
            tried = s.apply(tried, edit)
            edits += [add, edit]
        old = s.Set(path=f"{base.circuits[0].id}.length_ft", value=33)
        newest = base
        for n in range(others):
            newest = s.apply(newest, s.Add(facts={"name": f"theirs {n}", "panel": base.panel.id}))
        for edit in s.rebase([*edits, old], base, newest):
            newest = s.apply(newest, edit)
        lengths = {c.name: c.length_ft for c in newest.circuits[len(base.circuits) :]}
        theirs = {f"theirs {n}": None for n in range(others)}
        self.assertEqual(lengths, theirs | {f"mine {n}": 40 + n for n in range(own + 1)})
        self.assertEqual(newest.circuits[0].length_ft, 33)


class JobFile(unittest.TestCase):
    def test_round_trip(self):
        site = house("20A #12 EMT 1/2 ground 12 85ft shop")
        self.assertEqual(s.loads(s.dumps(site)), site)

    def test_every_past_format_is_read(self):
        for fixture in sorted(FIXTURES.glob("format-*.json")):
            with self.subTest(fixture.name):
                site = s.loads(fixture.read_text("utf-8"))
                self.assertEqual(site.circuits[0].name, "Kitchen counter")
                self.assertAlmostEqual(study(site).loops["c2"].lowest_a, 326.9, delta=1)

    def test_a_figure_of_no_use_is_refused_and_an_old_one_stops_no_other_change(self):
        """What an older file holds is read, and its job can still be changed."""
        house_ = house("20A #12 EMT 1/2 ground 12 85ft shop")
        circuit, supply = house_.circuits[0].id, house_.supplies[0].id
        house_ = s.apply(house_, s.Set(path=f"{supply}.kind", value="utility"))
        for path, value, words in (
            (f"{supply}.limit", 2.0, "an inverter's or a generator's"),
            (f"{circuit}.breaker.kind", "none", "empty the rating first"),
        ):
            with self.subTest(path), self.assertRaises(BadInput) as caught:
                s.apply(house_, s.Set(path=path, value=value))
            self.assertIn(words, caught.exception.sentence)
            self.assertEqual(caught.exception.field, path)
        breaker = f"{circuit}.breaker"
        empty = (s.Set(path=f"{breaker}.{end}", value=None) for end in ("lo", "hi"))
        fuse = s.apply_all(house_, (*empty, s.Set(path=f"{breaker}.kind", value="gG")))
        with self.assertRaises(BadInput):
            s.apply(fuse, s.Set(path=f"{breaker}.lo", value=5.0))
        data = json.loads(s.dumps(fuse))
        data["site"]["circuits"][0]["breaker"]["lo"] = 5.0
        old = s.loads(json.dumps(data))
        changed = s.apply(old, s.Set(path=f"{circuit}.length_ft", value=40))
        self.assertEqual((changed.circuits[0].length_ft, changed.circuits[0].breaker.lo), (40, 5.0))

    def test_refusals_name_the_path(self):
        good = json.loads((FIXTURES / "format-1.json").read_text("utf-8"))

        def refused(change, words):
            data = json.loads(json.dumps(good))
            change(data)
            with self.assertRaises(BadInput) as caught:
                s.loads(json.dumps(data))
            self.assertIn(words, caught.exception.sentence)

        refused(lambda d: d.update(format=99), "format 99")
        refused(lambda d: d["site"].update(colour="red"), "“colour” is not a key")
        refused(lambda d: d["site"]["circuits"][0].update(len=1), "circuits.0.len")
        refused(lambda d: d["site"]["circuits"][0].update(line_size="7"), "7 AWG")
        refused(lambda d: d["site"]["circuits"][0].update(panel="p9"), "no panel")
        refused(lambda d: d["site"].update(last_id=1), "never given")
        for text in ("", "{", "[]", "null", '{"format":1}', "[" * 5000):
            with self.subTest(text[:9]), self.assertRaises(BadInput):
                s.loads(text)


class Quickline(unittest.TestCase):
    def read(self, line):
        return s.read_circuit(line)

    def test_a_fact_said_twice_is_never_chosen_for_you(self):
        for line, kept in (
            ("20A 12/2 NM 85ft and 60ft x", ("length_ft", 85)),
            ("20A 30A 12/2 NM 85ft x", ("breaker", {"rating_a": 20})),
            ("20A 12/2 14/2 NM 85ft x", ("line_size", "12")),
            ("20A 12/2 12/3 NM 85ft x", ("neutral", "yes")),
            ("20A 12/2 NM EMT 85ft x", ("method", "NM")),
            ("20A 1P 2P 12/2 NM 85ft x", ("poles", 1)),
            ("20A #12 PVC ground 12 40ft x no ground", ("egc", None)),
        ):
            with self.subTest(line):
                read = self.read(line)
                self.assertFalse(read.is_complete)
                self.assertRegex(read.problems[0], "says otherwise|both said")
                self.assertEqual(read.facts.get(kept[0]), kept[1])
        self.assertTrue(self.read("2P20A 20A/2 12/2 NM 85ft x").is_complete)

    def test_no_ground_as_others_say_it(self):
        for said in ("no ground", "w/o ground", "without ground", "no ground wire", "no-ground",
                     "no gnd", "ungrounded", "no equipment ground", "no egc,"):  # fmt: skip
            with self.subTest(said):
                read = self.read(f"15A 14/2 NM {said} 40ft bedroom")
                self.assertTrue(read.is_complete, read.problems)
                self.assertEqual((read.facts["egc"], read.facts["name"]), ("none", "Bedroom"))

    def test_a_ground_that_is_not_understood_is_never_taken_as_whole(self):
        for said in ("ground cut", "ground?", "bad ground", "grond"):
            with self.subTest(said):
                self.assertFalse(self.read(f"15A 14/2 NM {said} 40ft bedroom").is_complete)
        read = self.read("15A 14/2 NM 40ft ground floor lights")
        self.assertTrue(read.is_complete)
        self.assertEqual(read.facts["name"], "Ground floor lights")

    def test_with_ground(self):
        for line, egc in (("#12 PVC", "wire"), ("#12 EMT", "both"), ("12/2 NM", "wire")):
            with self.subTest(line):
                read = self.read(f"{line} w/ ground, 20 amp, 90' fridge")
                self.assertTrue(read.is_complete, read.problems)
                self.assertEqual((read.facts["egc"], read.facts["name"]), (egc, "Fridge"))

    def test_the_issue_line(self):
        facts = self.read("20A 12/2 NM 85ft kitchen counter").facts
        expected = {
            "breaker": {"rating_a": 20},
            "line_size": "12",
            "egc": "wire",
            "egc_size": "12",
            "method": "NM",
            "length_ft": 85,
            "name": "Kitchen counter",
        }
        self.assertEqual({k: facts[k] for k in expected}, expected)

    def test_any_order_and_spelling(self):
        one = self.read("kitchen counter 85 ft NM 12-2 20 A").facts
        self.assertEqual(one, self.read("20A 12/2 NM 85ft kitchen counter").facts)

    def test_two_poles_neutral_and_raceways(self):
        self.assertEqual(self.read("2P30A 10/2 heater").facts["neutral"], "no")
        self.assertEqual(self.read("30A/2 10/3 dryer").facts["neutral"], "yes")
        self.assertEqual(self.read("20A #12 EMT 3/4 shop").facts["egc"], "raceway")
        self.assertEqual(self.read("20A #12 EMT 1/2 ground 12 shop").facts["egc"], "both")

    def test_a_return_is_never_assumed(self):
        self.assertNotIn("egc", self.read("20A #12 PVC 85ft pump").facts)
        self.assertEqual(self.read("15A 14/2 no ground hall").facts["egc"], "none")

    def test_sentences_for_what_is_not_understood(self):
        for line, words in [
            ("20A 7/2 NM", "7 AWG is not a size"),
            ("20A 12/9 NM", "a cable is written"),
            ("20A 12/2 85", "needs its unit"),
            ("20A 12/2 85fx", "a length is written"),
            ("900A 12/2", "Breaker must be"),
        ]:
            with self.subTest(line):
                self.assertIn(words, " ".join(self.read(line).problems))

    @settings(max_examples=300, deadline=None)
    @given(st.text(max_size=80))
    def test_never_raises(self, line):
        reading = self.read(line)
        if reading.is_complete:
            s.apply(s.Installation(), s.Add(facts=reading.facts))


class FullLists(unittest.TestCase):
    """What edits make can always be read back: a list that is full refuses one more."""

    def test_no_list_grows_beyond_what_its_file_may_hold(self):
        for to, most in (("supplies", 20), ("services", 20), ("arrays", 50)):
            site = s.Installation()
            facts = {"supply": "u1", "to": "p1"} if to == "services" else {}
            for _ in range(most - len(getattr(site, to))):
                site = s.apply(site, s.Add(to=to, facts=facts))
            s.loads(s.dumps(site))
            with self.assertRaisesRegex(BadInput, f"at most {most}"):
                s.apply(site, s.Add(to=to, facts=facts))

    def test_nor_the_requirements_of_local_practice(self):
        site = s.Installation()
        for n in range(100):
            site = s.apply(site, Require(text=f"Requirement {n}", who="the office"))
        s.loads(s.dumps(site))
        with self.assertRaisesRegex(BadInput, "At most 100"):
            s.apply(site, Require(text="One more", who="the office"))
