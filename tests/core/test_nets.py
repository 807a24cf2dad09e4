"""Any place of any system: studied without a refusal, and every figure agrees with a second
computation that shares nothing with the first (``reference.py``)."""

import math
import os
import unittest

from returnpath.study import FaultKind, Side, Verdict, study

from .any_place import any_metric_place, any_place
from .reference import Reference

#: Fewer where a broken line is tried: it shows at once or not at all.
PLACES = 120 if os.environ.get("JUSTLOOP_MUTATE") else 500
CLOSE = 1e-4


class Nets(unittest.TestCase):
    def test_every_figure_of_500_places_agrees(self):
        compared, judged, _ = self.walk(any_place, PLACES)
        self.assertGreater(compared, 8 * PLACES)
        self.assertGreater(judged, 6 * PLACES)

    def test_every_figure_of_metric_places_agrees(self):
        """Rings, armour, fuses and a given Ze; what every RCD in a fault's path sees of it."""
        compared, _, seen = self.walk(any_metric_place, PLACES // 4)
        self.assertGreater(compared, 2 * PLACES)
        self.assertGreater(seen, PLACES // 4)

    def walk(self, place, count: int) -> tuple[int, int, int]:
        """Faults compared, those with a device, and RCDs that see one."""
        compared = judged = seen = 0
        for seed in range(count):
            site = place(seed)
            done = study(site)
            self.assertEqual(
                {(f.place, f.kind) for f in done.faults if f.kind is FaultKind.CASE},
                {(e.id, FaultKind.CASE) for e in (*site.circuits, *site.panels)},
                "every place has its answer",
            )
            nets = {}
            for fault in done.faults:
                if fault.lowest_a is None:
                    self.assertIs(fault.verdict, Verdict.NOT_KNOWN)
                    self.assertTrue(fault.lacks or fault.remark)
                    continue
                with self.subTest(seed=seed, place=fault.place, kind=fault.kind, side=fault.side):
                    self.compare(done, fault, nets)
                    compared += 1
                    judged += fault.device is not None
                    seen += self.residuals(fault, nets)
        return compared, judged, seen

    def nets_of(self, done, fault, nets) -> dict:
        """The second computation of a fault's supply: hot and cold, for each utility earth."""
        if fault.state not in nets:
            states = next(s for s in done.states if s.supply.id == fault.state)
            earths = states.utility_earths()
            nets[fault.state] = {
                hot: [
                    Reference(done.assumed.site, fault.state, hot, ohm, self.source(states, hot),
                              states.wiring.legs)
                    for ohm in earths
                ]
                for hot in (True, False)
            }  # fmt: skip
        return nets[fault.state]

    @staticmethod
    def source(states, hot):
        source = states.sources.lowest if hot else states.sources.highest
        return source.z0, source.z1

    def ends(self, fault, net) -> list[tuple[str, str]]:
        """The pairs of nodes of a fault of this kind at this place."""
        circuit, place = fault.circuit, fault.place
        if circuit is not None:
            lines = [f"{place}.L{n}" for n in (1, 2, 3) if f"{place}.L{n}" in net.nodes]
            other = {"line-to-case": f"{place}.case", "line-to-neutral": f"{net.owner[place]}.N"}
        else:
            letter = "lug" if fault.side is Side.LINE else "L"
            lines = [f"{place}.{letter}{n}" for n in range(1, len(fault.basis.place.legs) + 1)]
            other = {"line-to-case": f"{place}.case", "line-to-neutral": f"{place}.N"}
        if fault.kind is FaultKind.LINE:
            return [(a, b) for i, a in enumerate(lines) for b in lines[i + 1 :]]
        return [(line, other[fault.kind.value]) for line in lines]

    def compare(self, done, fault, nets) -> None:
        made = self.nets_of(done, fault, nets)
        limit = next(s for s in done.states if s.supply.id == fault.state).sources.highest.limit_a
        arc = done.assumed.site.practice.arc_v
        own_neutral = fault.circuit is not None and fault.kind is FaultKind.NEUTRAL
        shared = own_neutral and made[True][0].owner[fault.place] != fault.place
        if shared:
            return  # two runs of unlike length: judged in tests of their own
        hot = [(net, *end, net.fault(*end)) for net in made[True] for end in self.ends(fault, net)]
        cold = [net.fault(*end) for net in made[False] for end in self.ends(fault, net)]

        def lowest(found):
            return max(0.95 * abs(found["volts"]) - arc, 0) / abs(found["ohm"])

        worst = min(hot, key=lambda h: lowest(h[3]))
        low = lowest(worst[3])
        high = max(abs(f["volts"] / f["ohm"]) for f in cold)
        if limit is not None:
            low, high = min(low, limit), min(high, limit)
        self.near(fault.lowest_a, low, 2e-3)
        self.near(fault.highest_a, high, 2e-3)
        if fault.lowest_a and fault.kind is FaultKind.CASE and limit is None:
            self.touch(fault, hot)
        if fault.lowest_a:
            self.heat(fault, [h for h in hot if lowest(h[3]) <= low * (1 + 1e-6) + 1e-9], low)

    def residuals(self, fault, nets) -> int:
        """Every RCD ahead of a fault sees the sum of the currents through it, and no other does;
        how many do."""
        site, panel = fault.basis.site, fault.circuit.panel if fault.circuit else fault.place
        ahead = [fault.circuit] if fault.circuit else []
        while panel:
            feeder = next((f for f in site.feeders if f.to == panel), None)
            ahead += [fault.basis.site.elements()[panel], *([feeder] if feeder else [])]
            panel = feeder.source if feeder else None
        made = nets[fault.state][True]
        if len(made) > 1 or len(self.ends(fault, made[0])) > 1 or fault.basis.devices is None:
            return 0
        if not fault.basis.spine.is_metric:
            return 0  # a second line there, judged in tests of its own
        neutral = made[0].nodes[f"{fault.state}.N"]
        if fault.lowest_a < 0.01 or abs(made[0].z[neutral, neutral]) > 1e5:
            return 0  # nothing but leaks flows
        shares = made[0].fault(*self.ends(fault, made[0])[0])["shares"]
        found = {r.path.element: r.share for r in fault.basis.devices.residuals}
        for one in ahead:
            if one.rcd_ma is not None:
                wanted = min(abs(made[0].through(one, fault, shares)), 1.0)
                self.near(found.pop(one.id, 0.0), wanted, 2e-3)
        self.assertFalse(found)
        return len(fault.basis.devices.residuals)

    def touch(self, fault, hot) -> None:
        net = hot[0][0]
        neutral = net.nodes[f"{fault.state}.N"]
        if abs(net.z[neutral, neutral]) > 1e5:
            return  # nothing holds the source to earth but the leaks
        volts = max(abs(f["after"][net.nodes[b]]) for net, _, b, f in hot)
        self.near(fault.touch_earth_v, volts, 1e-2)
        ohm = 500 if fault.is_wet else 1000
        ma = max(net.person_ma(a, b, ohm) for net, a, b, _ in hot)
        self.near(fault.body_ma, ma, 0.02, 2e-3)

    def heat(self, fault, candidates, low: float) -> None:
        """Every conductor that carries a part is judged, at its own share."""
        judged: dict[str, float] = {}
        for use in fault.heat:
            key = f"{use.carrier.path.element}:{use.carrier.label}"
            judged[key] = max(judged.get(key, 0.0), use.carrier.share)
        if fault.device is None:
            return
        shares = candidates[0][3]["shares"] if len(candidates) == 1 else None
        if shares is None:
            return
        parts = {"neutral_size": "neutral", "egc_size": "egc", "gec_size": "gec"}
        for use in fault.heat:
            path = use.carrier.path
            part = parts.get(path.fact)
            label = use.carrier.label
            if part is None or label in ("neutral",):
                continue
            share = shares.get(f"{path.element}.{part}")
            short = getattr(self.element(fault, path.element), "length_ft", None) == 0.01
            if share is not None and not short:  # two shorts side by side share as they like
                self.near(use.carrier.share, abs(share), 1e-3)
        for branch, share in shares.items():
            element, _, part = branch.partition(".")
            if part == "egc" and abs(share) > 0.01:
                known = any(u.carrier.path == f"{element}.egc_size" for u in fault.heat)
                measured = getattr(self.element(fault, element), "return_ohm", None) is not None
                self.assertTrue(known or measured, f"{branch} carries {abs(share):.2f} unjudged")

    @staticmethod
    def element(fault, id_: str):
        return fault.basis.site.elements()[id_]

    def near(self, found: float, wanted: float, least: float, share: float = CLOSE) -> None:
        if math.isinf(wanted) or math.isinf(found):
            self.assertEqual(found, wanted)
            return
        self.assertLessEqual(abs(found - wanted), max(share * abs(wanted), least))
