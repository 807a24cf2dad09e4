"""What no reading that can be taken would tell from what. method 14."""

from collections.abc import Sequence

import numpy as np

from ..readings import reading_kinds
from ..site import Circuit, Panel
from .defects import Defect
from .doubt import Unknowns
from .nets import Nets
from .probes import Probe, probe_of
from .propose import COST, may_be_read
from .shift import Shift

MERGE_D2 = 4.0
MODEL_SD, LIVE_SD, ERROR_SHARE = 0.015, 0.3, 0.6


class Apart:
    """The readings that bear on a few defects, and how far apart those are in all of them."""

    def __init__(self, nets: Nets, unknowns: Unknowns):
        self.nets, self.unknowns = nets, unknowns

    def alike(self, defects: Sequence[Defect]) -> dict[str, tuple[str, ...]]:
        """key → the keys of the others that every reading together leaves within d² of 4."""
        far = self.distances(defects)
        return {
            d.key: tuple(o.key for m, o in enumerate(defects) if m != n and far[n, m] < MERGE_D2)
            for n, d in enumerate(defects)
        }

    def distances(self, defects: Sequence[Defect]) -> np.ndarray:
        """d² between each two, over all readings at their places, their panels and one neighbour;
        what the place does not know about itself is not counted against them."""
        found = np.zeros((len(defects), len(defects)))
        for net, probes in self._probes(defects).items():
            shift = Shift(dict(zip(("loops", "loaded", "dead"), self.nets.each(),
                                   strict=True))[net], defects)  # fmt: skip
            for kind in dict.fromkeys(p.kind for p in probes):
                some = [p for p in probes if p.kind == kind]
                values = shift.columns(some)
                error = reading_kinds()[kind]
                model = LIVE_SD if some[0].live else MODEL_SD
                own = (ERROR_SHARE * (error.error_share * np.abs(values) + error.error_abs)) ** 2
                own += (model * values) ** 2
                d2 = (values[:, None] - values[None]) ** 2 / np.maximum(own[:, None], own[None])
                found += d2.sum(axis=2)
        return found

    def _probes(self, defects: Sequence[Defect]) -> dict[str, list[Probe]]:
        site = self.nets.study.assumed.site
        elements = site.elements()
        places = dict.fromkeys(d.element for d in defects if d.element)
        for place in list(places):
            element = elements.get(place)
            panel = element.panel if isinstance(element, Circuit) else getattr(element, "to", None)
            panel = place if isinstance(element, Panel) else panel
            if isinstance(panel, str):
                places.setdefault(panel)
                near = [c.id for c in site.circuits if c.panel == panel and c.id not in places]
                places |= dict.fromkeys(near[:1])
        places.setdefault(site.panel.id)
        found: dict[str, list[Probe]] = {}
        for place in places:
            element = elements.get(place)
            for kind in COST if element is not None else ():
                if element is None or not may_be_read(kind, element):
                    continue
                probe = probe_of(self.nets, kind, place)
                if probe is not None:
                    found.setdefault(probe.net, []).append(probe)
        return found
