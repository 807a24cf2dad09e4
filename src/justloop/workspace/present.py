"""What the workspace shows, as plain values for its templates: no sums here."""

from dataclasses import replace

from django.utils.safestring import mark_safe

from returnpath.rules import summary, whatifs
from returnpath.site import Circuit, Practice, name_of

from ..drawing.looks import LOOKS, look_of
from ..drawing.map import MapView, map_scene, worst_of
from . import findings_view, lists, look_view, prove, shell, side_by_side
from .address import FIRST, MAP_STAGES, Spot, address
from .fields import Typed, bench_fields
from .loop_view import loop_context
from .solved import SolvedSite, standing

__all__ = ["address", "map_of", "workspace"]


def settled(solved: SolvedSite, spot: Spot) -> Spot:
    """The spot with what is not there replaced by the usual: the worst loop, else the panel."""
    site, study = solved.site, solved.study
    at = spot.at
    if at not in site.elements():
        at = prove.worst_place(study) or site.panel.id
    loop = spot.loop
    if side_by_side.loop_at(solved, at) is not None:
        loop = at
    elif side_by_side.loop_at(solved, loop) is None:
        loop = next(iter(study.loops), "")
    return replace(spot, at=at, loop=loop)


def workspace(
    job, revision, solved: SolvedSite, spot: Spot, typed: Typed | None = None, before=None
) -> dict:
    """Everything the workspace's templates need; ``before`` the site without the trial."""
    typed = typed or Typed()
    spot = settled(solved, spot)
    site = solved.site
    loop = side_by_side.loop_at(solved, spot.loop)
    found = standing(solved, revision.aside)
    trying = before is not None
    context = {
        "job": job,
        "revision": revision,
        "site": site,
        "spot": spot,
        "at": spot.at,
        "loop_id": spot.loop,
        "loop": loop,
        "rail": shell.rail(solved, found, spot),
        "next": shell.next_line(solved, found, spot),
        "practice_words": shell.practice_words(site),
        "practice_href": spot.to(at=site.practice.id),
        "line_error": typed.errors.get("line", ""),
        "line_text": typed.text.get("line", ""),
        "list_error": typed.errors.get("list", ""),
        "list_text": typed.text.get("list", ""),
        "is_map": spot.stage in MAP_STAGES,
        "stage_template": f"workspace/stage_{spot.stage}.html",
        "edit_error": typed.errors.get("", ""),
    }
    context |= _bench(solved, spot, typed, found, trying)
    if loop is not None:
        context |= loop_context(solved, loop, spot, typed)
    context |= _stage(job, revision, solved, spot, found, before)
    second = side_by_side.loop_at(before or solved, spot.loop if before else spot.beside)
    if before is not None:
        context["trial"] = side_by_side.moved(before, solved)
        context["pair"] = side_by_side.side_by_side("before", second, "tried", loop)
    elif second is not None and loop is not None and spot.beside != spot.loop:
        context["pair"] = side_by_side.side_by_side(
            loop.place_name, loop, second.place_name, second
        )
        context["pair_close"] = spot.to(beside="")
    return context


def _bench(solved: SolvedSite, spot: Spot, typed: Typed, found, trying: bool) -> dict:
    element = solved.site.elements()[spot.at]
    on_map = spot.stage if spot.stage in MAP_STAGES else FIRST
    shown, more = bench_fields(solved, spot.at, typed, bool(spot.more))
    return {
        "element_name": name_of(element),
        "element_kind": type(element).__name__.lower(),
        "is_circuit": isinstance(element, Circuit),
        "is_practice": isinstance(element, Practice),
        "can_remove": not isinstance(element, Practice),
        "fields": shown,
        "more_fields": more,
        "more_href": spot.to(more="" if spot.more else "1"),
        "places": lists.places(solved, spot),
        "findings": findings_view.at_place(solved, found, spot, trying),
        "whatifs": whatifs(solved.site, spot.at, spot.loop),
        "touch_href": spot.to(look="touch", stage=on_map),
        "map_href": "" if spot.stage in MAP_STAGES or spot.map else spot.to(stage=on_map),
        "others": [
            {"id": place, "name": f.place_name}
            for place, f in (*solved.study.loops.items(), *solved.study.enclosures.items())
            if place != spot.loop
        ],
    }


def _stage(job, revision, solved: SolvedSite, spot: Spot, found, before) -> dict:
    """Only what the visible stage shows."""
    if spot.stage == "prove":
        context = {"table": prove.table(solved, spot), "questions": prove.questions(solved)}
        if spot.map:
            context |= {"map": map_of(solved, spot, before, found), "map_close": spot.to(map="")}
        return context
    if spot.stage == "fix":
        trying = before is not None
        return {"fixes": findings_view.fix_list(solved, revision.aside, spot, trying)}
    loop = side_by_side.loop_at(solved, spot.loop)
    panel = solved.site.panel.id
    if spot.at in {p.id for p in solved.site.panels}:
        panel = spot.at
    elif loop is not None and loop.circuit is not None:
        panel = loop.circuit.panel
    look = look_of(spot.look, solved.study, loop)
    context = {
        "map": map_of(solved, spot, before, found),
        "looks": [
            {"key": key, "label": label, "href": spot.to(look=key), "current": key == spot.look}
            for key, label in LOOKS.items()
        ],
        "panel_id": panel,
        "panels": lists.panels(solved, spot, panel),
        "circuits": lists.circuits(solved, found, spot, panel),
        "map_words": look.title,
        "look_rows": [
            {**row, "href": spot.to(at=row["id"])} for row in look_view.rows(solved, look)
        ],
    }
    context["tally"] = shell.tally(solved, spot)
    if spot.stage == "service":
        context["sizes"] = lists.sizes(solved, spot)
    else:
        context["parts"] = lists.parts(solved, found, spot)
        context["summary"] = summary(solved.study, found) if spot.stage == "survey" else ""
    return context


def map_of(solved: SolvedSite, spot: Spot, before: SolvedSite | None, found=()) -> str:
    """The map as SVG for the screen."""
    loop = side_by_side.loop_at(solved, spot.loop)
    href = {e: spot.to(at=e) for e in solved.site.elements()}
    href["prove"] = spot.to(stage="prove")
    view = MapView(
        solved.study,
        loop,
        href,
        at=spot.at,
        look=spot.look,
        worst=worst_of(found, solved.site),
        before=before.study if before else None,
    )
    return mark_safe(map_scene(view).svg())  # noqa: S308 - Scene escapes every text
