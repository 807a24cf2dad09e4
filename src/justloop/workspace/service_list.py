"""The service's own list: from the transformer to the main bond, and what is joined there."""

from dataclasses import dataclass

from returnpath import tables
from returnpath.site import field_info, name_of, show_value
from returnpath.site.lengths import run_length
from returnpath.site.speech import rule_set_of, speaks_of
from returnpath.vocabulary import FactPath

from ..address import Address
from ..solved import SolvedSite
from .fields import fact_href
from .lists import grave_at, levels_by_place


@dataclass
class ServiceRow:
    """One thing of the service: what it is, what is said of it, where it is changed."""

    what: str
    name: str
    says: str
    href: str
    level: str = ""
    is_known: bool = True
    is_current: bool = False


class ServiceList:
    """Makes the rows of one site."""

    def __init__(self, solved: SolvedSite, found, address: Address):
        self.solved, self.address = solved, address
        self.levels = levels_by_place(found)

    def row(self, what: str, element, says: str, fact: str = "", name: str = "") -> ServiceRow:
        """A row that leads to the element's facts, or to one of them."""
        return ServiceRow(
            what, name or name_of(element), says or "not known yet",
            fact_href(self.solved.site, self.address, FactPath.of(element.id, fact)) if fact
            else self.address.to(at=element.id, tab="facts"),
            "" if fact else grave_at(self.levels, element.id),
            bool(says), element.id == self.address.at and not fact,
        )  # fmt: skip

    def rows(self) -> list[ServiceRow]:
        """From the source to the bond, then what is joined there."""
        filled, site = self.solved.study.assumed.site, self.solved.site
        served = {s.to for s in site.services}
        found = []
        for supply in filled.supplies:
            kva = f"{supply.kva:g} kVA" if supply.kva else ""
            z = f"{supply.percent_z:g} %Z" if supply.percent_z and supply.kva else ""
            ze = f"Ze {supply.ze_ohm:g} Ω" if supply.ze_ohm is not None else ""
            said = (supply.earthing, ze, kva, z)
            found.append(self.row("Supply", supply, ", ".join(filter(None, said))))
        for run in filled.services:
            size = f"{tables.size_name(run.line_size)} hot" if run.line_size else ""
            neutral = f"neutral {tables.size_name(run.neutral_size)}" if run.neutral_size else ""
            feet = run_length(run) if run.length_ft else ""
            found.append(self.row("Run", run, ", ".join(filter(None, (size, neutral, feet)))))
        for panel in filled.panels:
            if panel.id in served or panel.kind in ("meter", "disconnect", "emergency disconnect"):
                found += self._disconnect(panel)
        found += self._joined(site.panel)
        return found

    def _disconnect(self, panel) -> list[ServiceRow]:
        rating = f"{panel.main.rating_a:g} A main" if panel.main.rating_a else ""
        what = "Disconnect" if panel.kind in (None, "service", "sub") else panel.kind.capitalize()
        bond = "" if panel.bond is None else f"bond {panel.bond}"
        kind = f"by {panel.bond_kind}" if panel.bond == "in" and panel.bond_kind else ""
        if panel.bond == "in" and panel.bond_size and panel.bond_kind == "wire":
            kind += f" {tables.size_name(panel.bond_size)}"
        return [
            self.row(what, panel, rating),
            self.row("Main bond", panel, " ".join(filter(None, (bond, kind))), "bond"),
        ]

    def _joined(self, panel) -> list[ServiceRow]:
        filled, site = self.solved.study.assumed.site, self.solved.site
        rows = []
        for electrode in filled.electrodes:
            if electrode.panel in (None, panel.id):
                size = tables.size_name(electrode.gec_size) if electrode.gec_size else ""
                lands = f"to the {electrode.lands}" if electrode.lands else ""
                rows.append(self.row("Electrode", electrode, " ".join(filter(None, (
                    f"{size} conductor" if size else "", lands)))))  # fmt: skip
        for metal in site.metals:
            if metal.kind in ("water", "gas", "structure"):
                says = {"yes": "bonded", "no": "not bonded"}.get(metal.bonded or "", "")
                if metal.bonded == "yes" and metal.bond_size:
                    says += f" {tables.size_name(metal.bond_size)}"
                rows.append(self.row("Pipe" if metal.kind != "structure" else "Steel", metal, says))
        for fact in ("intersystem", "surge_protector"):
            value = getattr(site.panel, fact)
            info = field_info(site.panel, fact)
            if not speaks_of(info, rule_set_of(site)):
                continue
            rows.append(self.row(info.label.capitalize(), site.panel, show_value(info, value)
                                 if value else "", fact, name=" "))  # fmt: skip
        return rows
