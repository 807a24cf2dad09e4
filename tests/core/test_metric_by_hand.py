"""The metric rule set against sums done by hand (method 15)."""

import json
import math
import unittest

from returnpath import armour, sizing
from returnpath.device import Breaker
from returnpath.errors import BadInput
from returnpath.fuse import Fuse
from returnpath.rules import findings
from returnpath.site import (
    Add,
    Circuit,
    Device,
    Electrode,
    Installation,
    Joint,
    Panel,
    Service,
    Set,
    Supply,
    apply,
)
from returnpath.site.rings import ring_ends, ring_points, ring_shares
from returnpath.study import Verdict, study
from returnpath.study.port import FaultKind
from returnpath.study.ring import along_working, zs_along
from returnpath.vocabulary import Size

from .test_command import run
from .test_findings import ROOT

HOT = 1 + 0.00393 * 50
M = 1 / 0.3048


def circuit(**facts):
    """A 16 A type B circuit of 2.5/1.5 over 20 m, unless said otherwise."""
    usual = {
        "id": "c1", "name": "Sockets", "panel": "p1", "length_ft": 20 * M, "method": "twin",
        "line_size": Size("2.5mm2"), "egc": "wire", "egc_size": Size("1.5mm2"), "gfci": "no",
        "breaker": Device(rating_a=16, kind="B"),
    }  # fmt: skip
    return Circuit(**(usual | facts))


def place(*circuits, earthing="TN-C-S", ze=0.35, **more):
    """A place on a measured Ze, without reactance: every sum below is a plain one."""
    usual = {
        "frequency_hz": 50, "last_id": 40, "circuits": circuits,
        "supplies": (Supply(id="u1", system="230", earthing=earthing, ze_ohm=ze),),
        "panels": (Panel(id="p1", name="Board", insulated="yes"),),
    }  # fmt: skip
    return Installation(**(usual | more))


def ohm(r20, metres):
    return r20 * HOT * metres / 1000


class AllowedZs(unittest.TestCase):
    def test_types_b_c_d_from_6_to_63_a(self):
        for kind, times in (("B", 5), ("C", 10), ("D", 20)):
            for rating in (6, 10, 16, 20, 25, 32, 40, 50, 63):
                found = sizing.allowed_zs(Breaker(rating, kind=kind), 0.4)
                self.assertAlmostEqual(found.value, 0.95 * 230 / (times * rating), places=4)

    def test_five_seconds_lets_heat_open_a_breaker(self):
        """Type D of 32 A: 640 A at once; within 5 s by heat at less."""
        device = Breaker(32, kind="D")
        self.assertGreater(sizing.allowed_zs(device, 5).value, sizing.allowed_zs(device, 0.4).value)
        amps = sizing.operating_a(device, 5)
        self.assertLessEqual(device.slow_s(amps), 5)
        self.assertGreater(device.slow_s(amps * 0.999), 5)

    def test_fuses_at_their_gates(self):
        for rating, five, tenth in ((32, 150, 350), (63, 320, 820), (100, 580, 1450)):
            fuse = Fuse(rating)
            self.assertAlmostEqual(fuse.slow_s(five), 5)
            self.assertAlmostEqual(fuse.slow_s(tenth), 0.1)
            self.assertAlmostEqual(sizing.allowed_zs(fuse, 5).value, 0.95 * 230 / five, places=4)
            self.assertEqual(fuse.slow_s(1.59 * rating), math.inf)
            self.assertEqual(fuse.fast_s(1.2 * rating), math.inf)
            self.assertLess(fuse.fast_s(five), fuse.slow_s(five))

    def test_a_fuse_between_its_gates(self):
        """32 A at 0.4 s: on the line from (150 A, 5 s) to (350 A, 0.1 s) of the log-log sheet."""
        slope = math.log(0.1 / 5) / math.log(350 / 150)
        amps = 150 * (0.4 / 5) ** (1 / slope)
        self.assertAlmostEqual(amps, 259.2, delta=0.1)
        self.assertAlmostEqual(sizing.operating_a(Fuse(32), 0.4), amps, delta=0.01)
        self.assertAlmostEqual(sizing.allowed_zs(Fuse(32), 0.4).value, 218.5 / amps, places=4)

    def test_a_fuse_nobody_has_gates_of(self):
        with self.assertRaisesRegex(BadInput, "not known"):
            Fuse(200)

    def test_cold_readings(self):
        """1.37 Ω hot reads 1.37 / 1.1965 at 20 °C."""
        hot = 0.95 * 230 / 160
        self.assertAlmostEqual(sizing.measured_at(hot), hot / HOT, places=6)
        row = sizing.allowed_row(Breaker(32, kind="B"), 0.4)
        self.assertAlmostEqual(row.four_fifths_ohm, 0.8 * hot, places=4)

    def test_an_rcd_and_its_electrode(self):
        self.assertAlmostEqual(sizing.allowed_zs_rcd(30).value, 0.95 * 230 / 0.15, places=2)
        self.assertAlmostEqual(sizing.electrode_limit(30).value, 1666.67, delta=0.01)
        self.assertAlmostEqual(sizing.electrode_limit(300, 25).value, 83.33, delta=0.01)


class Sizes(unittest.TestCase):
    def test_protective_conductors_by_the_table(self):
        for line, needed in (("2.5", "2.5"), ("16", "16"), ("25", "16"), ("35", "16"),
                             ("50", "25"), ("70", "35"), ("95", "50"), ("120", "70")):  # fmt: skip
            found = sizing.protective_by_table(f"{line}mm2")
            self.assertEqual(found.value, f"{needed}mm2", line)

    def test_protective_conductors_by_heat(self):
        """600 A for 0.1 s: 1.65 mm² of PVC copper; 2,000 A for 0.4 s: 11 mm²."""
        self.assertEqual(sizing.protective_by_heat(600, 0.1, 115).value, "2.5mm2")
        self.assertEqual(sizing.protective_by_heat(545, 0.1, 115).value, "1.5mm2")
        self.assertEqual(sizing.protective_by_heat(2000, 0.4, 115).value, "16mm2")
        self.assertEqual(sizing.protective_by_heat(100, 0.1, 143, separate=True).value, "2.5mm2")
        bare = sizing.protective_by_heat(100, 0.1, 143, False, separate=True)
        self.assertEqual(bare.value, "4mm2")

    def test_earthing_and_bonding(self):
        self.assertEqual(sizing.earthing_conductor("25mm2").value, "16mm2")
        self.assertEqual(sizing.earthing_conductor("4mm2").value, "6mm2")
        self.assertEqual(sizing.earthing_conductor("16mm2", "bare").value, "25mm2")
        self.assertEqual(sizing.main_bonding("TN-S", "25mm2").value, "10mm2")
        self.assertEqual(sizing.main_bonding("TT", "10mm2").value, "6mm2")
        for neutral, size in (("35", "10"), ("50", "16"), ("95", "25"), ("120", "35")):
            found = sizing.main_bonding("TN-C-S", "16mm2", f"{neutral}mm2")
            self.assertEqual(found.value, f"{size}mm2")
        self.assertAlmostEqual(sizing.supplementary_ohm(160).value, 50 / 160)

    def test_lines_by_their_capacity(self):
        self.assertEqual(sizing.smallest_metric_line(20).value, "2.5mm2")
        self.assertEqual(sizing.smallest_metric_line(32).value, "4mm2")
        self.assertEqual(sizing.smallest_metric_line(32, reference="A1").value, "6mm2")
        with self.assertRaisesRegex(BadInput, "ends below"):
            sizing.smallest_metric_line(400)


class Rings(unittest.TestCase):
    ring = circuit(ring="yes", length_ft=48 * M, breaker=Device(rating_a=32, kind="B"))
    r1, r2 = ohm(7.41, 48), ohm(12.1, 48)

    def loop(self, **facts):
        return study(place(self.ring.model_copy(update=facts))).loops["c1"]

    def test_the_middle_sees_a_quarter(self):
        self.assertAlmostEqual(self.loop().loop_ohm, 0.35 + (self.r1 + self.r2) / 4, places=4)

    def test_the_ends_see_nothing_and_no_point_sees_more_than_the_middle(self):
        points = ring_points(self.ring)
        self.assertEqual((points[0].line, points[-1].egc), (0, 0))
        self.assertEqual(max(p.line for p in points), 0.25)

    def test_a_broken_conductor_is_a_radial(self):
        """With the protective conductor open the worst point lies past the middle: r1·x·(1 − x) +
        r2·x is largest at x = (r1 + r2) / 2·r1, or at the far end."""
        loop = self.loop(ring_open="protective conductor")
        self.assertAlmostEqual(loop.loop_ohm, 0.35 + self.r2, places=4)
        line = self.loop(ring_open="line")
        x = (self.r1 + self.r2) / (2 * self.r2)
        worst = self.r1 * x + self.r2 * x * (1 - x)
        self.assertAlmostEqual(line.loop_ohm, 0.35 + worst, delta=1e-3)
        for n in range(101):
            at = n / 100
            self.assertLessEqual(self.r1 * at + self.r2 * at * (1 - at), worst + 1e-9)

    def test_zs_at_every_point_of_it_without_its_spurs(self):
        for spur in (None, 6 * M):
            points = zs_along(self.loop(spur_ft=spur))
            self.assertEqual([p.at for p in points[::4]], [0, 0.5, 1])
            for n, share in ((0, 0), (2, 3 / 16), (4, 1 / 4), (7, 7 / 64), (8, 0)):
                self.assertAlmostEqual(points[n].ohm, 0.35 + share * (self.r1 + self.r2), places=4)
        broken = zs_along(self.loop(ring_open="protective conductor"))
        self.assertAlmostEqual(broken[-1].ohm, 0.35 + self.r2, places=4)
        self.assertEqual(zs_along(self.loop(ring="no")), ())
        steps = along_working(self.loop(), 48).steps()
        self.assertIn("24 m along: 0.", " ".join(s.text for s in steps))

    def test_a_broken_neutral_is_seen_between_line_and_neutral(self):
        whole, broken = (
            place(self.ring),
            place(self.ring.model_copy(update={"ring_open": "neutral"})),
        )
        a = study(whole).worst_fault("c1", FaultKind.NEUTRAL)
        b = study(broken).worst_fault("c1", FaultKind.NEUTRAL)
        self.assertAlmostEqual(a.loop_ohm, 0.35 + 2 * self.r1 / 4, places=4)
        # x(1 − x) + x is most at the broken end: all of the neutral and none of the line.
        self.assertAlmostEqual(b.loop_ohm, 0.35 + self.r1, places=4)

    def test_a_broken_protective_conductor_leaves_line_to_neutral_as_it_was(self):
        whole = place(self.ring)
        broken = place(self.ring.model_copy(update={"ring_open": "protective conductor"}))
        a, b = (study(s).worst_fault("c1", FaultKind.NEUTRAL) for s in (whole, broken))
        self.assertAlmostEqual(b.loop_ohm, a.loop_ohm, places=6)

    def test_end_to_end_readings(self):
        ends = ring_ends(self.ring)
        self.assertAlmostEqual(ends.r1, 7.41 * 0.048, places=3)
        self.assertAlmostEqual(ends.r2 / ends.r1, 12.1 / 7.41, places=3)
        self.assertAlmostEqual(ends.line_egc, (ends.r1 + ends.r2) / 4)
        open_ = ring_ends(self.ring.model_copy(update={"ring_open": "line"}))
        self.assertEqual(open_.r1, math.inf)

    def test_a_spur_is_added_whole(self):
        spur = self.loop(spur_ft=6 * M)
        self.assertAlmostEqual(
            spur.loop_ohm - self.loop().loop_ohm, ohm(7.41, 6) + ohm(12.1, 6), delta=2e-4
        )

    def test_equal_conductors_share_the_middle(self):
        same = self.ring.model_copy(update={"egc_size": Size("2.5mm2"), "ring_open": "line"})
        self.assertEqual(ring_shares(same).at, 1.0)


class Armour(unittest.TestCase):
    def test_its_ohms_and_its_heat(self):
        """Two cores of 4 mm²: 21 mm² of steel; 0.17 Ω·mm²/m, 60 °C."""
        z = armour.armour_ohm("4mm2", 2, 35 * M, 70)
        self.assertAlmostEqual(z.real, 0.17 / 21 * 35 * (1 + 0.0045 * 40), places=4)
        self.assertAlmostEqual(armour.armour_i2t("4mm2", 2, "thermoplastic"), (51 * 21) ** 2)
        self.assertAlmostEqual(armour.armour_i2t("4mm2", 2, "thermoset"), (46 * 21) ** 2)

    def test_alone_and_beside_a_core(self):
        alone = circuit(method="SWA", egc="raceway", line_size=Size("4mm2"), egc_size=None)
        both = alone.model_copy(update={"egc": "both", "egc_size": Size("4mm2")})
        line, core = ohm(4.61, 20), ohm(4.61, 20)
        steel = armour.armour_ohm("4mm2", 2, 20 * M, 70).real
        three = armour.armour_ohm("4mm2", 3, 20 * M, 70).real
        found = [study(place(c)).loops["c1"].loop_ohm for c in (alone, both)]
        self.assertAlmostEqual(found[0], 0.35 + line + steel, places=3)
        self.assertAlmostEqual(found[1], 0.35 + line + core * three / (core + three), places=3)

    def test_never_more_steel_than_is_there(self):
        self.assertEqual(armour.armour_mm2("50mm2", 2), armour.armour_mm2("35mm2", 2))
        self.assertEqual(armour.armour_mm2("10mm2", 4), armour.armour_mm2("10mm2", 3))
        with self.assertRaisesRegex(BadInput, "begins at 1.5"):
            armour.armour_mm2("1mm2", 2)


class ResidualDevices(unittest.TestCase):
    """TT, 60 Ω here and 8 Ω at the source: 0.95 · 230 / 68.4 A."""

    def tt(self, *circuits, **panel):
        main = Panel(id="p1", name="Board", insulated="yes", **panel)
        return place(
            *circuits, earthing="TT", ze=None, panels=(main,),
            supplies=(Supply(id="u1", system="230", earthing="TT", earth_ohm=8),),
            electrodes=(Electrode(id="e1", kind="rod", ohm=60),),
            services=(Service(id="s1", length_ft=1, line_size=Size("16mm2")),),
        )  # fmt: skip

    def test_two_in_series(self):
        own = circuit(rcd_ma=30, gfci=None)
        done = study(self.tt(own, rcd_ma=300, rcd_delayed="yes")).loops["c1"]
        seen = done.basis.devices.residuals
        self.assertEqual([(r.rated_ma, r.delayed) for r in seen], [(30, False), (300, True)])
        for device in seen:
            self.assertAlmostEqual(device.share, 1.0, places=6)
        run = ohm(7.41, 20) + ohm(12.1, 20)
        self.assertAlmostEqual(done.lowest_a, 0.95 * 230 / (68 + run + 0.23), delta=0.02)
        self.assertEqual(done.slow_s, 0.04)
        self.assertIs(done.verdict, Verdict.AT_ONCE)

    def test_the_delayed_one_alone_is_in_time_only_where_it_sees_enough(self):
        """3.2 A: 10 times 300 mA, 0.15 s; 3.2 times 1,000 mA, 0.2 s; once 3,000 mA, 0.5 s."""
        for ma, seconds, verdict in ((300, 0.15, Verdict.AT_ONCE), (1000, 0.2, Verdict.AT_ONCE),
                                     (3000, 0.5, Verdict.SLOW)):  # fmt: skip
            done = study(self.tt(circuit(), rcd_ma=ma, rcd_delayed="yes")).loops["c1"]
            self.assertEqual((done.slow_s, done.verdict), (seconds, verdict), ma)

    def test_nothing_is_cleared_by_a_device_that_cannot_see_it(self):
        """With neutral and earth joined at the socket the fault comes home through the device."""
        joined = circuit(rcd_ma=30, gfci=None, outlet_bond="yes")
        done = study(self.tt(joined)).loops["c1"]
        (seen,) = done.basis.devices.residuals or (None,)
        self.assertLess(seen.share if seen else 0.0, 0.02)
        self.assertFalse(done.by_rcd)

    def test_short_circuits_pass_it_by(self):
        done = study(self.tt(circuit(rcd_ma=30, gfci=None), rcd_ma=100))
        fault = done.worst_fault("c1", FaultKind.NEUTRAL)
        self.assertEqual(fault.basis.devices.residuals, ())
        self.assertEqual(fault.slow_s, 0.1)

    def test_an_open_protective_conductor_is_not_hidden(self):
        """In a TN place no current flows, and a device that sees none does not open."""
        site = place(
            circuit(rcd_ma=30, gfci=None), joints=(Joint(id="j9", on="c1.egc", open="yes"),)
        )
        done = study(site).loops["c1"]
        self.assertIs(done.verdict, Verdict.MAY_NEVER_OPEN)

    def test_whether_there_is_one_is_never_assumed(self):
        unsaid = study(self.tt(circuit(gfci=None))).loops["c1"]
        self.assertIs(unsaid.verdict, Verdict.NOT_KNOWN)
        self.assertEqual(unsaid.lacks, ("c1.rcd_ma",))


class Times(unittest.TestCase):
    def test_final_and_distribution(self):
        for facts, seconds in (
            ({"breaker": Device(rating_a=32, kind="B")}, 0.4),
            ({"breaker": Device(rating_a=40, kind="B"), "feeds": "fixed equipment"}, 5),
            ({"breaker": Device(rating_a=63, kind="B"), "feeds": "socket-outlets"}, 0.4),
            ({"breaker": Device(rating_a=80, kind="gG"), "feeds": "socket-outlets"}, 5),
        ):
            done = study(place(circuit(line_size=Size("16mm2"), **facts)))
            self.assertEqual(done.loops["c1"].basis.time_limit().seconds, seconds)

    def test_late_is_a_verdict_of_its_own(self):
        """Type C of 32 A on 1.2 Ω: 182 A, 5.7 times: heat opens it in seconds."""
        slow = circuit(breaker=Device(rating_a=32, kind="C"), line_size=Size("6mm2"))
        done = study(place(slow, ze=0.8)).loops["c1"]
        self.assertIs(done.verdict, Verdict.SLOW)
        self.assertFalse(done.criteria["timed"].met)

    def test_a_switch_opens_nothing(self):
        main = Panel(id="p1", main=Device(rating_a=100))  # a main of a metric board is a switch
        done = study(place(circuit(), panels=(main,)))
        self.assertEqual(len(done.loops["c1"].basis.devices.devices), 1)

    def test_an_unsaid_earthing_system_is_asked_once(self):
        site = place(circuit(), earthing=None)
        done = study(site)
        self.assertEqual(done.loops["c1"].lacks, ("u1.earthing",))
        asks = [f.asks for f in findings(site, done) if f.asks]
        self.assertEqual(asks.count("u1.earthing"), 1)
        self.assertFalse([a for a in asks if a.endswith(".bond")])

    def test_a_first_fault_in_an_it_place_is_no_danger(self):
        site = place(circuit(), earthing="IT", electrodes=(Electrode(id="e5", kind="rod", ohm=20),))
        site = apply(site, Set(path="u1.insulation_monitor", value="yes"))
        self.assertEqual([f.id for f in findings(site, study(site)) if f.level == "danger"], [])

    def test_more_boards_keep_their_own_island(self):
        site = apply(place(circuit()), Add(to="panels", facts={"name": "Loft"}))
        self.assertEqual(len(site.panels), 2)


class Legs(unittest.TestCase):
    def test_one_line_has_no_other_leg_and_three_carry_230_volts(self):
        told = {}
        for system in ("230", "400/230"):
            site = place(circuit(space=1, load_va=9200.0))
            supply = Supply(id="u1", system=system, earthing="TN-C-S", ze_ohm=0.35)
            site = site.model_copy(update={"supplies": (supply,)})
            told[system] = [f.found for f in findings(site, study(site)) if "unbalanced" in f.key]
        self.assertEqual(told, {"230": [], "400/230": ["Unbalanced: L1 40 A."]})


class CheckedFromTheCommandLine(unittest.TestCase):
    def test_a_ring_and_who_opens_are_in_its_json(self):
        _, out, _ = run("check", str(ROOT / "examples" / "foxglove.json"), "--json")
        faults = json.loads(out)["result"]["faults"]
        ring = next(f for f in faults if f["place"] == "c7" and f["kind"] == "line-to-case")
        ohms = [p["ohm"] for p in ring["ring"]]
        self.assertEqual((len(ohms), max(ohms)), (9, ohms[4]))
        self.assertAlmostEqual(ohms[0], 0.28, places=3)
        self.assertFalse(ring["by_rcd"])
        other = next(f for f in faults if f["place"] == "c10" and f["kind"] == "line-to-case")
        self.assertEqual(other["ring"], [])
