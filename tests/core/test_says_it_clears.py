"""Where a loop once said that it clears, and does not."""

import math
import unittest

from returnpath.errors import BadInput
from returnpath.rules import findings
from returnpath.site import Add, Circuit, Device, Electrode, Joint, Metal, Panel, Set, Supply, apply
from returnpath.study import FaultKind, Side, Verdict, study

from .test_network import UTILITY, feeder, place


def branch(id_="c4", panel="p1", **facts) -> Circuit:
    """A 20 A circuit of 12/2 NM, 50 ft."""
    made = {
        "breaker": Device(rating_a=20, lo=5, hi=10), "poles": 1, "neutral": "yes", "method": "NM",
        "length_ft": 50, "line_size": "12", "egc": "wire", "egc_size": "12", "space": 1,
    }  # fmt: skip
    return Circuit(id=id_, panel=panel, **(made | facts))


def joined(*joints: tuple, **facts):
    """A place with joints as (branch, ohms or "open")."""
    made = tuple(
        Joint(id=f"j{10 + n}", on=on, **({"open": "yes"} if how == "open" else {"ohm": how}))
        for n, (on, how) in enumerate(joints)
    )
    return place(**facts).model_copy(update={"joints": made})


def found_in(site) -> dict[str, list]:
    """Findings by id."""
    by_id: dict[str, list] = {}
    for one in findings(site, study(site)):
        by_id.setdefault(one.id, []).append(one)
    return by_id


class Joints(unittest.TestCase):
    def test_all_on_one_branch_count_in_series(self):
        for on in ("c4.egc", "c4.line1", "f3.egc", "s1.neutral"):
            circuit = branch(panel="p2")
            none = study(place(circuits=(circuit,))).loops["c4"]
            one = study(joined((on, 1.5), circuits=(circuit,))).loops["c4"]
            two = study(joined((on, 1.0), (on, 0.5), circuits=(circuit,))).loops["c4"]
            last = study(joined((on, 0.0), (on, "open"), circuits=(circuit,))).loops["c4"]
            with self.subTest(on):
                self.assertAlmostEqual(two.loop_ohm, one.loop_ohm)
                self.assertGreater(two.loop_ohm, none.loop_ohm + 0.9)
                self.assertLess(last.lowest_a, 12)

    def test_a_joint_says_where_it_is_and_how_bad(self):
        site = place(circuits=(branch(),))
        for facts, path, words in (
            ({"on": "c4.egg", "ohm": 1.0}, "j21.on", "has no branch “egg”"),
            ({"on": "c99.egc", "ohm": 1.0}, "j21.on", "an element of this job"),
            ({"on": "c4.line2", "ohm": 1.0}, "j21.on", "it has line1"),
            ({"on": "c4.raceway", "ohm": 1.0}, "j21.on", "it has line1"),
            ({"on": "c4.egc"}, "j21.ohm", "its ohms, or to be open"),
            ({"on": "c4.egc", "open": "no"}, "j21.ohm", "its ohms, or to be open"),
        ):
            with self.subTest(facts), self.assertRaises(BadInput) as caught:
                apply(site, Add(to="joints", facts=facts))
            self.assertEqual(caught.exception.field, path)
            self.assertIn(words, caught.exception.sentence)

    def test_a_joint_goes_with_its_branch(self):
        site = apply(
            place(circuits=(branch(),)), Add(to="joints", facts={"on": "c4.egc", "ohm": 1})
        )
        gone = apply(site, Set(path="c4.egc", value="none"))
        self.assertEqual(gone.joints, ())

    def test_an_arrays_open_ground_wire_floats_its_frames(self):
        from returnpath.site import Array

        array = Array(id="a6", circuit="c4", isc_a=10, strings=1, voc_v=400, frames="bonded",
                      egc_size="10", length_ft=60)  # fmt: skip
        whole = study(place(circuits=(branch(poles=2),), arrays=(array,))).arrays[0]
        self.assertLess(whole.frame_v, 5)
        for how in ("open", 50.0):
            site = joined(("a6.egc", how), circuits=(branch(poles=2),), arrays=(array,))
            broken = study(site).arrays[0]
            self.assertEqual(broken.frame_v, 400) if how == "open" else self.assertGreater(
                broken.frame_v, 300
            )

    def test_a_joint_of_the_inverters_circuit_floats_them_too(self):
        from returnpath.site import Array

        array = Array(id="a6", circuit="c4", voc_v=400, frames="bonded", egc_size="10")
        site = joined(("c4.egc", "open"), circuits=(branch(poles=2),), arrays=(array,))
        self.assertEqual(study(site).arrays[0].frame_v, 400)


class Shared(unittest.TestCase):
    def test_a_shared_ground_wire_open_at_its_owner_is_open_for_all(self):
        owner, partner = branch("c4"), branch("c5", space=3, shares_egc_with="c4")
        loops = study(joined(("c4.egc", "open"), circuits=(owner, partner))).loops
        for circuit in ("c4", "c5"):
            self.assertEqual(loops[circuit].lowest_a, 0)
            self.assertIs(loops[circuit].verdict, Verdict.MAY_NEVER_OPEN)

    def test_where_the_owner_has_none_there_is_none(self):
        owner, partner = branch("c4", egc="none"), branch("c5", space=3, shares_egc_with="c4")
        self.assertEqual(study(place(circuits=(owner, partner))).loops["c5"].lowest_a, 0)

    def test_a_joint_of_a_shared_neutral_counts_for_every_partner(self):
        pair = (branch("c4"), branch("c5", space=3, shares_with="c4"))
        for on in ("c4.neutral", "c5.neutral"):
            whole = study(place(circuits=pair))
            loose = study(joined((on, 2.0), circuits=pair))
            for circuit in ("c4", "c5"):
                with self.subTest(on=on, circuit=circuit):
                    before, after = (
                        s.worst_fault(circuit, FaultKind.NEUTRAL).loop_ohm for s in (whole, loose)
                    )
                    self.assertAlmostEqual(after - before, 2.0, delta=0.05)


class Heat(unittest.TestCase):
    """Every conductor that carries a part, found from the solved currents."""

    def uses(self, site, at="c4") -> dict:
        return {u.carrier.path: u for u in study(site).loops[at].heat}

    def test_the_protective_conductor_beside_the_service(self):
        supply = Supply(id="u1", system="230", earthing="TN-S", r1_ohm=0.2, earth_ohm=5)
        run = place().services[0].model_copy(
            update={"line_size": "10mm2", "neutral_size": "10mm2", "line_material": "copper",
                    "egc_size": "1.5mm2"}
        )  # fmt: skip
        circuit = branch(
            line_size="2.5mm2", egc_size="1.5mm2", breaker=Device(rating_a=20, kind="C")
        )
        site = place(supplies=(supply,), services=(run,), feeders=(), circuits=(circuit,),
                     panels=(Panel(id="p1", main=Device(rating_a=63), bond="out"),),
                     frequency_hz=50)  # fmt: skip
        use = self.uses(site)["s1.egc_size"]
        self.assertAlmostEqual(use.carrier.share, 1.0, delta=0.02)
        self.assertIn("supply-side", use.carrier.label)

    def test_a_pipe_bond(self):
        pipe = Metal(id="m5", panel="p1", kind="water", material="metal", bonded="yes",
                     bond_size="14", bond_material="copper")  # fmt: skip
        site = place(circuits=(branch(egc="none", joined_to=("m5",)),), metals=(pipe,))
        use = self.uses(site)["m5.bond_size"]
        self.assertAlmostEqual(use.carrier.share, 1.0, delta=0.01)

    def test_a_borrowed_ground_wire_and_neutral(self):
        pipe = Metal(id="m5", kind="water", material="metal", bonded="no")
        lender = branch("c5", space=3, joined_to=("m5",), egc_size="14", line_size="14")
        bootleg = branch("c6", space=5, joined_to=("m5",), outlet_bond="yes", egc="none")
        big = branch(
            breaker=Device(rating_a=100, magnetic="none"),
            line_size="3",
            egc="none",
            joined_to=("m5",),
        )
        uses = self.uses(place(circuits=(big, lender, bootleg), metals=(pipe,)))
        self.assertGreater(uses["c5.egc_size"].carrier.share, 0.3)
        self.assertGreater(uses["c6.line_size"].carrier.share, 0.3)
        self.assertEqual(uses["c6.line_size"].carrier.label, "neutral")
        worst = study(place(circuits=(big, lender, bootleg), metals=(pipe,))).loops["c4"]
        self.assertGreater(worst.heat_used, 1, "14 AWG behind 100 A")
        self.assertEqual(worst.heat_used, worst.worst_heat.fraction)

    def test_electrode_conductor_and_jumper(self):
        panels = (Panel(id="p1", main=Device(rating_a=200), bond="in", bond_kind="wire",
                        bond_size="8"), place().panels[1])  # fmt: skip
        uses = self.uses(place(circuits=(branch(),), panels=panels))
        self.assertGreater(uses["p1.bond_size"].carrier.share, 0.95)


class Curves(unittest.TestCase):
    def verdict(self, **facts):
        # 326.9 A on 25 A is 13 times the rating
        site = place(
            feeders=(), circuits=(branch(breaker=Device(rating_a=25, **facts), length_ft=85),)
        )
        return study(site).loops["c4"]

    def test_an_upper_figure_alone_is_used(self):
        for hi, wanted in ((15, Verdict.SLOW), (13.5, Verdict.SLOW), (13, Verdict.AT_ONCE)):
            loop = self.verdict(hi=hi)
            with self.subTest(hi, multiple=loop.multiple):
                self.assertIs(loop.verdict, wanted)
        loop = self.verdict(hi=15)
        self.assertAlmostEqual(loop.multiple, 13, delta=0.2)
        self.assertEqual((loop.device.band_lo, loop.device.unproved_hi), (5, 15))
        self.assertFalse(loop.device.is_assumed)

    def test_a_nominal_figure_is_widened(self):
        device = self.verdict(magnetic_nominal=15).device
        self.assertEqual((device.band_lo, device.band_hi), (12, 18))
        self.assertIs(self.verdict(magnetic_nominal=15).verdict, Verdict.SLOW)
        self.assertIs(self.verdict(magnetic_nominal=10).verdict, Verdict.AT_ONCE)
        both = self.verdict(magnetic_nominal=15, hi=16).device
        self.assertEqual((both.band_lo, both.band_hi), (12, 16))

    def test_a_lower_figure_alone_leaves_the_upper_assumed(self):
        device = self.verdict(lo=12).device
        self.assertTrue(device.is_assumed)
        self.assertEqual((device.band_lo, device.band_hi, device.unproved_hi), (12, 12, 20))

    def test_a_type_has_its_own_band(self):
        site = place(circuits=(branch(breaker=Device(rating_a=20, kind="B")),))
        for end in ("lo", "hi", "magnetic_nominal"):
            with self.subTest(end), self.assertRaises(BadInput) as caught:
                apply(site, Set(path=f"c4.breaker.{end}", value=9))
            self.assertEqual(caught.exception.field, f"c4.breaker.{end}")


class Floating(unittest.TestCase):
    """The ground wires in one place, the case in another."""

    def panels(self, **facts):
        return (place().panels[0], Panel(id="p2", kind="sub", bond="out", **facts))

    def test_grounds_on_an_isolated_neutral_float_the_enclosure(self):
        panels = self.panels(ground_bar="none", grounds_on_neutral="yes")
        done = study(place(panels=panels, circuits=(branch(panel="p2"),)))
        self.assertIs(done.enclosures["p2"].verdict, Verdict.MAY_NEVER_OPEN)
        self.assertEqual(done.enclosures["p2"].lowest_a, 0)
        self.assertGreater(done.loops["c4"].lowest_a, 100, "its ground wire is on the neutral")

    def test_not_known_whether_there_is_a_bar(self):
        panels = self.panels(grounds_on_neutral="yes")
        found = study(place(panels=panels)).enclosures["p2"]
        self.assertIs(found.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(found.lacks, ("p2.ground_bar",))

    def test_an_isolated_bar_beside_conduit_and_wire(self):
        panels = self.panels(ground_bar="isolated")
        both = feeder(method="EMT", egc="both", raceway_size="1")
        circuit = branch(panel="p2", method="EMT", egc="both", raceway_size="1/2")
        site = place(panels=panels, feeders=(both,), circuits=(circuit,))
        whole = study(site).loops["c4"]
        for lost in ("c4.egc", "c4.raceway"):
            cut = site.model_copy(update={"joints": (Joint(id="j9", on=lost, open="yes"),)})
            self.assertLess(study(cut).loops["c4"].lowest_a, whole.lowest_a)
        wire = feeder(method="EMT", egc="wire")  # the conduit does not come along
        alone = study(place(panels=panels, feeders=(wire,)))
        self.assertEqual(alone.enclosures["p2"].lowest_a, 0, "its case is on no wire")
        raceway = study(
            place(panels=panels, feeders=(wire,), circuits=(
                circuit.model_copy(update={"egc": "raceway"}),))
        ).loops["c4"]  # fmt: skip
        self.assertEqual(raceway.lowest_a, 0)

    def test_a_broken_strap_is_an_isolated_bar(self):
        circuit = branch(panel="p2", method="EMT", egc="raceway", raceway_size="1/2")
        site = joined(("p2.strap", "open"), circuits=(circuit,))
        self.assertEqual(study(site).loops["c4"].lowest_a, 0)


class SecondLine(unittest.TestCase):
    def test_a_case_tied_to_its_own_neutral_is_not_seen(self):
        for facts in ({"gfci": "yes"}, {"rcd_ma": 30}):
            tied = branch(egc="none", outlet_bond="yes", **facts)
            loop = study(place(circuits=(tied,))).loops["c4"]
            with self.subTest(facts):
                self.assertGreater(loop.lowest_a, 100)
                self.assertTrue(math.isinf(loop.second_line_s))
                good = study(place(circuits=(branch(**facts),))).loops["c4"]
                self.assertLessEqual(good.second_line_s, 0.04)

    def test_it_sees_the_part_that_does_not_come_back_by_the_neutral(self):
        tied = branch(outlet_bond="yes", rcd_ma=30)
        loop = study(place(circuits=(tied,))).loops["c4"]
        self.assertLessEqual(loop.second_line_s, 0.04, "half comes home by the ground wire")


class OneOhm(unittest.TestCase):
    def criterion(self, site, at="c4"):
        return study(site).loops[at].criteria["one ohm"]

    def test_the_return_as_solved(self):
        long = self.criterion(place(circuits=(branch(length_ft=600),)))
        self.assertFalse(long.met)
        self.assertIn("1.1", long.figures)
        jointed = self.criterion(joined(("c4.egc", 0.95), circuits=(branch(),)))
        self.assertFalse(jointed.met)

    def test_a_pipe_is_never_no_ohms(self):
        pipe = Metal(id="m5", panel="p1", kind="water", material="metal", bonded="yes")
        site = place(circuits=(branch(egc="none", joined_to=("m5",)),), metals=(pipe,))
        found = self.criterion(site)
        self.assertFalse(found.met)
        self.assertIn("not known", found.figures)
        loose = site.model_copy(update={"joints": (Joint(id="j9", on="m5.bond", ohm=0.4),)})
        found = self.criterion(loose)
        self.assertIn("0.400 Ω", found.figures)
        self.assertIn("other metal carries 100 %", found.remark)

    def test_a_bootleg_is_the_neutral_it_is(self):
        tied = self.criterion(place(circuits=(branch(egc="none", outlet_bond="yes"),)))
        self.assertIn("0.09", tied.figures)


class BothSidesOfAMain(unittest.TestCase):
    def test_ahead_of_its_main_only_the_device_upstream_helps(self):
        panels = (place().panels[0], Panel(id="p2", kind="sub", bond="out",
                                           main=Device(rating_a=15, lo=5, hi=10)))  # fmt: skip
        weak = feeder(breaker=Device(rating_a=100, lo=5, hi=10))
        done = study(place(panels=panels, feeders=(weak,)))
        sides = {f.side: f for f in done.cases if f.place == "p2"}
        self.assertIs(sides[Side.LOAD].verdict, Verdict.AT_ONCE)
        self.assertIs(sides[Side.LINE].verdict, Verdict.SLOW)
        self.assertEqual(sides[Side.LINE].device_at, "f3.breaker")
        self.assertIs(done.enclosures["p2"], sides[Side.LINE])

    def test_at_a_service_none_of_yours_is_ahead(self):
        done = study(place())
        sides = {f.side: f for f in done.cases if f.place == "p1"}
        self.assertIs(sides[Side.LINE].verdict, Verdict.NOT_KNOWN)
        self.assertIn("Nothing of yours", sides[Side.LINE].remark)
        self.assertGreater(sides[Side.LINE].lowest_a, 1000)
        self.assertIn("nothing of yours opens", done.enclosures["p1"].remark)
        self.assertEqual(done.enclosures["p1"].device_at, "p1.main")

    def test_a_generators_own_breaker_is_ahead(self):
        generator = Supply(id="u2", kind="generator", kva=7.5, bond="out",
                           breaker=Device(rating_a=30, lo=5, hi=10))  # fmt: skip
        run = place().services[0].model_copy(update={"id": "s2", "supply": "u2"})
        done = study(place(supplies=(UTILITY, generator), services=(place().services[0], run)))
        (ahead,) = [f for f in done.cases
                    if f.place == "p1" and f.state == "u2" and f.side is Side.LINE]  # fmt: skip
        self.assertEqual(ahead.device_at, "u2.breaker")


class OtherFaults(unittest.TestCase):
    def test_each_line_is_tried_and_the_worst_kept(self):
        circuit = branch(panel="p2", poles=2)
        for line, kind in (("line2", FaultKind.NEUTRAL), ("line2", FaultKind.LINE),
                           ("line1", FaultKind.NEUTRAL)):  # fmt: skip
            whole = study(place(circuits=(circuit,))).worst_fault("c4", kind)
            cut = joined((f"c4.{line}", 3.0), circuits=(circuit,))
            found = study(cut).worst_fault("c4", kind)
            with self.subTest(line=line, kind=kind):
                self.assertAlmostEqual(found.loop_ohm - whole.loop_ohm, 3.0, delta=0.1)

    def test_what_does_not_clear_is_found(self):
        far = branch(length_ft=900, line_size="14", egc_size="12")
        long = place(circuits=(far,))
        self.assertIn("c4", {f.place for f in found_in(long)["short-circuit-never-clears"]})
        self.assertNotIn("short-circuit-never-clears", found_in(place(circuits=(branch(),))))

    def test_a_service_neutral_that_is_open_or_loose(self):
        for how, level in (("open", "danger"), (0.5, "danger")):
            site = joined(("s1.neutral", how), circuits=(branch(), branch("c5", space=3)))
            (found,) = found_in(site)["service-neutral-open"]
            self.assertEqual((found.place, found.level), ("s1", level))
            self.assertRegex(found.found, r"\d V")

    def test_a_120_v_load_on_the_high_leg(self):
        supply = Supply(id="u1", system="120/240 high-leg", kva=25, percent_z=1.7, x_over_r=1.6)
        high, low = branch("c4", space=3), branch("c5", space=1)
        found = found_in(place(supplies=(supply,), circuits=(high, low), feeders=()))
        self.assertEqual([f.place for f in found["high-leg-120"]], ["c4"])
        self.assertRegex(found["high-leg-120"][0].found, "20[678] V to neutral")


class Unknown(unittest.TestCase):
    def test_a_panel_that_nothing_feeds(self):
        site = place(feeders=(), circuits=(branch(panel="p2"),))
        done = study(site)
        for fault in (done.loops["c4"], done.enclosures["p2"]):
            self.assertIs(fault.verdict, Verdict.NOT_KNOWN)
            self.assertEqual(fault.remark, "Nothing feeds this panel.")

    def test_an_unknown_main_bond_whatever_a_sub_panel_has(self):
        panels = (Panel(id="p1", main=Device(rating_a=200)), Panel(id="p2", kind="sub", bond="in"))
        loop = study(place(panels=panels, circuits=(branch(panel="p2"),))).loops["c4"]
        self.assertIs(loop.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(loop.lacks, ("p1.bond",))

    def test_an_unknown_bond_that_a_three_wire_feeder_needs(self):
        panels = (place().panels[0], Panel(id="p2", kind="sub"))
        site = place(panels=panels, feeders=(feeder(egc="none"),), circuits=(branch(panel="p2"),))
        self.assertEqual(study(site).loops["c4"].lacks, ("p2.bond",))

    def test_one_open_line_refuses_nothing(self):
        for on in ("f3.line2", "c4.line2"):
            done = study(joined((on, "open"), circuits=(branch(panel="p2", poles=2),)))
            found = done.worst_fault("c4", FaultKind.CASE)
            self.assertEqual(found.lowest_a, 0, "the dead line's own fault")
            self.assertTrue(done.loads and done.faults)


class Earthing(unittest.TestCase):
    def test_tt_has_its_electrode_on_the_protective_bar(self):
        supply = Supply(id="u1", system="230", earthing="TT", earth_ohm=10, r1_ohm=0.2)
        run = (
            place()
            .services[0]
            .model_copy(
                update={"line_size": "10mm2", "neutral_size": "10mm2", "line_material": "copper"}
            )
        )
        circuit = branch(line_size="2.5mm2", egc_size="2.5mm2", rcd_ma=30)
        site = place(supplies=(supply,), services=(run,), feeders=(), circuits=(circuit,),
                     panels=(Panel(id="p1", main=Device(rating_a=63), bond="out"),),
                     electrodes=(Electrode(id="e1", ohm=50),), frequency_hz=50)  # fmt: skip
        done = study(site)
        self.assertEqual(done.assumed.site.electrode.lands, "ground bar")
        self.assertAlmostEqual(done.loops["c4"].lowest_a, 0.95 * 230 / 60.8, delta=0.1)

    def test_disconnection_times_by_what_it_feeds(self):
        from returnpath.study.verdict import time_limit

        for rating, feeds, seconds, unsaid in (
            (16, None, 0.4, False), (32, "fixed equipment", 0.4, False),
            (40, "socket-outlets", 0.4, False), (63, "socket-outlets", 0.4, False),
            (40, "fixed equipment", 5, False), (40, None, 0.4, True), (80, None, 5, False),
            (80, "socket-outlets", 5, False),
        ):  # fmt: skip
            found = time_limit(230, branch(breaker=Device(rating_a=rating), feeds=feeds), "TN-S")
            with self.subTest(rating=rating, feeds=feeds):
                self.assertEqual((found.seconds, found.unsaid), (seconds, unsaid))
        self.assertEqual(time_limit(230, None, None).seconds, 5)
        self.assertEqual(time_limit(120, branch(), None).seconds, 0.8)
