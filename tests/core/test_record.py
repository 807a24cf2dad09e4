"""The record: what must be seen before cover, what is not read, readings in files."""

import json
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath.errors import BadInput
from returnpath.readings import (
    ReadingRow,
    TypedReading,
    judge_reading,
    predict,
    read_reading,
    read_table,
    reading_kinds,
    write_table,
)
from returnpath.record import KeptSlot, Record, record_findings, record_kinds, slots_of
from returnpath.site import Set, apply
from returnpath.study import study

from .test_findings import example

SITE = example("pebblewick")
DONE = study(SITE)
PLACES = [e.id for group in (SITE.circuits, SITE.panels, SITE.feeders, SITE.electrodes)
          for e in group]  # fmt: skip


def typed(kind: str, place: str, value: float) -> TypedReading:
    return TypedReading("", kind, place, place, value)


class Findings(unittest.TestCase):
    @given(st.sampled_from(sorted(reading_kinds())), st.sampled_from(PLACES), st.floats(0, 1))
    @settings(max_examples=300, deadline=None)
    def test_a_reading_at_its_prediction_never_makes_a_finding(self, kind, place, share):
        band = predict(DONE, typed(kind, place, 0.0))
        if band is None:
            return
        high = min(band.high, band.low + 1e3)
        judged = judge_reading(DONE, typed(kind, place, band.low + share * (high - band.low)))
        self.assertIs(judged.fits, True)
        found = record_findings(SITE, DONE, Record([judged]))
        self.assertNotIn("reading-off-prediction", {f.id for f in found})

    def test_one_that_is_far_off_makes_one_and_one_a_little_off_does_not(self):
        far, little = (judge_reading(DONE, typed("loop", "c26", v)) for v in (0.9, 0.31))
        for judged, count in ((far, 1), (little, 0)):
            found = record_findings(SITE, DONE, Record([judged]))
            off = [f for f in found if f.id == "reading-off-prediction"]
            self.assertEqual(len(off), count, judged)
        self.assertIs(little.fits, False)

    def test_what_is_not_read_is_said_panel_by_panel_until_it_is(self):
        def missing(readings):
            found = record_findings(SITE, DONE, Record(readings))
            return {f.place for f in found if f.id == "reading-missing"}

        self.assertEqual(missing([]), {"p5", "p6", "p7"})
        loft = [judge_reading(DONE, typed("loop", c, 0.25)) for c in ("c26", "c27")]
        self.assertEqual(missing(loft), {"p5", "p7"})

    def test_slots_are_what_this_place_buries_and_closes(self):
        keys = {s.key for s in slots_of(SITE)}
        for key in ("concrete:e10", "rod:e11", "water:m15", "trench:f9", "bond:p6", "washers:a33",
                    "labels:a33"):  # fmt: skip
            self.assertIn(key, keys)
        self.assertNotIn("trench:f8", keys)  # in the same building
        buried = apply(SITE, Set(path="f8.cover_in", value=18))
        self.assertIn("trench:f8", {s.key for s in slots_of(buried)})

    def test_a_slot_is_filled_by_a_photo_a_name_or_a_reason(self):
        def unseen(*slots):
            found = record_findings(SITE, DONE, Record(slots=slots))
            return sum(f.id == "evidence-before-cover" for f in found)

        most = len(slots_of(SITE))
        self.assertEqual(unseen(), most)
        self.assertEqual(unseen(KeptSlot("rod:e11")), most)
        filled = (KeptSlot("rod:e11", 1), KeptSlot("rod:e12", seen_by="Wren"),
                  KeptSlot("rod:e13", because="under the slab since 1958"))  # fmt: skip
        self.assertEqual(unseen(*filled), most - 3)

    def test_every_kind_of_it_has_its_page_words(self):
        made = {f.id for f in record_findings(SITE, DONE, Record(
            [judge_reading(DONE, typed("loop", "c26", 0.9))],
            corrections=[("p6", "Loft studio", "Bond in.")],
            unread=[("p6", "Loft studio", "Dead.")]))}  # fmt: skip
        self.assertEqual(made, set(record_kinds()))
        for kind in record_kinds().values():
            self.assertTrue(all((kind.looks, kind.why, kind.do)), kind.id)


class Judged(unittest.TestCase):
    def test_an_instruments_error_and_the_temperature_move_the_band(self):
        loop = typed("loop", "c26", 0.27)
        self.assertIs(judge_reading(DONE, loop).fits, True)
        self.assertIs(judge_reading(DONE, replace(loop, error=(0.0, 0.005))).fits, False)
        cold, hot = (predict(DONE, replace(typed("r2", "c26", 0.0), celsius=c)) for c in (-10, 60))
        self.assertAlmostEqual((cold.low + cold.high) / (hot.low + hot.high),
                               (234.5 - 10) / (234.5 + 60), places=3)  # fmt: skip

    def test_a_tester_says_what_it_cannot_see(self):
        good = read_reading(SITE, "studio outlets tester correct")
        self.assertEqual((good.kind, good.value, good.problem), ("lamps", 0.0, ""))
        self.assertIn("joined at the receptacle", judge_reading(DONE, good).meaning)
        bad = read_reading(SITE, "studio outlets plug-in tester open ground")
        self.assertIs(judge_reading(DONE, bad).fits, False)
        self.assertTrue(read_reading(SITE, "studio outlets tester purple").problem)

    def test_spoken_with_a_temperature_a_range_and_steps(self):
        read = read_reading(SITE, "studio outlets r2 0.2 at 68 F")
        self.assertEqual((read.kind, read.value, read.celsius), ("r2", 0.2, 20.0))
        self.assertTrue(read_reading(SITE, "studio outlets loop 0.4 no-trip").no_trip)
        for text, kind in (("studio outlets step n-g 1.4 V", "step-ng"),
                           ("studio outlets l-n loop 0.5", "loop-ln"),
                           ("dryer loop l2 0.2", "loop2"),
                           ("studio feeder step clamp 3", "step-clamp"),
                           ("footing steel clamp ohms 12", "clamp-ohm")):  # fmt: skip
            read = read_reading(SITE, text)
            self.assertEqual((read.kind, read.problem), (kind, ""), text)


class Table(unittest.TestCase):
    ROWS = (
        ReadingRow(kind="loop", place="c26", value=0.66, at="2026-11-02T10:00:00+00:00",
                   instrument="=loop meter", temperature_c=-4.5, remark="+1 for the cover"),
        ReadingRow(kind="ng", place="Studio outlets", value=1.9, loaded=True, simulated=True),
        ReadingRow(kind="soil", place="soil", value=80, unit="Ω·m"),
    )  # fmt: skip

    def test_out_and_in_again(self):
        text = write_table(self.ROWS)
        self.assertNotIn(",=loop", text)  # no cell a spreadsheet would run
        read = read_table(SITE, text)
        self.assertEqual([t.place for _, t in read], ["c26", "c26"])
        self.assertEqual(read[0][0], self.ROWS[0])
        self.assertTrue(read[1][0].simulated and read[1][1].loaded)
        file = {"format": 1, "readings": [r.model_dump() for r in self.ROWS]}
        self.assertEqual(read_table(SITE, json.dumps(file))[0][0], self.ROWS[0])

    def test_what_is_wrong_is_said_with_its_row(self):
        head = "kind,place,value\n"
        for text, words in (
            ("", "columns"), ("a,b\n1,2", "columns"),
            ("kind,pl\race,value\r1", "columns"), (head, "no reading"),
            (head + "loop,c26,0.2\nlope,c26,1", "Row 2"), (head + "loop,sauna,1", "sauna"),
            (head + "loop,c26,x", "value"), (head + "loop,c26,-1", "value"),
            (head + "loop,c26,nan", "value"), ('{"format": 2, "readings": []}', "format"),
            ('{"format": 1, "readings": [{"kind": "loop"}]}', "place"),
            ('{"format": 1, "readings": [{"kind":"loop","place":"c26","value":1,"x":2}]}', "x"),
            ("{", "file of readings"), (head + "loop,c26,0.2\n" * 2001, "At most"),
            (head + "temperature,c26,999999999", "value"),
        ):  # fmt: skip
            with self.subTest(text[:40]), self.assertRaises(BadInput) as caught:
                read_table(SITE, text)
            self.assertIn(words, caught.exception.sentence)
