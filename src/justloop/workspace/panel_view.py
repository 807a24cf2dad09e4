"""The Panels stage: a panel's face, its legs, what evens them out, where a breaker could go."""

from django.utils.safestring import mark_safe

from returnpath.panels import (
    Face,
    LoadItem,
    dwelling_load,
    even_out,
    face_of,
    fits,
    legs_after,
    legs_of_panel,
)
from returnpath.site import name_of
from returnpath.working import figures

from ..drawing.face import face_scene
from .address import Address
from .fields import fact_href
from .lists import grave_at, levels_by_place
from .solved import SolvedSite

LEG_PX = 165  # the longest bar


def panel_context(solved: SolvedSite, found, address: Address) -> dict:
    """What the stage shows of the chosen panel."""
    site = solved.site
    panel = _chosen(solved, address)
    face = face_of(site, panel)
    levels = levels_by_place(found)
    href = {e.id: address.to(at=e.id) for e in (*site.circuits, *site.feeders)}
    by_space = site.practice.balance == "space"
    # Scene escapes every text it is given.
    drawn = mark_safe(face_scene(face, href, levels, address.at).svg())  # noqa: S308
    return {
        "face": drawn,
        "face_panel": panel,
        "panel_tabs": [
            {"name": p.name or "Panel", "href": address.to(at=p.id, loop=""),
             "current": p.id == panel}
            for p in site.panels
        ],
        "is_counted": face.is_counted,
        "space_count": len(face.spaces),
        "free_count": len(face.free),
        "count_href": fact_href(site, address, f"{panel}.spaces"),
        "unplaced": [
            {"name": u.name, "id": u.id, "href": href[u.id],
             "spaces": fits(face, u)[:6]} for u in face.unplaced
        ],
        "space_rows": _rows(face, href, levels, address.at),
        "free_numbers": face.free,
        "taken_twice": [s.number for s in face.spaces if s.is_taken_twice],
        "legs": _legs(face, by_space),
        "load": _load(solved, panel, address),
        "even": _even(face, by_space),
        "move": _move(face, address, by_space),
        "fed_by": [
            {"name": name_of(f), "href": href[f.id]} for f in site.feeders if f.to == panel
        ],
    }  # fmt: skip


def _rows(face: Face, href: dict, levels: dict, at: str) -> list[dict]:
    """The face as a list, for a narrow window."""
    return [
        {
            "numbers": "–".join(dict.fromkeys((str(u.spaces[0]), str(u.spaces[-1])))),
            "legs": " ".join(f"L{face.leg_of(s)}" for s in u.spaces),
            "name": u.name,
            "rating": f"{u.rating_a:g} A" if u.rating_a else "? A",
            "href": href[u.id],
            "level": grave_at(levels, u.id),
            "current": u.id == at,
        }
        for u in face.units
    ]


def _chosen(solved: SolvedSite, address: Address) -> str:
    """The selected panel, else that of the selected circuit, else the first."""
    site = solved.site
    if address.at in {p.id for p in site.panels}:
        return address.at
    element = site.elements().get(address.at)
    home = getattr(element, "panel", None) or getattr(element, "source", None)
    return home if home in {p.id for p in site.panels} else site.panel.id


def _legs(face: Face, by_space: bool) -> dict:
    legs = legs_of_panel(face, by_space)
    most = max(legs.amps, default=0.0) or 1.0
    unit = "poles" if by_space else "A"
    return {
        "bars": [
            {"name": f"L{n}", "width": round(LEG_PX * a / most), "amps": f"{figures(a)} {unit}"}
            for n, a in enumerate(legs.amps, 1)
        ],
        "neutral": f"{figures(legs.neutral)} {unit}" if legs.neutral > 1e-9 else "",
        "school": "each pole counts as one" if by_space else "by the loads that are known",
        "unknown": legs.unknown,
    }


CHARGER_A = 48.0  # asked for most: a vehicle charger


def _load(solved: SolvedSite, panel: str, address: Address) -> dict | None:
    """The dwelling's load at its first panel, and whether a charger fits beside it."""
    site = solved.site
    if panel != site.panel.id:
        return None
    found = dwelling_load(site)
    if found is None:
        home = next((b for b in site.buildings), None)
        if home is None:
            return None
        return {"ask": fact_href(site, address, f"{home.id}.floor_area_sqft")}
    with_one = dwelling_load(site, add=LoadItem("charger", CHARGER_A * 240, "vehicle", True))
    rating = found.rating_a
    return {
        "amps": f"{found.amps:.0f}",
        "of": f"{rating:g}" if rating else "",
        "room": f"{found.room_a:.0f}" if found.room_a and found.room_a > 0 else "",
        "charger": f"{with_one.amps:.0f}" if with_one and rating else "",
        "fits": with_one.fits if with_one else None,
        "unknown": found.unknown,
        "steps": found.steps,
    }


def _even(face: Face, by_space: bool) -> dict | None:
    found = even_out(face, by_space)
    if found is None or not found.moves:
        return None
    unit = "" if by_space else " A"
    return {
        "moves": [
            {"name": m.unit.name, "id": m.unit.id, "from": m.unit.first, "to": m.to}
            for m in found.moves
        ],
        "before": " / ".join(figures(a) for a in found.before.amps) + unit,
        "after": " / ".join(figures(a) for a in found.after) + unit,
        "key": ",".join(f"{m.unit.id}:{m.to}" for m in found.moves),
        "is_proven": found.is_proven,
    }


def _move(face: Face, address: Address, by_space: bool) -> dict | None:
    """Where the chosen breaker could stand instead, with what that does to the legs."""
    unit = next((u for u in (*face.units, *face.unplaced) if u.id == address.at), None)
    if unit is None:
        return None
    spaces = fits(face, unit)
    after, before = legs_after(face, unit, by_space), legs_of_panel(face, by_space)
    return {
        "before": " / ".join(figures(a) for a in before.amps),
        "after": " / ".join(figures(a) for a in after.amps) if after else "",
        "neutral": figures(after.neutral) if after else "",
        "other": 3 - face.leg_of(unit.first) if after else 0,
        "name": unit.name,
        "id": unit.id,
        "from": unit.first,
        "spaces": [{"to": n, "leg": face.leg_of(n)} for n in spaces],
    }
