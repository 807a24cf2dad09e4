"""Electrodes and soil: the worked figures, and what must hold."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath import earth
from returnpath.errors import BadInput

soils = st.floats(1, 5000)
feet = st.floats(3, 40)


class Worked(unittest.TestCase):
    def test_w9_rods(self):
        for count, apart, ohms in ((1, 6, 39.9), (2, 6, 23.3), (2, 16, 21.5)):
            found = earth.rods_working(8, 0.625, 100, count, apart)
            self.assertAlmostEqual(found.value, ohms, delta=0.005 * ohms)

    def test_w10_plate(self):
        found = earth.plate(100, 2 * 0.3048**2, 30 * 0.0254)
        self.assertAlmostEqual(found, 56.5, delta=0.3)

    def test_is_a_second_rod_worth_it_and_where_to_put_the_probes(self):
        said = " ".join(s.text for s in earth.rods_working(8, 0.625, 100).steps())
        self.assertIn("a second rod 6 ft away: 23.3 Ω, 42 % less", said)
        self.assertIn("current probe 40 ft out, read at 25 ft", said)

    def test_soil_by_four_pins(self):
        self.assertAlmostEqual(earth.four_pins(3.048, 5.22), 100, delta=0.1)
        low, typical, high = earth.soils()["clay"]
        self.assertTrue(low < typical < high)

    def test_three_point(self):
        good = earth.three_point_working(points((0.52, 24.5), (0.62, 25.0), (0.72, 25.8)), 100)
        self.assertEqual(good.value, 25)
        near = earth.three_point_working(points((0.52, 20), (0.62, 25), (0.72, 33)), 100)
        self.assertIsNone(near.value)
        with self.assertRaises(BadInput):
            earth.three_point_test(points((0.62, 25)), 100)


def points(*read):
    """Readings of a three-point test."""
    return [earth.FallPoint(share, ohm) for share, ohm in read]


class Properties(unittest.TestCase):
    @settings(deadline=None)
    @given(soils, feet, st.floats(1, 3))
    def test_longer_and_wetter_is_never_worse(self, soil, length, more):
        short = earth.rod(soil, length * 0.3048, 0.008)
        self.assertLessEqual(earth.rod(soil, length * more * 0.3048, 0.008), short * (1 + 1e-12))
        self.assertGreaterEqual(earth.rod(soil * more, length * 0.3048, 0.008), short * (1 - 1e-12))

    @settings(deadline=None)
    @given(soils, feet, st.floats(1, 60))
    def test_two_rods_lie_between_one_and_half_of_one(self, soil, length, apart):
        one = earth.rod(soil, length * 0.3048, 0.008)
        two = earth.rods(soil, length * 0.3048, 0.008, 2, apart * 0.3048)
        self.assertLess(two, one)
        self.assertGreater(two, one / 2)

    @settings(deadline=None)
    @given(soils, st.floats(20, 200))
    def test_every_kind_gives_ohms(self, soil, length):
        metres = length * 0.3048
        for ohms in (
            earth.buried_wire(soil, metres, 0.004, 0.76),
            earth.ring(soil, metres / 3.14, 0.0074, 0.76),
            earth.concrete_encased(soil, metres, 0.0064),
            earth.plate(soil, 0.2, 0.76),
        ):
            self.assertGreater(ohms, 0)
            self.assertLess(ohms, 10 * soil)
