"""Figures worked by hand from the tables and formulas, row by row."""

import math
import unittest

from returnpath import conductor
from returnpath.conductor import Wire, impedance_per_kft, raceway_impedance, withstand_s
from returnpath.device import Breaker, ground_fault_interrupter_slow_s
from returnpath.errors import BadInput
from returnpath.supply import Transformer, of_phases
from returnpath.working import figures

# (size, metal, method, R at 75 °C, X at 60 Hz), ohms per 1,000 ft
ROWS = [
    ("14", "copper", "NM", 3.07, 0.058), ("12", "copper", "NM", 1.93, 0.054),
    ("12", "copper", "PVC", 1.98, 0.054), ("12", "copper", "EMT", 1.98, 0.068),
    ("10", "copper", "UF", 1.21, 0.050), ("8", "copper", "AC", 0.764, 0.052),
    ("8", "copper", "PVC", 0.778, 0.052), ("6", "copper", "NM", 0.491, 0.051),
    ("6", "aluminium", "SE", 0.808, 0.051), ("1", "copper", "PVC", 0.154, 0.046),
    ("1/0", "copper", "PVC", 0.122, 0.044), ("2/0", "copper", "PVC", 0.10, 0.043),
    ("3/0", "copper", "EMT", 0.079, 0.052), ("4/0", "copper", "PVC", 0.062, 0.041),
    ("4/0", "copper", "EMT", 0.063, 0.051), ("4/0", "aluminium", "triplex", 0.100, 0.041),
    ("4/0", "copper", "aluminium conduit", 0.067, 0.041),
    ("250", "aluminium", "PVC", 0.085, 0.041), ("500", "copper", "EMT", 0.029, 0.048),
    ("750", "aluminium", "EMT", 0.031, 0.048),
]  # fmt: skip

# (rating, longest at 200 %, longest at 135 %), seconds
CALIBRATION = [
    (15, 120, 3600), (30, 120, 3600), (31, 240, 3600), (50, 240, 3600), (51, 360, 7200),
    (100, 360, 7200), (101, 480, 7200), (150, 480, 7200), (151, 600, 7200), (225, 600, 7200),
    (226, 720, 7200), (400, 720, 7200), (401, 840, 7200), (600, 840, 7200),
]  # fmt: skip


class Conductors(unittest.TestCase):
    def test_rows_at_75(self):
        for size, metal, method, r, x in ROWS:
            with self.subTest(size=size, metal=metal, method=method):
                z = impedance_per_kft(Wire(size, metal, method), 75.0, 60.0)
                self.assertAlmostEqual(z.real, r)
                self.assertAlmostEqual(z.imag, x)

    def test_temperature_frequency_and_sets(self):
        wire = Wire("12")
        cold = impedance_per_kft(wire, 25.0, 60.0)
        self.assertAlmostEqual(cold.real, 1.93 * (1 - 0.00323 * 50))
        self.assertAlmostEqual(cold.imag, 0.054)
        self.assertAlmostEqual(impedance_per_kft(wire, 75.0, 50.0).imag, 0.054 * 50 / 60)
        aluminium = impedance_per_kft(Wire("4/0", "aluminium", "triplex"), -20.0, 60.0)
        self.assertAlmostEqual(aluminium.real, 0.100 * (1 - 0.00330 * 95))
        two = impedance_per_kft(Wire("4/0", "aluminium", "triplex", sets=2), 75.0, 60.0)
        self.assertAlmostEqual(two.real, 0.05)

    def test_sizes_without_a_reactance_take_the_smaller_ones(self):
        self.assertAlmostEqual(impedance_per_kft(Wire("700", method="PVC"), 75.0).imag, 0.039)
        self.assertAlmostEqual(impedance_per_kft(Wire("800", method="PVC"), 75.0).imag, 0.038)

    def test_solid_or_stranded_can_be_said(self):
        self.assertAlmostEqual(impedance_per_kft(Wire("12", solid=False), 75.0).real, 1.98)
        self.assertAlmostEqual(
            impedance_per_kft(Wire("12", method="PVC", solid=True), 75.0).real, 1.93
        )

    def test_raceways(self):
        for kind, size, r, x in (("EMT", "1/2", 1.165, 0.471), ("RMC", "2", 0.268, 0.271)):
            z = raceway_impedance(kind, size, 1000)
            self.assertEqual((z.real, z.imag), (r, x))
        wall = conductor.raceway_i2t("EMT", "1/2")
        section = math.pi * (0.706 - 0.042) * 0.042 * 25.4**2
        self.assertAlmostEqual(wall, (47 * section) ** 2)

    def test_withstand(self):
        expected = 0.0297 * math.log10(384 / 309) * (6530 / 326.9) ** 2
        self.assertAlmostEqual(withstand_s(Wire("12"), 326.9), expected)
        thermoset = 0.0297 * math.log10(484 / 309) * (6530 / 326.9) ** 2
        found = withstand_s(Wire("12", insulation="thermoset"), 326.9)
        self.assertAlmostEqual(found, thermoset)
        aluminium = 0.0125 * math.log10(378 / 303) * (211600 / 5000) ** 2
        self.assertAlmostEqual(withstand_s(Wire("4/0", "aluminium", "triplex"), 5000), aluminium)
        self.assertTrue(math.isinf(withstand_s(Wire("12"), 0)))


class Breakers(unittest.TestCase):
    def test_calibration_rows_at_their_edges(self):
        for rating, at200, at135 in CALIBRATION:
            device = Breaker(rating)
            with self.subTest(rating):
                self.assertAlmostEqual(device.slow_s(2 * rating), at200, places=6)
                self.assertAlmostEqual(device.slow_s(1.35 * rating), at135, places=6)
                self.assertTrue(math.isinf(device.slow_s(1.3499 * rating)))

    def test_both_edges_by_formula(self):
        device = Breaker(20)
        tau = 120 / math.log(4 / (4 - 1.35**2))
        for m in (2.5, 4.0, 7.0, 9.99):
            slow = tau * math.log(m**2 / (m**2 - 1.35**2))
            self.assertAlmostEqual(device.slow_s(20 * m), slow)
        for m in (1.1, 2.0, 4.99):
            tau_fast = 0.1 * 120 / math.log(4 / (4 - 1.05**2))
            fast = tau_fast * math.log(m**2 / (m**2 - 1.05**2))
            self.assertAlmostEqual(device.fast_s(20 * m), fast)
        self.assertTrue(math.isinf(device.fast_s(21)))
        self.assertEqual(device.fast_s(100), 0.008)
        self.assertEqual(device.slow_s(200), 0.025)
        self.assertGreater(device.slow_s(199.9), 1)

    def test_the_maker_decides_the_band(self):
        device = Breaker(20, lo=6, hi=9)
        self.assertEqual(device.slow_s(180), 0.025)
        self.assertEqual(device.fast_s(120), 0.008)
        self.assertGreater(device.fast_s(119), 0.008)
        self.assertEqual(device.unproved_hi, 9)
        self.assertFalse(device.is_assumed)

    def test_without_a_magnetic_trip_heat_alone_opens(self):
        device = Breaker(20, magnetic=False)
        self.assertGreater(device.slow_s(400), 0.5)
        self.assertGreater(device.slow_s(2000), device.fast_s(2000))

    def test_ground_fault_interrupter(self):
        self.assertTrue(math.isinf(ground_fault_interrupter_slow_s(0.0059)))
        self.assertAlmostEqual(ground_fault_interrupter_slow_s(0.006), (20 / 6) ** 1.43)
        self.assertAlmostEqual(ground_fault_interrupter_slow_s(0.020), 1.0)
        self.assertEqual(ground_fault_interrupter_slow_s(5.0), 0.025)


class Supplies(unittest.TestCase):
    def test_the_split_transformer(self):
        unit = Transformer(25, 1.7, 1.6)
        r = 0.017 / math.hypot(1, 1.6) * 120**2 / 25000
        x = 1.6 * r
        self.assertAlmostEqual(unit.z0, complex(0.5 * r, 0.8 * x))
        self.assertAlmostEqual(unit.z1, complex(r, 0.4 * x))
        self.assertAlmostEqual(unit.line_to_neutral_a, 120 / abs(complex(1.5 * r, 1.2 * x)))
        self.assertAlmostEqual(unit.line_to_line_a, 240 / (4 * math.hypot(r, x)))
        primary = Transformer(25, 1.7, 1.6, primary_mva=5)
        self.assertAlmostEqual(primary.z0.imag - unit.z0.imag, 120**2 / 5e6)

    def test_phases(self):
        source = of_phases("400/230", 230, 0.1 + 0.1j, 0.4 + 0.4j)
        ((_, ports, volts, common, own),) = source.ports("u1")
        self.assertEqual(len(ports), 3)
        self.assertAlmostEqual(abs(volts[0] + volts[1] + volts[2]), 0)
        # one phase to neutral: own + common = (2·Z1 + Z0)/3
        self.assertAlmostEqual(own + common, (2 * (0.1 + 0.1j) + (0.4 + 0.4j)) / 3)


class Figures(unittest.TestCase):
    def test_three_significant_figures(self):
        cases = {
            0: "0", 326.912: "327", 0.025: "0.025", 0.34872: "0.349", 12.05: "12.1",
            9.996: "10", 99.96: "100", 1234.5: "1,230", 0.0004567: "0.000457", 56.2: "56.2",
            1e6: "1,000,000", -3.14159: "-3.14", float("inf"): "never",
        }  # fmt: skip
        for value, shown in cases.items():
            with self.subTest(value):
                self.assertEqual(figures(value), shown)
        self.assertEqual(figures(None), "not known")
        self.assertEqual(figures(326.912, 4), "326.9")
        with self.assertRaises(BadInput):
            figures(float("nan"))
