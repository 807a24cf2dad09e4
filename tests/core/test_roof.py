"""An array joint by joint: against a dense solve of its own; bars, volts, labels by hand."""

import unittest

import numpy as np

from returnpath import solar
from returnpath.errors import BadInput
from returnpath.rules import findings, pairs
from returnpath.site import Add, Array, Set, apply, apply_all
from returnpath.site.branches import branches_of
from returnpath.site.roof import ROOT, frames_of, joint_kinds, layout_facts, roof_joints
from returnpath.study import study
from returnpath.study.roof import RoofStudy, whose_fault

FACTS = {
    "name": "Roof", "inverter": "string", "built_under": 2020, "strings": 3, "modules": 7,
    "isc_a": 10, "voc_v": 350, "rows": 3, "columns": 7, "bonding": "washers", "frames": "bonded",
    "rails": "bonded", "rails_listed": "yes", "boxes": "bonded", "egc_size": "6", "length_ft": 55,
    "egc_with_circuit": "yes", "egc_exposed": "no", "detector": "yes", "circuit": "c15",
}  # fmt: skip


def with_array(*joints, **facts):
    """The clean place with an array and joints: (part, what)."""
    site = apply(pairs.base(), Add(to="arrays", facts=FACTS | facts))
    id_ = site.arrays[0].id
    for part, what in joints:
        site = apply(site, Add(to="joints", facts={"on": f"{id_}.{part}", **what}))
    return site


def roof_of(site):
    done = study(site)
    return RoofStudy(done.assumed.site.arrays[0], done.arrays[0], done.states[0].wiring.on)


def dense(array: Array, gone: set[str], egc_ohm: float) -> dict[str, float]:
    """Ω of every frame to the bar by a dense solve; 1 nS to earth at every node, as in method 3."""
    ends = sorted({e for j in roof_joints(array) for e in (j.a, j.b)})
    index = {e: n for n, e in enumerate(ends)}
    y = np.eye(len(ends)) * 1e-9
    y[index[ROOT], index[ROOT]] += 1 / egc_ohm
    for joint in roof_joints(array):
        if joint.part in gone:
            continue
        a, b, g = index[joint.a], index[joint.b], 1 / joint_kinds()[joint.kind][0]
        y[a, a] += g
        y[b, b] += g
        y[a, b] -= g
        y[b, a] -= g
    z = np.linalg.inv(y)
    return {f: z[index[f"f{f}"], index[f"f{f}"]] for f in frames_of(array)}


def row(number: int) -> tuple[str, ...]:
    """The seven frames of a row."""
    return tuple(f"{number}m{c}" for c in range(1, 8))


class Roof(unittest.TestCase):
    def test_every_frame_agrees_with_a_dense_solve(self):
        for gone in ((), ("frame2m3",), ("splice3s1",), ("jumper1", "frame1m7")):
            roof = roof_of(with_array(*((part, {"open": "yes"}) for part in gone)))
            wanted = dense(roof.array, set(gone), roof.root_ohm)
            for frame in roof.frames:
                with self.subTest(gone=gone, frame=frame.frame):
                    if wanted[frame.frame] > 1e6:
                        self.assertIsNone(frame.ohm)
                        self.assertEqual(frame.volts, 350)
                    else:
                        self.assertAlmostEqual(frame.ohm / wanted[frame.frame], 1, places=4)
                        volts = min(1.25 * 10 * 3 * wanted[frame.frame], 350)
                        self.assertAlmostEqual(frame.volts, volts, places=3)

    def test_one_modules_washer_is_told_from_a_whole_row(self):
        cases = (
            ("frame2m3", ("2m3",), "its own joint"),
            ("splice2s1", ("2m5", "2m6", "2m7"), "3 frames of row 2 behind one splice"),
            (
                "jumper2",
                tuple(f"3m{c}" for c in range(1, 8)),
                "7 frames of row 3 behind one jumper",
            ),
            (
                "jumper1",
                tuple(f"{r}m{c}" for r in (2, 3) for c in range(1, 8)),
                "14 frames of 2 rows",
            ),
        )
        for part, floats, says in cases:
            with self.subTest(part):
                site = with_array((part, {"open": "yes"}))
                roof = roof_of(site)
                self.assertEqual(roof.floating, floats)
                self.assertIn(says, whose_fault(roof)[0])
                found = next(f for f in findings(site, study(site)) if f.id == "frame-unbonded")
                self.assertIn(says, found.found)
                mended = apply_all(site, found.fix)
                self.assertFalse(
                    any(f.id == "frame-unbonded" for f in findings(mended, study(mended)))
                )

    def test_what_hangs_on_a_joint_is_what_floats_without_it(self):
        whole = roof_of(with_array())
        for joint in whole.joints:
            if joint.joint.kind in ("frame", "splice", "jumper", "lug"):
                without = roof_of(with_array((joint.joint.part, {"open": "yes"})))
                self.assertEqual(joint.hangs, without.floating, joint.joint.part)

    def test_rails_count_only_if_listed(self):
        roof = roof_of(with_array(rails_listed="no"))
        self.assertIn("3m7", roof.floating)
        self.assertNotIn("1m1", roof.floating)  # its rail has the lug
        wired = roof_of(with_array(rails_listed="no", bonding="lugs"))
        self.assertFalse([j for j in wired.joints if j.joint.kind == "splice"])
        self.assertEqual(wired.floating, ())  # its rows are joined by wire, whatever the rails are

    def test_a_joint_that_no_reading_finds_is_to_be_photographed(self):
        hidden = {j.joint.part for j in roof_of(with_array()).to_photograph}
        self.assertLessEqual({"frame1m1", "splice1s1"}, hidden)
        self.assertNotIn("lug", hidden)

    def test_hardware_is_said_of_an_arrays_joints_only(self):
        site = with_array(("lug", {"hardware": "indoor lug"}))
        self.assertIn("lug-indoor-outdoors", {f.id for f in findings(site, study(site))})
        with self.assertRaises(BadInput):
            apply(site, Add(to="joints", facts={"on": "s1.neutral", "hardware": "two wires"}))

    def test_a_smaller_roof_loses_the_joints_that_are_gone(self):
        site = with_array(("frame3m7", {"open": "yes"}))
        smaller = apply(site, Set(path=f"{site.arrays[0].id}.columns", value=6))
        self.assertEqual(smaller.joints, ())
        self.assertNotIn("frame3m7", {b.part for b in branches_of(smaller)})

    def test_one_line(self):
        facts = layout_facts("3 rows of 7, washers, rails, 6 cu")
        self.assertEqual(facts, {"rows": 3, "columns": 7, "bonding": "washers", "rails": "bonded",
                                 "rails_listed": "yes", "egc_size": "6",
                                 "egc_material": "copper"})  # fmt: skip
        for bad in ("washers", "3 rows", "3 rows of 7, glue", "3 rows of 7, 7 cu"):
            with self.subTest(bad), self.assertRaises(BadInput):
                layout_facts(bad)


class Sums(unittest.TestCase):
    def test_bars_by_hand(self):
        """32 A inverter, 200 A main, 200 A bars: 40 + 200 = 240, the opposite end's limit."""
        found = solar.backfeed(32, 200, 200, True)
        self.assertEqual([w.met for w in found.ways], [False, True])
        self.assertFalse(solar.backfeed(32, 200, 200, None).met)
        over = solar.backfeed(32.1, 200, 200, True)
        self.assertFalse(over.met)
        self.assertAlmostEqual(found.most_main_a, 200)
        self.assertAlmostEqual(found.most_output_a, 32)
        self.assertTrue(solar.backfeed(32, 200, 200, False, (40, 60, 20)).ways[2].met)

    def test_volts_by_hand(self):
        """10 A, 100 ft of 10 AWG: 1.24 Ω a thousand feet stranded at 75 °C, both ways 2.48 V."""
        ours, one_way, cold, _ = solar.drop_rows(10, 300, 100, "10")
        self.assertTrue(ours.is_ours)
        self.assertAlmostEqual(ours.volts, 2.48, delta=0.02)
        self.assertAlmostEqual(one_way.volts, ours.volts / 2)
        self.assertAlmostEqual(cold.volts / ours.volts, 1 - 0.00323 * 50, places=4)

    def test_labels_are_counted_from_the_run(self):
        array = Array(id="a1", length_ft=55, turns=3, penetrations=1, boxes="bonded",
                      dc_disconnect="yes", ac_disconnect="yes", voc_v=370, ac_a=30)  # fmt: skip
        counts = solar.labels_of(array, 2020)
        self.assertEqual(counts[0].count, 6 + 3 + 2)
        self.assertEqual(sum(c.count for c in counts), 11 + 1 + 1 + 1 + 1)
        self.assertIn("370 V", next(c for c in counts if c.label.key == "disconnect").label.text)
        old = solar.labels_of(array, 2014)[0].label.text
        self.assertNotEqual(old, counts[0].label.text)
        self.assertEqual(sum(n for _, n in solar.cut_list(counts)), 15)

    def test_what_sees_it(self):
        for kind in ("solid", "functional", "floating", "micro"):
            self.assertTrue(solar.detected(kind, None).sees)
        self.assertEqual(solar.detected(None, "micro").kind, "micro-inverters")
        self.assertIsNone(solar.detected(None, None))
