"""Random places of any system: whatever a person may find, well made or not."""

import json
import random

from returnpath.errors import BadInput
from returnpath.site import Installation, loads
from returnpath.site.branches import branches_of

SIZES = ["14", "12", "10", "8", "6", "4", "2", "1/0"]
METRIC = ["1.5mm2", "2.5mm2", "4mm2", "6mm2", "10mm2", "16mm2"]
MAIN_BONDS, BONDS = ("in", "in", "in", "out", None), ("out", "out", "in", None)
METRIC_SYSTEMS = ["230", "400/230"]
SYSTEMS = ["120/240 split", "120/208 wye", "120/240 high-leg", *METRIC_SYSTEMS]


class _Draw:
    def __init__(self, seed: int):
        self.random = random.Random(seed)

    def of(self, *choices):
        return self.random.choice(choices)

    def feet(self, most=200) -> float:
        return round(self.random.uniform(1, most), 1)

    def often(self, value, share=0.8):
        """``value`` mostly, else not said."""
        return value if self.random.random() < share else None

    def rarely(self, value, share=0.15):
        return self.often(value, share)


def any_place(seed: int) -> Installation:
    """A valid site; the same for the same seed."""
    draw = _Draw(seed)
    for _ in range(50):
        try:
            return loads_dict(_place(draw))
        except BadInput:
            continue  # not a place that can exist: the next one
    raise AssertionError(seed)


def any_metric_place(seed: int) -> Installation:
    """Likewise of the metric rule set: rings, armour, gG fuses, a given Ze, RCDs anywhere."""
    draw = _Draw(1_000_000 + seed)
    for _ in range(50):
        try:
            return loads_dict(_with_metric_work(draw, _place(draw, METRIC_SYSTEMS)))
        except BadInput:
            continue
    raise AssertionError(seed)


def _with_metric_work(draw, site: dict) -> dict:
    unit = site["supplies"][0]
    if unit.get("earthing") != "TT":
        unit |= _clean({"ze_ohm": draw.rarely(draw.of(0.2, 0.35, 0.8), 0.5)})
    for run in (*site["feeders"], *site["circuits"]):
        if draw.of(True, False) and "return_ohm" not in run:
            egc = draw.of("raceway", "raceway", "both", "wire")
            run |= {"method": draw.of("SWA", "multicore"), "egc": egc}
            if run["method"] == "multicore":
                run["egc"] = draw.of("wire", "none")
        if draw.of(True, False):
            run["breaker"] = {"rating_a": draw.of(32, 40, 63, 80), "kind": "gG"}
        run |= _clean({"rcd_ma": draw.rarely(draw.of(30, 100, 300), 0.3)})
        run |= _clean({"rcd_delayed": draw.rarely("yes", 0.2)})
    for panel in site["panels"]:
        panel |= _clean({"rcd_ma": draw.rarely(draw.of(30, 100), 0.3)})
    busy = {c.get(f) for c in site["circuits"] for f in ("shares_with", "shares_egc_with")}
    for circuit in site["circuits"]:
        alone = not {"shares_with", "shares_egc_with", "return_ohm"} & set(circuit)
        if alone and circuit["id"] not in busy and draw.of(True, False):
            circuit |= {"ring": "yes", "method": "twin", "egc": "wire", "poles": 1}
            circuit |= {"line_size": draw.of("2.5mm2", "4mm2"), "egc_size": "1.5mm2"}
            circuit |= _clean({
                "ring_open": draw.rarely(draw.of("line", "neutral", "protective conductor"), 0.4),
                "spur_ft": draw.rarely(draw.feet(30), 0.4),
            })  # fmt: skip
    return site


def loads_dict(site: dict) -> Installation:
    return loads(json.dumps({"format": 2, "site": site}))


def _clean(facts: dict) -> dict:
    return {k: v for k, v in facts.items() if v is not None}


def _device(draw, metric: bool) -> dict:
    rating = draw.of(15, 16, 20, 30, 32, 50, 60, 63, 100)
    if metric and draw.of(True, False):
        return {"rating_a": rating, "kind": draw.of("B", "C", "D")}
    lo, hi = draw.rarely(draw.of(3, 5, 7)), draw.rarely(draw.of(8, 10, 15), 0.3)
    return _clean({
        "rating_a": draw.often(rating, 0.95), "lo": lo, "hi": hi,
        "magnetic_nominal": draw.rarely(9), "magnetic": draw.rarely("none", 0.05),
    })  # fmt: skip


def _supplies(draw, system: str) -> list[dict]:
    metric = system in ("230", "400/230")
    utility = {"id": "u1", "kind": "utility", "system": system}
    if metric:
        utility |= _clean({
            "r1_ohm": draw.often(0.2, 0.5), "x1_ohm": draw.rarely(0.1), "r0_ohm": draw.rarely(0.5),
            "earthing": draw.of("TN-S", "TN-C-S", "TT", None),
        })  # fmt: skip
    else:
        utility |= _clean({
            "kva": draw.often(draw.of(15, 25, 50)), "percent_z": draw.often(1.7, 0.5),
            "x_over_r": draw.often(1.6, 0.5),
        })  # fmt: skip
    utility |= _clean({
        "earth_ohm": draw.often(5, 0.4), "fault_a": draw.rarely(draw.of(2000, 22000), 0.1)
    })  # fmt: skip
    found = [utility]
    if draw.of(True, False, False):
        kind = draw.of("generator", "inverter")
        found.append(_clean({
            "id": "u2", "kind": kind, "system": system, "kva": draw.often(7.5),
            "bond": draw.of("in", "out", None), "neutral_switched": draw.of("yes", "no", None),
            "breaker": _device(draw, metric) if draw.of(True, False) else None,
        }))  # fmt: skip
    return found


def _service(draw, number: int, system: str) -> dict:
    metric = system in ("230", "400/230")
    size = draw.of("10mm2", "16mm2") if metric else draw.of("4/0", "2/0", "2", "6")
    material = "copper" if metric else draw.of("aluminium", "copper")
    return _clean({
        "id": f"s{number}", "supply": f"u{number}", "to": "p1",
        "run": draw.of("overhead", "underground"),
        "length_ft": draw.feet(100), "line_size": draw.often(size, 0.9), "line_material": material,
        "neutral_size": draw.often(size, 0.7),
        "egc_size": draw.rarely("16mm2" if metric else "4", 0.3),
        "sets": draw.of(1, 1, 2), "spacing_in": None if metric else draw.rarely(8, 0.1),
    })  # fmt: skip


def _panel(draw, number: int, metric: bool) -> dict:
    first = number == 1
    return _clean({
        "id": f"p{number}", "kind": draw.of("service", "meter", None) if first else "sub",
        "main": _device(draw, metric) if draw.of(True, False) else {},
        "bond": draw.of(*(MAIN_BONDS if first else BONDS)),
        "bond_kind": draw.of("screw", "wire"),
        "bond_size": None if metric else draw.rarely("4", 0.3),
        "ground_bar": draw.of("on case", "on case", "isolated", "none", None),
        "grounds_on_neutral": draw.of("yes", "no", "no", None),
    })  # fmt: skip


def _run(draw, metric: bool) -> dict:
    sizes = METRIC if metric else SIZES
    method = draw.of("NM", "PVC", "EMT", "UF", "RMC", None)
    steel = method in ("EMT", "RMC", None)
    egc = draw.of("wire", "wire", "wire", "both", "raceway", "none", None)
    if egc in ("both", "raceway") and not steel:
        egc = "wire"
    line = draw.of(*sizes)
    return _clean({
        "method": method, "length_ft": draw.often(draw.feet()), "line_size": draw.often(line),
        "line_material": "copper", "egc": egc,
        "egc_size": draw.often(draw.of(*sizes[: sizes.index(line) + 1])),
        "raceway_size": draw.often(draw.of("1/2", "3/4", "1"), 0.5),
        "neutral": draw.of("yes", "yes", "yes", "no", None), "return_ohm": draw.rarely(0.3, 0.05),
    })  # fmt: skip


def _circuits(draw, panels: int, metals: list[str], metric: bool) -> list[dict]:
    found = []
    for n in range(draw.random.randint(1, 6)):
        facts = _run(draw, metric) | _clean({
            "id": f"c{60 + n}", "panel": f"p{draw.random.randint(1, panels)}",
            "breaker": _device(draw, metric), "poles": draw.of(1, 1, 1, 2, 3, None),
            "space": draw.often(draw.random.randint(1, 30), 0.6), "gfci": draw.rarely("yes", 0.2),
            "rcd_ma": draw.rarely(30, 0.1), "outlet_bond": draw.rarely("yes", 0.2),
            "joined_to": [draw.of(*metals)] if metals and draw.of(True, False, False) else None,
            "reach": [draw.of(*metals)] if metals and draw.of(True, False, False) else None,
            "load_va": draw.often(draw.random.randint(10, 3000), 0.6), "wet": draw.rarely("yes"),
            "feeds": draw.of("socket-outlets", "fixed equipment", None),
        })  # fmt: skip
        if found and draw.of(True, False, False):
            facts["shares_with"] = draw.of(*found)["id"]
            facts["panel"] = next(f for f in found if f["id"] == facts["shares_with"])["panel"]
        if found and draw.of(True, False, False, False):
            facts["shares_egc_with"] = draw.of(*found)["id"]
            facts["panel"] = next(f for f in found if f["id"] == facts["shares_egc_with"])["panel"]
        found.append(facts)
    return found


def _place(draw, systems=SYSTEMS) -> dict:
    system = draw.of(*systems)
    metric = system in ("230", "400/230")
    supplies = _supplies(draw, system)
    count = draw.random.randint(1, 4)
    fed = [n for n in range(2, count + 1) if draw.random.random() < 0.9]
    panels = [_panel(draw, n, metric) for n in range(1, count + 1)]
    feeders = [
        _run(draw, metric) | _clean({
            "id": f"f{20 + n}", "source": f"p{draw.random.randint(1, n - 1)}", "to": f"p{n}",
            "breaker": _device(draw, metric), "poles": draw.of(1, 2, 2, 3, None),
            "sets": draw.of(1, 1, 2),
        })
        for n in fed
    ]  # fmt: skip
    metals = [
        _clean({
            "id": f"m{30 + n}", "panel": draw.often(f"p{draw.random.randint(1, count)}"),
            "kind": draw.of("water", "gas", "structure"),
            "material": draw.of("metal", "metal", "plastic", None),
            "bonded": draw.of("yes", "yes", "no", None),
            "bond_size": None if metric else draw.often("6", 0.6),
            "earth_ohm": draw.rarely(40, 0.3), "shared_main": draw.rarely("yes", 0.2),
            "also_joins": draw.rarely(f"p{draw.random.randint(1, count)}", 0.3),
            "past_repair": draw.rarely("yes", 0.1),
        })
        for n in range(draw.random.randint(0, 3))
    ]  # fmt: skip
    electrodes = [
        _clean({
            "id": f"e{40 + n}", "panel": f"p{draw.random.randint(1, count)}",
            "kind": draw.of("rod", "plate", "concrete", "water", None),
            "ohm": draw.often(draw.feet(60), 0.6),
            "lands": draw.of("neutral bar", "ground bar", None), "joined": draw.rarely("no", 0.1),
            "gec_size": draw.often("16mm2" if metric else "6", 0.6),
            "gec_length_ft": draw.often(draw.feet(40), 0.5),
        })
        for n in range(draw.random.randint(1, 3))
    ]  # fmt: skip
    site = {
        "frequency_hz": 50 if metric else 60, "supplies": supplies,
        "services": [_service(draw, n, system) for n in range(1, len(supplies) + 1)],
        "panels": panels, "feeders": feeders, "metals": metals, "electrodes": electrodes,
        "circuits": _circuits(draw, count, [m["id"] for m in metals], metric),
        "last_id": 99, "practice": {"arc_v": draw.of(0, 0, 40), "clearing": draw.of(
            "instantaneous", "five times", "timed", "one ohm")},
    }  # fmt: skip
    plain = loads_dict(site)
    listed = list(branches_of(plain))
    joints = []
    for n in range(draw.random.randint(0, 4)):
        is_open = draw.of(True, False, False)
        how = {"open": "yes"} if is_open else {"ohm": round(draw.random.uniform(0, 2), 2)}
        joints.append({"id": f"j{80 + n}", "on": draw.of(*listed)} | how)
    if joints and draw.of(True, False):
        joints.append(joints[0] | {"id": "j89", "ohm": 0.5})
    return site | {"joints": joints}
