"""Soil in layers, electrodes by plan, tests of an electrode: against computations of their own."""

import itertools
import json
import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath import earth
from returnpath.earth import FallPoint, Layers, PinReading, Shape
from returnpath.errors import BadInput

from .test_command import run


def by_images(layers: Layers, spacing: float) -> float:
    """Four pins by the images themselves: every pin's current and its mirrors in the boundary,
    the potential difference of the inner two."""
    upper, lower, deep = layers.upper_ohm_m, layers.lower_ohm_m, layers.depth_m
    k = (lower - upper) / (lower + upper)

    def volts(r: float) -> float:
        total = 1 / r
        for n in range(1, 3000):
            total += 2 * k**n / math.hypot(r, 2 * n * deep)
        return upper / (2 * math.pi) * total

    inner = volts(spacing) - volts(2 * spacing)
    other = volts(2 * spacing) - volts(spacing)
    return 2 * math.pi * spacing * (inner - other)


def readings(layers: Layers, *spacings: float) -> list[PinReading]:
    return [PinReading(b, earth.apparent(layers, b) / (2 * math.pi * b)) for b in spacings]


class TwoLayers(unittest.TestCase):
    CASES = (Layers(100, 400, 1.5), Layers(500, 50, 3.0), Layers(30, 3000, 0.8))

    def test_the_curve_is_that_of_the_images(self):
        for layers in self.CASES:
            for spacing in (0.5, 1.0, 3.0, 10.0):
                with self.subTest(layers=layers, spacing=spacing):
                    wanted = by_images(layers, spacing)
                    self.assertAlmostEqual(earth.apparent(layers, spacing) / wanted, 1, places=3)

    def test_close_pins_see_the_upper_layer_and_wide_ones_the_lower(self):
        layers = self.CASES[0]
        self.assertAlmostEqual(earth.apparent(layers, 0.06), 100, delta=0.1)
        self.assertAlmostEqual(earth.apparent(layers, 400), 400, delta=1)

    def test_a_fit_finds_them_again(self):
        for layers in self.CASES:
            with self.subTest(layers):
                fit = earth.fit(readings(layers, 0.5, 1, 2, 3, 5, 8, 12, 20))
                self.assertTrue(fit.is_two)
                self.assertTrue(fit.is_depth_known)
                for name in ("upper_ohm_m", "lower_ohm_m", "depth_m"):
                    self.assertAlmostEqual(
                        getattr(fit.layers, name) / getattr(layers, name), 1, delta=0.03
                    )

    def test_even_soil_and_few_readings_are_one_layer(self):
        even = earth.fit(readings(Layers(80), 0.5, 1, 2, 4, 8))
        self.assertFalse(even.is_two)
        self.assertAlmostEqual(even.layers.upper_ohm_m, 80, places=6)
        few = earth.fit(readings(self.CASES[0], 0.5, 2, 8))
        self.assertFalse(few.is_two)

    def test_readings_that_stop_short_of_the_boundary_do_not_fix_its_depth(self):
        noisy = readings(Layers(100, 900, 9.0), 1, 2, 3, 4, 5)
        noise = (1.02, 0.98, 1.02, 0.99, 1.02)
        shaken = [PinReading(r.spacing_m, r.ohm * n) for r, n in zip(noisy, noise, strict=True)]
        fit = earth.fit(shaken)
        self.assertFalse(fit.is_two and fit.is_depth_known)

    def test_a_rod_in_the_upper_layer_feels_what_is_under_it(self):
        plain = earth.rod(100, 2.0, 0.008)
        self.assertGreater(earth.rod_in(Layers(100, 1000, 3.0), 2.0, 0.008), plain)
        self.assertLess(earth.rod_in(Layers(100, 10, 3.0), 2.0, 0.008), plain)
        self.assertAlmostEqual(
            earth.rod_in(Layers(100, 100.0001, 3.0), 2.0, 0.008), plain, places=3
        )

    def test_a_rod_by_images_of_a_line(self):
        """The added part is the mean potential of the rod's mirrors in the boundary."""
        upper, lower, deep, length, radius = 100.0, 400.0, 3.0, 2.0, 0.008
        k, add = (lower - upper) / (lower + upper), 0.0
        z = (np.arange(400) + 0.5) / 400 * length
        for n in range(1, 200):
            for centre in (2 * n * deep, -2 * n * deep):
                for sign in (1, -1):
                    image = centre + sign * z
                    add += k**n * np.mean(1 / np.abs(z[:, None] - image[None, :])) / 2
        wanted = earth.rod(upper, length, radius) + upper / (2 * math.pi) * add
        found = earth.rod_in(Layers(upper, lower, deep), length, radius)
        self.assertAlmostEqual(found / wanted, 1, delta=0.02)

    def test_typed_readings(self):
        typed = earth.read_pins("spacing_ft,ohm\n5,12.1\n10 ft 8\n1.5 m 9; 20ft 6 ohm")
        spaced = [round(r.spacing_m, 3) for r in typed]
        self.assertEqual(spaced, [1.524, 3.048, 1.5, 6.096])
        for bad in ("five 12", "5", "5 0", "5 12 3", "5 yd 12"):
            with self.subTest(bad), self.assertRaises(BadInput):
                earth.read_pins(bad)


class ByPlan(unittest.TestCase):
    def test_rods_by_plan_are_the_worked_example(self):
        """W9: 39.9 Ω alone, two at 6 ft 23.3, at 16 ft 21.5."""
        for apart, wanted in ((6, 23.3), (16, 21.5)):
            two = [earth.shape_of("rod", x * 0.3048, 0, 8 * 0.3048, 100) for x in (0, apart)]
            self.assertAlmostEqual(earth.sum_of(two, 100), wanted, delta=0.05)

    def test_points_give_what_the_formula_gives_for_two_rods(self):
        for apart in (2.0, 5.0, 20.0):
            one, other = (Shape("rod", x, 0, 40, 2.44) for x in (0, apart))
            by_points = earth.shapes._by_points(one.points(), other.points(), 100)
            self.assertAlmostEqual(by_points / earth.mutual_rods(100, 2.44, apart), 1, delta=0.01)

    places = st.tuples(st.integers(-60, 60), st.integers(-60, 60))
    kinds = st.sampled_from(("rod", "water", "concrete", "plate", "ring"))

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(kinds, places), min_size=1, max_size=6), st.floats(5, 3000))
    def test_another_electrode_never_raises_the_sum(self, made, soil):
        shapes = [
            earth.shape_of(kind, x * 0.3048, y * 0.3048, 24 * 0.3048, soil) for kind, (x, y) in made
        ]
        sums = [earth.sum_of(shapes[:n], soil) for n in range(1, len(shapes) + 1)]
        for before, after in itertools.pairwise(sums):
            self.assertLessEqual(after, before * (1 + 1e-6))

    @settings(max_examples=60, deadline=None)
    @given(kinds, kinds, st.floats(1, 40), st.floats(1.05, 4))
    def test_mutual_resistance_never_grows_with_distance(self, one, other, apart, more):
        a = earth.shape_of(one, 0, 0, 6, 100)
        near, far = (earth.shape_of(other, 0, d, 6, 100) for d in (apart + 8, (apart + 8) * more))
        self.assertLessEqual(earth.mutual(a, far, 100), earth.mutual(a, near, 100) + 1e-9)
        self.assertAlmostEqual(earth.mutual(a, near, 100), earth.mutual(near, a, 100), places=9)

    def test_the_surface_falls_away_and_has_the_rods_volts_beside_it(self):
        rod = earth.shape_of("rod", 0, 0, 2.44, 100)
        at = np.array([[0.3, 0.0], [1.0, 0.0], [3.0, 0.0], [30.0, 0.0]])
        volts = earth.surface_volts([rod], [1.0], 100, at)
        self.assertTrue(all(a > b for a, b in itertools.pairwise(volts)))
        self.assertAlmostEqual(volts[-1], 100 / (2 * math.pi * 30), delta=0.01)


class Tests(unittest.TestCase):
    """A synthetic field: a half-ball electrode of R = ρ/2πa, probes as points."""

    def field(self, radius: float, far: float, shares, soil: float = 100.0):
        k = soil / (2 * math.pi)
        return [
            FallPoint(s, k * (1 / radius - 1 / (s * far) - 1 / far + 1 / ((1 - s) * far)))
            for s in shares
        ]

    def test_far_enough_it_reads_the_electrode_at_618(self):
        points = self.field(0.5, 40, (0.2, 0.4, 0.52, 0.62, 0.72, 0.85))
        found = earth.three_point_test(points, 40)
        true = 100 / (2 * math.pi * 0.5)
        self.assertTrue(found.agrees)
        self.assertAlmostEqual(found.ohm / true, 1, delta=0.01)
        self.assertAlmostEqual(found.fitted / true, 1, delta=0.001)

    def test_too_near_it_says_so(self):
        found = earth.three_point_test(self.field(2.0, 6, (0.52, 0.62, 0.72)), 6)
        self.assertFalse(found.agrees)
        self.assertIsNone(found.ohm)

    def test_equality_at_five_percent_agrees(self):
        at = [FallPoint(0.52, 95), FallPoint(0.62, 100), FallPoint(0.72, 105)]
        self.assertTrue(earth.three_point_test(at, 100).agrees)
        over = [FallPoint(0.52, 94.9), FallPoint(0.62, 100), FallPoint(0.72, 105)]
        self.assertFalse(earth.three_point_test(over, 100).agrees)

    def test_a_clamp_lies_where_there_is_no_loop_or_one_of_metal(self):
        says = earth.ClampSays
        self.assertIs(earth.clamp_reading(18, 2.0, 16).says, says.ELECTRODE)
        self.assertEqual(earth.clamp_reading(18, 2.0, 16).most_ohm, 18)
        self.assertIs(earth.clamp_reading(0.3, 2.0, 16).says, says.METAL)
        self.assertIs(earth.clamp_reading(18, None).says, says.NO_LOOP)
        self.assertIs(earth.clamp_reading(4000, 2.0).says, says.NO_LOOP)

    def test_the_probes_go_away_from_other_metal(self):
        east = [(x, 0.0) for x in range(5, 100, 5)]
        line = earth.probe_line((0.0, 0.0), 8.0, east)
        self.assertNotIn("east", line.towards)
        self.assertEqual(line.far_ft, 40)
        self.assertAlmostEqual(line.near_ft[1], 24.8)


class CommandLine(unittest.TestCase):
    def test_calls(self):
        code, out, _ = run("soil", "2 ft 24", "5 ft 12.1", "10 ft 8", "20 ft 6", "--season", "wet",
                           "--json")  # fmt: skip
        self.assertEqual(code, 0)
        self.assertIn('"layers": 2', out)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "out.json"
            file.write_text(out, "utf-8")
            again = run("soil", "--csv", str(file), "--season", "wet", "--json")[1]
            self.assertEqual(json.loads(again)["value"], json.loads(out)["value"])
            file.write_text('{"a": 1}', "utf-8")
            self.assertEqual(run("soil", "--csv", str(file))[0], 2)
        code, out, _ = run("three-point", "--far", "100", "52 24.5", "62 25", "72 25.8")
        self.assertEqual((code, out.splitlines()[0]), (0, "Three-point test: 25 Ω"))
        code, out, _ = run("electrodes", "rod 0,0 8", "rod 6,0 8")
        self.assertEqual((code, out.splitlines()[0]), (0, "Electrodes together: 23.3 Ω"))
        for bad in (("soil", "x"), ("three-point", "--far", "1", "62 25"), ("soil",),
                    ("electrodes", "rope 0,0"), ("electrodes", "rod 0 8")):  # fmt: skip
            code, _, err = run(*bad)
            self.assertEqual(code, 2, bad)
            self.assertTrue(err.strip())
