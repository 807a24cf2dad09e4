"""A second computation: the network of a filled site built again from its facts alone, and solved
by plain inversion. It shares nothing with ``returnpath.network`` and ``returnpath.study``: ohms
from the tables' own rows, nodes and branches by its own reading of the job file's words.

    net = Reference(filled, "u1", hot=True, earth_ohm=25)
    net.fault("c4.L1", "c4.case")     open volts, Z_th, volts of every node, amperes of every branch
"""

import cmath
import csv
import math
from functools import cache
from pathlib import Path

import numpy as np

TABLES = Path(__file__).resolve().parents[2] / "src" / "returnpath" / "tables"
LINES = {"120/240 split": 2, "120/208 wye": 3, "120/240 high-leg": 3, "230": 1, "400/230": 3}


@cache
def table(name: str) -> list[dict]:
    with (TABLES / f"{name}.csv").open(encoding="utf-8") as file:
        return list(csv.DictReader(file))


@cache
def ohm_per_ft(size: str, metal: str, method: str, hot: bool, hz: float, solid) -> complex:
    """Ohms a foot of one conductor (method 1)."""
    if size.endswith("mm2"):
        row = next(r for r in table("conductors_metric") if f"{r['size_mm2']}mm2" == size)
        short = "cu" if metal == "copper" else "al"
        r = float(row[f"r20_{short}_ohm_per_km"]) * (1 + 0.00393 * ((70 if hot else 20) - 20))
        return complex(r, float(row["x_ohm_per_km"]) * hz / 50) * 0.3048 / 1000
    row = next(r for r in table("conductors") if r["size"] == size)
    how = next(r for r in table("methods") if r["method"] == method)
    short = "cu" if metal == "copper" else "al"
    is_solid = metal == "copper" and row["rdc_cu_solid"] and (
        how["small_copper_solid"] == "yes" if solid is None else solid == "yes"
    ) and how["small_copper_solid"] == "yes"  # fmt: skip
    r = float(row[f"rdc_{short}_{'solid' if is_solid else 'stranded'}"])
    if float(row["area_cmil"]) >= 105600 and row[f"rac_{short}_{how['ac_column']}"]:
        r = max(r, float(row[f"rac_{short}_{how['ac_column']}"]))
    r *= 1 + (0.00323 if metal == "copper" else 0.00330) * ((75 if hot else 25) - 75)
    x = None
    for each in table("conductors"):
        x = each["xl_steel" if how["surroundings"] == "steel" else "xl_pvc_or_al"] or x
        if each["size"] == size:
            break
    return complex(r, float(x) * hz / 60) / 1000


def raceway_ohm(kind: str, trade: str, feet: float) -> complex:
    row = next(
        r for r in table("raceway_steel") if r["type"] == kind and r["trade_size_in"] == trade
    )
    r, x = row["r_return_est_ohm_per_kft"], row["x_return_est_ohm_per_kft"]
    return complex(float(r), float(x)) * feet / 1000


class Reference:
    """One state of one supply, as a bus impedance matrix."""

    def __init__(self, site, supply: str, hot: bool, earth_ohm: float, source, legs):
        """``source``: (Z0, Z1) of a centre tap, else (Z0, Z1) of the phases; ``legs`` the panel
        lines of each circuit's poles."""
        self.site, self.hot, self.hz = site, hot, float(site.frequency_hz)
        self.nodes: dict[str, int] = {}
        self.branches: dict[str, tuple[str, str, complex]] = {}
        self.stamps: list[tuple[str, str, complex]] = []
        self.sources: list = []
        self.system = next(s.system for s in site.supplies if s.id == supply)
        self.lines = LINES[str(self.system)]
        self.owner = self._groups("shares_with")
        self.ground_owner = self._groups("shares_egc_with")
        self.by_id = {c.id: c for c in site.circuits}
        for unit in site.supplies:
            self._supply(unit, unit.id == supply, earth_ohm, source)
        for run in site.services:
            self._service(run, run.supply == supply)
        for panel in site.panels:
            self._panel(panel)
        for feeder in site.feeders:
            self._feeder(feeder)
        for electrode in site.electrodes:
            self._electrode(electrode)
        for metal in site.metals:
            self._metal(metal)
        for circuit in site.circuits:
            self._circuit(circuit, legs[circuit.id])
        self._solve()

    def _groups(self, fact: str) -> dict[str, str]:
        """circuit → the first of those that share with it."""
        order = [c.id for c in self.site.circuits]
        near = {c: {c} for c in order}
        has_none = {c.id for c in self.site.circuits if c.neutral == "no" or c.line_size is None}
        for c in self.site.circuits:
            other = getattr(c, fact)
            if fact == "shares_with" and has_none & {c.id, other}:
                continue
            if other in near:
                joined = near[c.id] | near[other]
                for one in joined:
                    near[one] = joined
        return {c: min(near[c], key=order.index) for c in order}

    def node(self, name: str) -> int:
        return self.nodes.setdefault(name, len(self.nodes))

    def add(self, name: str, a: str, b: str, ohm: complex, spoken: tuple[str, ...] = ()) -> None:
        """A branch with every joint that is on it, under any of the names it is ``spoken`` of."""
        for end in (a, b):
            if end != "0":
                self.node(end)
        for joint in self.site.joints:
            if joint.on in (name, *spoken):
                if joint.open == "yes":
                    return
                ohm += joint.ohm or 0
        self.branches[name] = (a, b, ohm if abs(ohm) >= 1e-6 else 1e-6)

    def _supply(self, unit, drives: bool, earth_ohm: float, source) -> None:
        u = unit.id
        self.node(f"{u}.N"), self.node(f"{u}.case")
        if drives:
            self.sources.append((u, source))
        if unit.kind == "utility":
            ohm = earth_ohm if unit.earth_ohm is None else unit.earth_ohm
            self.add(f"{u}.earth", f"{u}.N", "0", ohm)
            self.add(f"{u}.bond", f"{u}.N", f"{u}.case", 1e-6)
            return
        if unit.earth_ohm is not None:
            self.add(f"{u}.earth", f"{u}.case", "0", unit.earth_ohm)
        if unit.bond == "in":
            self.add(f"{u}.bond", f"{u}.N", f"{u}.case", 1e-6)

    def _service(self, run, drives: bool) -> None:
        s, u, p = run.id, run.supply, run.to
        if run.line_size is None:
            return
        method = "triplex" if run.run == "overhead" else "lateral"

        def ohm(size, sets):
            per = ohm_per_ft(size, run.line_material, method, self.hot, self.hz, None) / sets
            if run.spacing_in is None:
                return per * run.length_ft
            area = next(float(r["area_cmil"]) for r in table("conductors") if r["size"] == size)
            gmr = 0.78 * math.sqrt(area) / 2000
            x = 0.0230 * self.hz / 60 * math.log(max(run.spacing_in / gmr, 1.0)) / 1000
            return complex(per.real, x) * run.length_ft

        if drives:
            for n in range(1, self.lines + 1):
                self.add(f"{s}.line{n}", f"{u}.L{n}", f"{p}.lug{n}", ohm(run.line_size, run.sets))
        unit = next(x for x in self.site.supplies if x.id == u)
        if drives or unit.neutral_switched != "yes":
            self.add(f"{s}.neutral", f"{p}.N", f"{u}.N", ohm(run.neutral_size, run.sets))
        if run.egc_size is not None:
            small = not run.egc_size.endswith("mm2") and run.egc_size == "14"
            metal = "copper" if small else run.line_material
            per = ohm_per_ft(run.egc_size, metal, "triplex", self.hot, self.hz, None)
            self.add(f"{s}.egc", f"{p}.ground", f"{u}.case", per * run.length_ft)

    def _panel(self, panel) -> None:
        p = panel.id
        for n in range(1, self.lines + 1):
            self.add(f"{p}.main{n}", f"{p}.lug{n}", f"{p}.L{n}", 1e-6)
        for part in ("N", "ground", "case"):
            self.node(f"{p}.{part}")
        on_case = panel.ground_bar == "on case"
        if on_case or (panel.ground_bar == "none" and panel.grounds_on_neutral == "no"):
            self.add(f"{p}.strap", f"{p}.ground", f"{p}.case", 1e-6)
        if panel.grounds_on_neutral == "yes":
            self.add(f"{p}.tie", f"{p}.ground", f"{p}.N", 1e-6)
        if panel.bond == "in":
            self.add(f"{p}.bond", f"{p}.case", f"{p}.N", panel.bond_ohm or 1e-6)

    def run_ohm(self, run, size, metal, sets=1) -> complex:
        solid = getattr(run, "solid", None)
        return ohm_per_ft(size, metal, run.method, self.hot, self.hz, solid) * run.length_ft / sets

    def ring(self, run) -> dict[str, float]:
        """The shares of the whole ohms that a ring's line, neutral and protective conductor have:
        every point of it walked, the worst kept; 1 of what is no ring (method 15)."""
        if getattr(run, "ring", None) != "yes":
            return {"line": 1.0, "neutral": 1.0, "egc": 1.0}
        rows = {f"{r['size_mm2']}mm2": r for r in table("conductors_metric")}
        r1, r2 = (float(rows[s]["r20_cu_ohm_per_km"]) for s in (run.line_size, run.egc_size))
        points = np.linspace(0, 1, 200_001)
        whole = points * (1 - points)
        line = points if run.ring_open == "line" else whole
        neutral = points if run.ring_open == "neutral" else whole
        egc = points if run.ring_open == "protective conductor" else whole
        worst = int(np.argmax(r1 * line + r2 * egc))
        found = {"line": float(line[worst]), "egc": float(egc[worst])}
        return found | {"neutral": float((line + neutral).max()) - found["line"]}

    def armour_ohm(self, run) -> complex:
        cores = run.poles + (run.neutral == "yes") + (run.egc == "both")
        size = float(run.line_size.removesuffix("mm2"))
        areas = [
            float(r["armour_mm2"])
            for r in table("swa_armour")
            if int(r["cores"]) == min(max(cores, 2), 3) and float(r["line_mm2"]) <= size
        ]
        return complex(0.17 / max(areas) * (1 + 0.0045 * 40 * self.hot) * run.length_ft * 0.3048)

    def ways(self, run) -> dict[str, complex]:
        """The ways home of a run: part → ohms."""
        if run.return_ohm is not None and (run.egc != "none" or getattr(run, "relied_on", None)):
            return {"egc" if run.egc in ("wire", "both") else "raceway": run.return_ohm}
        found = {}
        if run.egc in ("wire", "both") and run.egc_size is not None:
            per = ohm_per_ft(run.egc_size, run.egc_material, run.method, self.hot, self.hz, None)
            spur = getattr(run, "spur_ft", None) or 0
            found["egc"] = per * (run.length_ft * self.ring(run)["egc"] + spur)
        if run.egc in ("raceway", "both") and run.method == "SWA":
            found["raceway"] = self.armour_ohm(run)
        elif run.egc in ("raceway", "both"):
            kind = next(r["steel_return"] for r in table("methods") if r["method"] == run.method)
            found["raceway"] = raceway_ohm(kind, run.raceway_size, run.length_ft)
        return found

    def _feeder(self, feeder) -> None:
        f, a, b = feeder.id, feeder.source, feeder.to
        if feeder.line_size is None:
            return
        sets = feeder.sets or 1
        for n in range(1, min(feeder.poles, self.lines) + 1):
            ohm = self.run_ohm(feeder, feeder.line_size, feeder.line_material, sets)
            self.add(f"{f}.line{n}", f"{a}.L{n}", f"{b}.lug{n}", ohm)
        if feeder.neutral == "yes":
            size = feeder.neutral_size or feeder.line_size
            ohm = self.run_ohm(feeder, size, feeder.line_material, sets)
            self.add(f"{f}.neutral", f"{b}.N", f"{a}.N", ohm)
        for part, ohm in self.ways(feeder).items():
            end = "ground" if part == "egc" else "case"
            self.add(f"{f}.{part}", f"{b}.{end}", f"{a}.{end}", ohm)

    def _electrode(self, e) -> None:
        if e.ohm is None or e.joined == "no":
            return
        ohm = 1e-6
        if e.gec_length_ft and e.gec_size:
            per = ohm_per_ft(e.gec_size, e.gec_material, "SE", self.hot, self.hz, None)
            ohm = per * e.gec_length_ft
        bar = "N" if e.lands == "neutral bar" else "ground"
        self.add(f"{e.id}.gec", f"{e.panel}.{bar}", f"{e.id}.top", ohm)
        self.add(f"{e.id}.soil", f"{e.id}.top", "0", e.ohm)

    def _metal(self, m) -> None:
        self.node(f"{m.id}.metal")
        if m.material in ("plastic", "none"):
            return
        if m.bonded == "yes" and m.panel and m.past_repair != "yes":
            self.add(f"{m.id}.bond", f"{m.id}.metal", f"{m.panel}.ground", 1e-6)
        if m.earth_ohm is not None:
            self.add(f"{m.id}.earth", f"{m.id}.metal", "0", m.earth_ohm)
        first = next((u.id for u in self.site.supplies if u.kind == "utility"), None)
        if m.shared_main == "yes" and first:
            self.add(f"{m.id}.main", f"{m.id}.metal", f"{first}.N", m.main_ohm)
        if m.also_joins:
            self.add(f"{m.id}.join", f"{m.id}.metal", f"{m.also_joins}.ground", m.join_ohm)

    def partners(self, circuit, owners: dict[str, str], part: str) -> tuple[str, ...]:
        """The names of one shared conductor: a joint may be told of any partner."""
        first = owners[circuit.id]
        return tuple(f"{c}.{part}" for c, o in owners.items() if o == first)

    def _circuit(self, circuit, legs) -> None:
        c, p = circuit.id, circuit.panel
        if circuit.line_size is None:
            return
        whole = self.run_ohm(circuit, circuit.line_size, circuit.line_material)
        shares, spur = self.ring(circuit), (circuit.spur_ft or 0) / (circuit.length_ft or 1)
        line, neutral = (whole * (shares[part] + spur) for part in ("line", "neutral"))
        for n, leg in enumerate(legs, 1):
            self.add(f"{c}.line{n}", f"{p}.L{leg}", f"{c}.L{n}", line)
        self.node(f"{c}.case")
        own = self.owner[c] == c
        if circuit.neutral == "yes" and own:
            spoken = self.partners(circuit, self.owner, "neutral")
            self.add(f"{c}.neutral", f"{c}.N", f"{p}.N", neutral, spoken)
        for part, ohm in self.ways(circuit).items():
            first = self.by_id[self.ground_owner[c]]
            if part == "egc" and first is not circuit and first.egc == "none":
                continue
            spoken = self.partners(circuit, self.ground_owner, part)
            end = "ground" if part == "egc" else "case"
            self.add(f"{c}.{part}", f"{c}.case", f"{p}.{end}", ohm, spoken)
        if circuit.outlet_bond == "yes" and circuit.neutral == "yes":
            self.add(f"{c}.bond", f"{self.owner[c]}.N", f"{c}.case", 1e-6)
        for metal in circuit.joined_to:
            self.add(f"{c}.to_{metal}", f"{c}.case", f"{metal}.metal", 1e-6)

    def _solve(self) -> None:
        for a, b, ohm in self.branches.values():
            self.stamps.append((a, b, 1 / ohm))
        injected = []
        for unit, (z0, z1) in self.sources:
            injected += self._source(unit, z0, z1)
        size = len(self.nodes)
        y = np.eye(size, dtype=complex) * 1e-9
        currents = np.zeros(size, dtype=complex)
        for a, b, siemens in self.stamps:
            _stamp(y, self.nodes.get(a), self.nodes.get(b), siemens)
        for ports, volts, ohms in injected:
            admittance = np.linalg.inv(np.array(ohms, dtype=complex))
            drive = admittance @ np.array(volts, dtype=complex)
            ends = [(self.nodes[p], self.nodes[n]) for p, n in ports]
            for k, (pk, nk) in enumerate(ends):
                currents[pk] += drive[k]
                currents[nk] -= drive[k]
                for j, (pj, nj) in enumerate(ends):
                    y[pk, pj] += admittance[k, j]
                    y[nk, nj] += admittance[k, j]
                    y[pk, nj] -= admittance[k, j]
                    y[nk, pj] -= admittance[k, j]
        self.z = np.linalg.inv(y)
        self.before = self.z @ currents

    def _source(self, u: str, z0: complex, z1: complex) -> list:
        """[(ports, volts, ohms)] of the windings."""
        line = [f"{u}.L{n}" for n in (1, 2, 3)]
        for name in (*line[: self.lines], f"{u}.N"):
            self.node(name)
        n, system = f"{u}.N", str(self.system)
        if system in ("120/240 split", "120/240 high-leg"):
            second = line[2] if system == "120/240 high-leg" else line[1]
            halves = [(line[0], n), (n, second)]
            found = [(halves, [120, 120], [[z0 + z1, z0], [z0, z0 + z1]])]
            if system == "120/240 high-leg":  # the middle bar, B, is the high one
                third = 240 * cmath.exp(1j * math.pi / 3)
                found.append(([(line[1], second)], [third], [[4 * z0 + 2 * z1]]))
            return found
        volts = 120 if system == "120/208 wye" else 230
        if system == "230":
            return [([(line[0], n)], [volts], [[(2 * z1 + z0) / 3]])]
        own, common = z1 + (z0 - z1) / 3, (z0 - z1) / 3
        ohms = [[own if i == j else common for j in range(3)] for i in range(3)]
        turns = [volts * cmath.exp(-2j * math.pi * k / 3) for k in range(3)]
        return [([(end, n) for end in line], turns, ohms)]

    def fault(self, a: str, b: str) -> dict:
        """A bolted fault: open volts, Z_th, and for each ampere the shares of every branch."""
        i, j = self.nodes[a], self.nodes[b]
        column = self.z[:, i] - self.z[:, j]
        ohm = column[i] - column[j]
        volts = self.before[i] - self.before[j]
        after = self.before - volts / ohm * column
        shares = {}
        for name, (p, q, branch) in self.branches.items():
            vp = column[self.nodes[p]] if p != "0" else 0
            vq = column[self.nodes[q]] if q != "0" else 0
            shares[name] = -(vp - vq) / branch
        return {"volts": volts, "ohm": ohm, "after": after, "shares": shares}

    def through(self, element, fault, shares) -> complex:
        """The sum of a fault's currents in the lines and the neutral of a circuit or feeder, or
        through a panel's main into its bars: what a residual-current device there sees."""

        def flow(name: str) -> complex:
            return shares.get(name, 0)

        parts = "main" if element in self.site.panels else "line"
        lines = sum(flow(f"{element.id}.{parts}{n}") for n in (1, 2, 3))
        if parts == "line":
            return lines - flow(f"{self.owner.get(element.id, element.id)}.neutral")
        back = sum(flow(f"{f.id}.neutral") for f in self.site.feeders if f.source == element.id)
        back += sum(flow(f"{c.id}.neutral") for c in self.site.circuits if c.panel == element.id)
        at_bar = fault.kind.value == "line-to-neutral" and fault.place == element.id
        return lines - back - (1 if at_bar and fault.side.value != "line side" else 0)

    def person_ma(self, a: str, b: str, ohm: float) -> float:
        """Milliamperes through a person from ``b`` to earth, the fault a bolted branch of the
        matrix: solved anew."""
        y = np.linalg.inv(self.z)
        currents = y @ self.before
        i, j = self.nodes[a], self.nodes[b]
        _stamp(y, i, j, 1e6)
        _stamp(y, j, None, 1 / ohm)
        volts = np.linalg.solve(y, currents)
        return abs(volts[j]) / ohm * 1000


def _stamp(y, a, b, siemens) -> None:
    if a is not None:
        y[a, a] += siemens
    if b is not None:
        y[b, b] += siemens
    if a is not None and b is not None:
        y[a, b] -= siemens
        y[b, a] -= siemens
