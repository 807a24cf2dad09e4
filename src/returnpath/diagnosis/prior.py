"""How usual each defect is, before anything is read. method 14."""

import math
from collections import defaultdict

import numpy as np

from ..site import Panel
from ..study import SiteStudy
from .defects import OWN_SHARE, Defect, priors


def log_prior(study: SiteStudy, defects: list[Defect], places: list[str]) -> np.ndarray:
    """The share of a kind over its classes, nine tenths on the loops of the places that were read;
    of a class over its sizes."""
    own = own_loop(study, places)
    sizes: dict[str, int] = defaultdict(int)
    classes: dict[tuple[str, bool], set[str]] = defaultdict(set)
    for d in defects:
        sizes[d.key] += 1
        classes[d.kind, d.element in own].add(d.key)
    found = np.empty(len(defects))
    for n, d in enumerate(defects):
        here = d.element in own
        both = bool(classes[d.kind, True]) and bool(classes[d.kind, False])
        part = (OWN_SHARE if here else 1 - OWN_SHARE) if both else 1.0
        share = priors()[d.kind][0] * part / len(classes[d.kind, here]) / sizes[d.key]
        found[n] = math.log(share)
    return found


def own_loop(study: SiteStudy, places: list[str]) -> set[str]:
    """The elements on the way from the places that were read to the source."""
    site = study.assumed.site
    elements = site.elements()
    found = {s.id for s in site.services} | {site.panel.id}
    for place in places:
        element = elements.get(place)
        found.add(place)
        here = getattr(element, "panel", None) or (place if isinstance(element, Panel) else "")
        while here:
            found.add(here)
            feeder = next((f for f in site.feeders if f.to == here), None)
            if feeder is None:
                break
            found.add(feeder.id)
            here = feeder.source
    return found
