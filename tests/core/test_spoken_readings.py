"""Readings as they are spoken, against what the place predicts for them."""

import unittest

from returnpath.readings import (
    TypedReading,
    judge_reading,
    predict,
    read_reading,
    read_readings,
    reading_kinds,  # fmt: skip
)
from returnpath.site import Add, Set, apply
from returnpath.study import study

from .houses_judged import built, stories
from .test_findings import example

SITE = example("pebblewick")
DONE = study(SITE)


def read(text):
    return read_reading(SITE, text)


class Spoken(unittest.TestCase):
    def test_current_on_a_bond_that_is_described_as_out_is_off(self):
        judged = judge_reading(DONE, read("boathouse bond clamp 1 A"))
        self.assertEqual(
            (judged.fits, judged.prediction.says), (False, "no bond is described here")
        )
        self.assertIn("a second bond", judged.cause)
        self.assertTrue(judge_reading(DONE, read("boathouse bond clamp 0.03")).fits)
        self.assertTrue(judge_reading(DONE, read("clamp hot dryer 18 A")).fits)
        self.assertFalse(judge_reading(DONE, read("clamp hot dryer 60 A")).fits)

    def test_of_the_metric_set(self):
        site = example("foxglove")
        for text, kind, name, value in (
            ("boiler RCD 28ms at 30mA", "trip", "Boiler", 28),
            ("boiler RCD 1x 0deg 24 ms", "trip", "Boiler", 24),
            ("boiler ramp test 21 mA", "trip-ma", "Boiler", 21),
            ("boiler IR L-E 500V 250 meg", "insulation", "Boiler", 250),
            ("Ze 0.32 at origin", "ze", "Hall board", 0.32),
            ("external earth fault loop impedance 0.32", "ze", "Hall board", 0.32),
            ("PSCC 1.1kA at the board", "pfc", "Hall board", 1100),
            ("L-E 231 volts kitchen sockets", "lg", "Kitchen sockets", 231),
            ("N-E 0.6 V kitchen sockets", "ng", "Kitchen sockets", 0.6),
            ("earth electrode resistance 68 ohm", "three-point", "electrode", 68),
            ("cpc continuity boiler 0.2", "r2", "Boiler", 0.2),
            ("dead test cooker r1+r2 0.08", "r1r2", "Cooker", 0.08),
        ):
            found = read_reading(site, text)
            self.assertEqual((found.problem, found.kind, found.place_name, found.value),
                             ("", kind, name, value), text)  # fmt: skip

    def test_of_several_rods_it_asks_which(self):
        self.assertIn("which rod? rod 1, rod 2", read("clamp on ground rod wire 0.4 amps").problem)
        one = next(e for e in SITE.electrodes if e.kind == "rod")
        site = SITE.model_copy(update={"electrodes": (one,)})
        self.assertEqual(read_reading(site, "clamp on ground rod wire 0.4 A").place, one.id)
        at = next(p for p in SITE.panels if p.id == one.panel).name
        self.assertEqual(read_reading(site, f"{at} rod 22 ohms 3 point").place, one.id)

    def test_each_is_read_as_a_person_means_it(self):
        for text, kind, name, value, loaded in (
            ("studio outlets loop 0.66", "loop", "Studio outlets", 0.66, False),
            ("n-g 1.9 V with heater on", "ng", "Utility room", 1.9, True),
            ("clamp gec 0.4", "clamp", "footing steel", 0.4, False),
            ("torque main lugs 250 in-lb", "torque", "Utility room", 250, False),
            ("Kitchen counter R1+R2 0.31 ohm", "r1r2", "Kitchen counter", 0.31, False),
            ("hall bath l-n 118.2V", "ln", "Hall bath", 118.2, False),
            ("boathouse feeder r2 0.2", "r2", "Boathouse feeder", 0.2, False),
            ("rod 2 three-point 41", "three-point", "rod 2", 41, False),
            ("available fault current 4.2 kA at utility room", "pfc", "Utility room", 4200, False),
            ("loop at the table saw was 0.9", "loop", "Table saw", 0.9, False),
            ("clamp on the gas pipe 0,3 A under load", "clamp", "Gas pipe", 0.3, True),
            ("loop at kitchen counter is .28", "loop", "Kitchen counter", 0.28, False),
            ("got 0.3 ohm loop on the dishwasher", "loop", "Dishwasher", 0.3, False),
            ("N to G 2.1 volts loft studio loads on", "ng", "Loft studio", 2.1, True),
            ("dryer trip 24 ms", "trip", "Dryer", 24, False),
            (
                "neutral to ground at studio outlets 1.9 volts heater on",
                "ng",
                "Studio outlets",
                1.9,
                True,
            ),
            ("studio outlets n-g 1900 mV", "ng", "Studio outlets", 1.9, False),
            ("clamp on gec reads 400 mA", "clamp", "footing steel", 0.4, False),
            ("dishwasher trips at 6 mA", "trip-ma", "Dishwasher", 6, False),
            ("gfci hall bath tripped at 5", "trip-ma", "Hall bath", 5, False),
            ("insulation studio outlets >550", "insulation", "Studio outlets", 550, False),
            ("kitchen counter loop 2000+", "loop", "Kitchen counter", 2000, False),
            ("dryer r1+r2 > 2000 ohm", "r1r2", "Dryer", 2000, False),
            ("boathouse panel loop 0.18", "loop", "Boathouse", 0.18, False),
            ("Studio outlets 0.66 ohms loop impedance", "loop", "Studio outlets", 0.66, False),
            ("loop studio outlets 660 milliohm", "loop", "Studio outlets", 0.66, False),
            ("dryer loop leg B 0.21", "loop2", "Dryer", 0.21, False),
            ("kitchen counter h-g 119", "lg", "Kitchen counter", 119, False),
            ("dryer 240.5 V across the hots", "ll", "Dryer", 240.5, False),
            ("clamp main bonding jumper 0.2", "clamp-bond", "Utility room", 0.2, False),
            ("clamp neutral bond strap 1.5", "clamp-bond", "Utility room", 1.5, False),
            ("boathouse bond clamp 1 A", "clamp-bond", "Boathouse", 1, False),
            ("water bond clamp 0.3", "clamp", "Old copper water pipe", 0.3, False),
            ("gas pipe bond clamp 0.3", "clamp", "Gas pipe", 0.3, False),
            ("clamp hot dryer 18 A", "clamp-line", "Dryer", 18, False),
            ("studio feeder line current 12 A", "clamp-line", "Studio feeder", 12, False),
            ("dryer frame to bar 0.1", "r2", "Dryer", 0.1, False),
            ("gec amps 0.35", "clamp", "footing steel", 0.35, False),
            ("studio feeder egc clamp .12 A", "clamp", "Studio feeder", 0.12, False),
            ("studio feeder ground current 120 mA", "clamp", "Studio feeder", 0.12, False),
            ("continuity dryer egc 0.1", "r2", "Dryer", 0.1, False),
            ("rod 2 clamp tester 18 ohm", "clamp-ohm", "rod 2", 18, False),
            ("rod 3 fall of potential 21.5", "three-point", "rod 3", 21.5, False),
            ("insulation dryer 500V >550 meg", "insulation", "Dryer", 550, False),
            ("megger studio outlets 1 gig", "insulation", "Studio outlets", 1000, False),
            ("gfci hall bath trips in 24 ms", "trip", "Hall bath", 24, False),
            ("torque neutral lug 250 in lb", "torque", "Utility room", 250, False),
            ("torque main breaker lugs 28 ft-lb", "torque", "Utility room", 336, False),
            ("torque main lugs 34 Nm", "torque", "Utility room", 300.924, False),
            ("lug temperature main 104 F", "temperature", "Utility room", 40, False),
            ("3 light tester dining left open ground", "lamps", "Dining left", 1, False),
            ("ASCC main 9800", "pfc", "Utility room", 9800, False),
        ):
            with self.subTest(text):
                found = read(text)
                self.assertEqual(found.problem, "")
                self.assertEqual(
                    (found.kind, found.place_name, found.value, found.loaded),
                    (kind, name, value, loaded),
                )

    def test_nothing_is_guessed_and_nothing_dropped(self):
        for text in ("0.66", "studio outlets loop", "dryer loop > 2", "dryer loop 2+",
                     "table saw loop 0.9 1.2",
                     "loop 0.6 by moonlight",
                     "rod 2 loop 0.4", "dryer three-point 30", "hall bath loop -2", "",
                     "sauna loop 0.3",
                     "hall bath loop 0.3 kettle", "loop 0.3 V"):  # fmt: skip
            with self.subTest(text):
                self.assertTrue(read(text).problem)

    def test_a_reading_over_the_range_says_what_to_write(self):
        for text in ("studio outlets loop OL", "no continuity r2 studio outlets"):
            with self.subTest(text):
                self.assertIn("over the range: write where", read(text).problem)
        self.assertIn("is missing", read("studio outlets n-g OL").problem)

    def test_two_places_of_one_name_are_asked(self):
        twin = apply(SITE, Add(to="circuits", facts={"name": "Dryer", "panel": "p5"}))
        self.assertTrue(read_reading(twin, "dryer loop 0.3").problem)

    def test_a_list(self):
        found = read_readings(SITE, "dryer loop 0.2\n\nwater heater loop 0.14\n")
        self.assertEqual([r.value for r in found], [0.2, 0.14])


class Predicted(unittest.TestCase):
    TYPED = ("kitchen counter loop 1", "utility room loop 1", "kitchen counter r2 1",
             "boathouse feeder r1+r2 1", "pfc 1000", "hall bath l-n 1", "l-l 240", "n-g 1",
             "loft studio n-g 1 under load", "clamp gec 1", "studio feeder clamp 1",
             "rod 1 three-point 1", "dryer insulation 1")  # fmt: skip

    def test_a_reading_at_its_prediction_is_never_off(self):
        for text in self.TYPED:
            first = read(text)
            band = predict(DONE, first)
            self.assertIsNotNone(band, text)
            top = band.high if band.high < 1e6 else band.low * 3
            for value in (band.low, (band.low + top) / 2, top):
                again = type(first)(**{**vars(first), "value": value})
                with self.subTest(text, value=value):
                    self.assertTrue(judge_reading(DONE, again).fits)

    def test_a_meter_reads_the_utility_whatever_generator_stands_by(self):
        for name in ("clean-generator-cord", "clean-generator-own-bond"):
            site = built(stories()[name])
            utility = site.supplies[0].id
            services = tuple(r for r in site.services if r.supply == utility)
            only = {"supplies": site.supplies[:1], "services": services}
            alone = study(site.model_copy(update=only))
            both = study(site)
            for circuit in site.circuits:
                said = [predict(d, TypedReading("", "loop", circuit.id, "")) for d in (alone, both)]
                with self.subTest(name, circuit=circuit.name):
                    self.assertIsNotNone(said[0])
                    self.assertAlmostEqual(said[0].low, said[1].low, 6)
                    self.assertAlmostEqual(said[0].high, said[1].high, 6)
            panel = site.panel.id
            said = [predict(d, TypedReading("", "pfc", panel, "")) for d in (alone, both)]
            self.assertAlmostEqual(said[0].low, said[1].low, 3)

    def test_a_loop_over_it_says_what_that_does_to_the_verdict(self):
        found = judge_reading(DONE, read("studio outlets loop 0.66"))
        self.assertFalse(found.fits)
        self.assertIn("loose joint", found.cause)
        self.assertIn("delayed trip", found.meaning)
        # 0.95 × 120 V over 0.66 Ω, hotter by the band: about 145 A, 7.2 × the breaker.
        self.assertRegex(found.meaning, r"as read: 14[45] A hot, 7\.2")

    def test_continuity_by_hand(self):
        """120 ft there: R2 of 12 AWG solid, d.c. at 20 to 30 °C."""
        site = apply(SITE, Set(path="c17.length_ft", value=100.0))
        found = predict(study(site), read_reading(site, "kitchen counter r2 0.2"))
        per_kft = 1.93 * (1 + 0.00323 * (20 - 75))
        self.assertAlmostEqual(found.low, per_kft / 10, delta=0.004)

    def test_load_on_metal_is_predicted_where_a_second_bond_is(self):
        band = predict(DONE, read("studio feeder clamp 1 under load"))
        self.assertAlmostEqual(band.high, 2 * DONE.loads["u1"].currents["f8.egc"], places=6)

    def test_every_kind_has_its_words(self):
        for kind in reading_kinds().values():
            self.assertTrue(kind.label and kind.unit and kind.at and kind.said, kind.key)
