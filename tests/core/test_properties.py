"""What must hold for every house, found by trying many."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath import conductor, tables
from returnpath.conductor import Wire
from returnpath.device import Breaker
from returnpath.network import EARTH, Network, coupled
from returnpath.site import Set, apply
from returnpath.study import study
from returnpath.study.heat import Carrier, use_of, worst_letthrough
from returnpath.study.longest import with_heat
from returnpath.study.protection import DeviceSet

from .houses import house

ratings = st.sampled_from([r for r in tables.standard_ratings() if r <= 600])
branch_sizes = st.sampled_from(["14", "12", "10", "8", "6", "4"])
lengths = st.floats(1, 600)
slow = settings(max_examples=25, deadline=None)
quick = settings(max_examples=200, deadline=None)


def loop(size="12", ground="12", feet=85.0, **facts):
    site = house(f"20A #{size} ground {ground} NM 85ft x", length_ft=feet, **facts)
    return study(site).loops["c2"]


class Currents(unittest.TestCase):
    @slow
    @given(branch_sizes, lengths, st.floats(1, 300))
    def test_more_length_never_gives_more_current(self, size, feet, more):
        near, far = loop(size, feet=feet), loop(size, feet=feet + more)
        self.assertLessEqual(far.lowest_a, near.lowest_a)
        self.assertLessEqual(far.highest_a, near.highest_a)

    @slow
    @given(branch_sizes, branch_sizes, lengths)
    def test_a_bigger_egc_never_gives_less(self, one, other, feet):
        small, big = sorted((one, other), key=tables.area)
        less, more = loop(ground=small, feet=feet), loop(ground=big, feet=feet)
        self.assertGreaterEqual(more.lowest_a, less.lowest_a)
        self.assertGreaterEqual(more.highest_a, less.highest_a)

    @slow
    @given(branch_sizes, lengths)
    def test_hot_never_beats_cold(self, size, feet):
        found = loop(size, feet=feet)
        self.assertLessEqual(found.lowest_a, found.highest_a)

    @slow
    @given(branch_sizes, lengths, st.sampled_from(["wire", "raceway", "both", "none"]))
    def test_the_legs_add_to_the_whole(self, size, feet, egc):
        found = loop(size, feet=feet, method="EMT", egc=egc)
        self.assertAlmostEqual(sum(leg.share for leg in found.legs), 1.0, places=6)

    @slow
    @given(branch_sizes, branch_sizes)
    def test_longest_run_is_the_edge(self, size, ground):
        found = loop(size, ground)
        if found.longest_run_ft is None or found.longest_run_ft >= 5000:
            return
        at = loop(size, ground, feet=found.longest_run_ft)
        over = loop(size, ground, feet=found.longest_run_ft + 1)
        self.assertTrue(at.deciding.met and at.worst_heat.fraction <= 1)
        self.assertFalse(over.deciding.met and over.worst_heat.fraction <= 1)


class Devices(unittest.TestCase):
    @quick
    @given(ratings, st.floats(0.1, 60), st.booleans(), st.booleans())
    def test_slow_edge_never_under_fast_edge(self, rating, multiple, magnetic, known):
        band = (4.0, 9.0) if known and magnetic else (None, None)
        device = Breaker(rating, *band, magnetic=magnetic)
        amps = multiple * rating
        self.assertGreaterEqual(device.slow_s(amps), device.fast_s(amps))
        self.assertGreaterEqual(device.slow_s(amps, device.unproved_hi), device.slow_s(amps))

    @quick
    @given(ratings, st.floats(0.1, 60), st.floats(1.0, 3.0))
    def test_more_current_never_opens_later(self, rating, multiple, more):
        device = Breaker(rating)
        amps = multiple * rating
        self.assertLessEqual(device.slow_s(amps * more), device.slow_s(amps))
        self.assertLessEqual(device.fast_s(amps * more), device.fast_s(amps))


class Heat(unittest.TestCase):
    @quick
    @given(
        ratings,
        branch_sizes,
        st.floats(1.4, 30),
        st.floats(1.0, 8.0),
        st.floats(0.05, 1.0),
        st.lists(st.floats(0, 1), max_size=20),
    )
    def test_never_less_than_anywhere_in_the_range(self, rating, size, start, span, share, inside):
        devices = DeviceSet(((Breaker(rating), 1.0), (Breaker(200), share)))
        low = start * rating
        high = low * span
        carrier = Carrier("x", "x", conductor.withstand_i2t(Wire(size)), share)
        through, at = worst_letthrough(devices.slow_s, low, high, devices.steps())
        used = use_of(carrier, through, at, devices.slow_s(at)).fraction
        for part in (0.0, 1.0, *inside):
            amps = low + part * (high - low)
            here = devices.slow_s(amps) * (amps * share) ** 2 / carrier.i2t
            self.assertGreaterEqual(used, here * (1 - 1e-6))


class LongestRun(unittest.TestCase):
    @quick
    @given(st.floats(0.5, 4000), st.floats(0.5, 4000))
    def test_the_lesser_of_two_limits(self, clearing, heat):
        found = with_heat(clearing, lambda ft: ft <= heat)
        # Heat is scanned in sixtieths of the clearing length, then narrowed.
        if heat < clearing / 60:
            return
        self.assertAlmostEqual(found, min(clearing, heat), delta=0.02)

    def test_no_length_at_all(self):
        self.assertIsNone(with_heat(100.0, lambda ft: False))


class Conservation(unittest.TestCase):
    """Any network, however meshed: what flows into a node flows out of it."""

    @slow
    @given(st.data())
    def test_current_is_conserved_at_every_node(self, data):
        net, count = self._random_network(data)
        solution = net.factor()
        a, b = "n0", f"n{count - 1}"
        fault = solution.fault(a, b)
        scale = max(abs(fault.amps), 1.0)
        self.assertLess(solution.imbalance() / scale, 1e-6)
        self.assertLess(solution.imbalance(fault.volts, fault) / scale, 1e-6)
        # The faulted nodes are at one potential, and reciprocity holds.
        gap = solution.at(a, fault.volts) - solution.at(b, fault.volts)
        self.assertLess(abs(gap), 1e-6)
        one, other = solution.column(a, EARTH), solution.column(b, EARTH)
        self.assertAlmostEqual(abs(solution.at(b, one) - solution.at(a, other)), 0, places=6)

    @staticmethod
    def _random_network(data):
        count = data.draw(st.integers(3, 9))
        ohms = st.floats(0.01, 30)
        net = Network()
        net.couple(
            coupled(
                "t", (("n0", "n1"), ("n1", "n2")), (120, 120), complex(0.01, 0.02), 0.01 + 0.005j
            )
        )
        net.branch("earth", "n1", EARTH, data.draw(ohms))
        for index in range(3, count):
            back = data.draw(st.integers(0, index - 1))
            z = complex(data.draw(ohms), data.draw(st.floats(0, 3)))
            net.branch(f"tree{index}", f"n{index}", f"n{back}", z)
        for extra in range(data.draw(st.integers(0, 6))):
            ends = data.draw(st.permutations(range(count)))[:2]
            net.branch(f"mesh{extra}", f"n{ends[0]}", f"n{ends[1]}", data.draw(ohms))
        return net, count

    def test_floating_metal_is_an_answer(self):
        net = Network()
        net.couple(coupled("t", (("L", "N"),), (120,), 0j, 0.01 + 0j))
        net.branch("earth", "N", EARTH, 5)
        net.node("case")
        fault = net.factor().fault("L", "case")
        self.assertLess(abs(fault.amps), 1e-6)
        self.assertAlmostEqual(abs(net.factor().at("case", fault.volts)), 120, places=3)


class OpenBond(unittest.TestCase):
    @slow
    @given(lengths, st.sampled_from(["neutral bar", "ground bar"]), st.floats(1, 100))
    def test_nothing_opens_without_the_main_bond(self, feet, lands, ohm):
        site = house("20A 12/2 NM 85ft x", length_ft=feet, p1__bond="out")
        site = apply(site, Set(path="e1.lands", value=lands))
        found = study(apply(site, Set(path="e1.ohm", value=ohm))).loops["c2"]
        self.assertEqual(found.verdict, "may not trip")
        self.assertTrue(math.isinf(found.slow_s))
        self.assertGreater(found.touch_bar_v, 90)
        self.assertIsNone(found.longest_run_ft)
