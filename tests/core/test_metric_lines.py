"""Typed lines of the metric rule set: what they say, and what must never become a circuit."""

import unittest

from returnpath.site import Installation, Supply, apply_all, read_place
from returnpath.site.typed.examples import line_examples
from returnpath.words import RuleSet

PLACE = Installation(frequency_hz=50, supplies=(Supply(id="u1", system="230", earthing="TN-C-S"),))
M = 1 / 0.3048

SAYS = {
    "B32 2.5/1.5 ring kitchen 48m": {
        "ring": "yes", "line_size": "2.5mm2", "egc_size": "1.5mm2", "breaker.kind": "B",
        "breaker.rating_a": 32, "method": "twin", "length_ft": round(48 * M, 1),
    },
    "C20 4mm SWA 35m shed": {"method": "SWA", "egc": "raceway", "line_size": "4mm2"},
    "32A RCBO EV 6mm 20m": {"rcd_ma": 30, "line_size": "6mm2", "breaker.rating_a": 32},
    "C16 RCBO type B 4mm2 heat pump 18m outdoors": {"breaker.kind": "C", "rcd_type": "B"},
    "kitchen ring B32 2.5/1.5 RCBO A 52 m": {"rcd_type": "A", "breaker.kind": "B"},
    "B32 2.5mm ring, 1.5 cpc, 55 metres, spur 8m": {
        "egc_size": "1.5mm2", "length_ft": round(55 * M, 1), "spur_ft": round(8 * M, 1),
    },
    "B40 RCBO type A dc detection 6mm SWA 18m EV open PEN device": {
        "dc_detection": "yes", "open_pen": "device", "rcd_type": "A", "line_size": "6mm2",
    },
    "EV B32 10mm 25m own electrode": {"open_pen": "own electrode"},
    "cooker circuit 32A 6mm T+E 11m": {"method": "twin", "egc": "wire"},
    "9.5kW shower on a B45": {"breaker.kind": "B", "breaker.rating_a": 45, "load_va": 9500},
    "cooker point 32A 6.0/2.5 T/E": {"line_size": "6mm2", "egc_size": "2.5mm2", "method": "twin"},
    "B6 lighting loft 1.5 twin 20 mtrs": {
        "line_size": "1.5mm2", "method": "twin", "length_ft": round(20 * M, 1),
    },
    "20A gG fuse 2.5/1.5 radial 15m": {"breaker.kind": "gG", "breaker.rating_a": 20},
}  # fmt: skip
KINDS = {
    "summer house board B32 6mm 3 core SWA 30m": "panel",
    "63A gG 16mm SWA 3 core garage sub board 28m": "panel",
    "tails 25mm 3m": "service",
    "TN-C-S supply 100A gG fuse": "supply",
    "gas 10mm bond": "metal",
    "foundation electrode": "electrode",
    "earth spike 40 ohm": "electrode",
}
#: Has a size or a rating, and is no circuit: (line, what the answer points at).
NO_CIRCUIT = {
    "main bonding 10mm": "at its pipe",
    "ladder bonded 10mm": "at its pipe",
    "63A 30mA RCD side 2": "at its board or at its feeder",
    "SPD type 2 fitted": "at its board",
    "supplementary bonding bathroom 4mm": "at its building",
    "earthing conductor 16mm": "at its electrode",
    "SPD fitted": "at its board",
    "main switch 100A": "at its board",
    "split board RCD 30mA": "at its board",
    "100mA type S RCD at the board": "at its board",
}


class MetricLines(unittest.TestCase):
    def test_a_line_says_what_it_says(self):
        for line, facts in SAYS.items():
            with self.subTest(line):
                read = read_place(PLACE, line)
                self.assertEqual(read.problems, [])
                self.assertEqual({k: read.facts.get(k) for k in facts}, facts)
                self.assertNotIn("poles", read.facts)

    def test_the_one_figure_of_a_supply_is_never_dropped(self):
        for line, ze in (
            ("TNCS 0.25 ohms", 0.25),
            ("TN-S 0.8 ohm", 0.8),
            ("PME supply Ze=0.2", 0.2),
        ):
            self.assertEqual(read_place(PLACE, line).facts["ze_ohm"], ze)
        self.assertIn("earth rod", " ".join(read_place(PLACE, "TT 65 ohm").problems))

    def test_the_kind_of_a_part(self):
        for line, kind in KINDS.items():
            with self.subTest(line):
                read = read_place(PLACE, line)
                self.assertEqual((read.kind, read.problems), (kind, []))

    def test_a_conductor_or_device_of_another_part_is_no_circuit(self):
        for line, where in NO_CIRCUIT.items():
            with self.subTest(line):
                self.assertIn(where, " ".join(read_place(PLACE, line).problems))

    def test_every_example_that_is_shown_is_read_and_kept(self):
        for rules, place in ((RuleSet.METRIC, PLACE), (RuleSet.US, Installation())):
            lines = [line for _, some in line_examples(rules) for line in some]
            self.assertGreater(len(lines), 8)
            for line in lines:
                with self.subTest(line):
                    read = read_place(place, line)
                    self.assertEqual((read.problems, bool(read.edits)), ([], True))
                    apply_all(place, read.edits)

    def test_a_circuit_named_as_a_building_goes_there(self):
        site = apply_all(PLACE, read_place(PLACE, "shed").edits)
        shed = site.buildings[-1].id
        read = read_place(site, "C20 4mm SWA 35m shed")
        self.assertEqual((read.facts.get("building"), read.problems), (shed, []))
        self.assertIsNone(read_place(site, "C20 4mm SWA 35m shed lights").facts.get("building"))

    def test_a_sub_main_keeps_its_device_and_an_alarm_panel_is_a_load(self):
        read = read_place(PLACE, "garage sub-main 40A 10mm SWA 25m")
        self.assertEqual((read.kind, read.facts["breaker.rating_a"]), ("panel", 40.0))
        self.assertIn("in a building of its own", read.assumed_words)
        alarm = read_place(PLACE, "B16 2.5/1.5 alarm panel 10m")
        self.assertEqual((alarm.kind, alarm.title), ("circuit", "A circuit: Alarm panel"))
        armoured = read_place(PLACE, "C20 4mm 3 core SWA 30m pond")
        self.assertIn("4 mm² protective conductor beside the armour", armoured.words)

    def test_a_device_that_no_table_has_is_never_taken_for_another(self):
        for line in ("rewireable fuse 30A ring 2.5mm 50m", "30A fuse cooker 6mm T&E 10m",
                     "BS1361 5A lights 1mm 20m", "MCB type 2 30A ring 2.5mm 50m",
                     "semi-enclosed 15A immersion 2.5mm 10m"):  # fmt: skip
            self.assertIn("has no table here", " ".join(read_place(PLACE, line).problems), line)
        self.assertEqual(
            read_place(PLACE, "32A fuse cooker 6mm T&E 10m").facts["breaker.kind"], "gG"
        )
        spur = read_place(PLACE, "B6 boiler 3A fused spur 1.5mm 11m")
        self.assertEqual((spur.facts["breaker.rating_a"], spur.problems), (6.0, []))

    def test_what_an_electrician_calls_them(self):
        for line, kind, facts in (
            ("garage CU 40A 6mm 3c SWA 20m buried", "panel", {"name": "Garage"}),
            ("B32 cooker 6mm cu twin 12m", "circuit", {"line_material": "copper"}),
            ("main bonding to water 10mm", "metal", {"kind": "water", "bond_size": "10mm2"}),
            ("main protective bonding gas 10mm", "metal", {"kind": "gas", "bonded": "yes"}),
            ("B20 4mm twin battery inverter 6m RCD 30mA type AC", "circuit",
             {"name": "Battery inverter", "rcd_type": "AC"}),
            ("B16 2.5mm twin+cpc utility sockets 19m", "circuit",
             {"name": "Utility sockets", "method": "twin"}),
            ("Ze = 0.28 TN-C-S 1.6kA", "supply", {"ze_ohm": 0.28, "fault_a": 1600.0}),
            ("C32 TP 6mm 5 core SWA 15m kiln", "circuit", {"poles": 3}),
            ("C32 TP&N 10mm 5 core SWA lift 20m", "circuit", {"poles": 3}),
            ("20A sockets RCD 30mA", "circuit", {"rcd_ma": 30.0}),
            ("40A shower RCD 30mA", "circuit", {"breaker.rating_a": 40.0}),
            ("EV charger B40 32A load 7.4kW 6mm twin 10m", "circuit", {"load_va": 7400.0}),
            ("oil line bonded 10mm", "metal", {"kind": "other", "name": "Oil line"}),
            ("final ring B32 2.5mm/1.5mm 55m sockets", "circuit",
             {"ring": "yes", "egc_size": "1.5mm2"}),
            ("C20 EV 6mm SWA 3 core 28m RCBO 30mA type A DC detection 6 mA", "circuit",
             {"rcd_ma": 30.0, "rcd_type": "A", "dc_detection": "yes"}),
            ("B16 2.5/1.5 sockets 20m RCBO 30mA A type", "circuit", {"rcd_type": "A"}),
        ):  # fmt: skip
            read = read_place(PLACE, line)
            self.assertEqual((read.problems, read.unused, read.kind), ([], [], kind), line)
            self.assertEqual({k: read.facts.get(k) for k in facts}, facts, line)

    def test_cu_by_a_size_is_copper_whatever_the_size_is_in(self):
        for line, kind in (
            ("50 amp 240 volt welder #6 cu emt", "circuit"),
            ("rebar #4 cu", "electrode"),
            ("C20 kiln 4mm cu SWA 20m", "circuit"),
            ("CU 40A annexe 10mm SWA 20m", "panel"),
        ):
            self.assertEqual(read_place(PLACE, line).kind, kind, line)

    def test_a_bare_figure_is_asked_for_in_its_own_units(self):
        said = " ".join(read_place(PLACE, "16A type C 2.5 outside socket 22m").problems)
        self.assertIn("2.5mm for a wire", said)
        self.assertNotIn("ft", said)
        cord = read_place(PLACE, "generator 5kVA").facts
        self.assertEqual((cord["line_size"], cord["egc_size"]), ("4mm2", "4mm2"))
