"""What the workspace shows, as plain values for its templates: no sums here."""

from dataclasses import dataclass, replace

from django.utils.safestring import mark_safe

from returnpath.rules import LEVELS, summary, whatifs
from returnpath.site import (
    Circuit,
    Element,
    Practice,
    first_example,
    line_examples,
    name_of,
    read_place,
)
from returnpath.site.speech import rule_set_of

from ..address import FIRST, MAP_STAGES, STAGES, Address, job_address
from ..drawing.looks import LOOKS, look_of
from ..drawing.map import MapView, map_scene, worst_of
from ..log.views import kept
from ..solved import SolvedSite, standing
from . import findings_view, lists, look_view, prove, shell, side_by_side, tabs
from .array_view import array_page
from .earth_view import earth_page
from .fields import Typed, bench_fields
from .ladder_view import ladder_page
from .log_view import first_open, log_page
from .loop_view import loop_context
from .outline import Outline
from .page import WorkspacePage
from .panel_view import panel_context
from .plan_view import next_of_plan, plan_page
from .service_list import ServiceList
from .sign_view import sign_page

__all__ = ["job_address", "map_of", "workspace"]


@dataclass(frozen=True)
class LookLink:
    """A look of the map."""

    key: str
    label: str
    href: str
    current: bool


@dataclass(frozen=True)
class OtherPlace:
    """A place to lay beside the chosen one."""

    id: str
    name: str


def settled(solved: SolvedSite, address: Address) -> Address:
    """The address with what is not there replaced by the usual: the worst loop, else the panel."""
    site, study = solved.site, solved.study
    at = address.at
    if at not in site.elements():
        at = _first_of(solved, address.stage) or prove.worst_place(study) or site.panel.id
    loop = address.loop
    if side_by_side.loop_at(solved, at) is not None:
        loop = at
    elif side_by_side.loop_at(solved, loop) is None:
        loop = next(iter(study.loops), "")
    return replace(address, at=at, loop=loop)


def _first_of(solved: SolvedSite, stage: str) -> str:
    """What a stage about one kind of thing chooses first: the worst found, else the first."""
    site = solved.site
    listed: tuple[Element, ...] = {
        "earth": site.electrodes, "array": site.arrays,
    }.get(stage, ())  # fmt: skip
    ids = [e.id for e in listed]
    grave = [f.place for f in solved.findings if f.place in ids]
    return next(iter(grave or ids), "")


def workspace(
    job, revision, solved: SolvedSite, address: Address, typed: Typed | None = None, before=None,
    user=None,
) -> WorkspacePage:  # fmt: skip
    """Everything the workspace's templates need; ``before`` the site without the trial, ``user``
    who looks."""
    typed = typed or Typed()
    if address.stage == "readings" and not address.at:
        address = replace(address, at=first_open(job, solved))
    address = settled(solved, address)
    site = solved.site
    loop = side_by_side.loop_at(solved, address.loop)
    found = standing(solved, revision.aside)
    trying = before is not None
    context = {
        "job": job,
        "revision": revision,
        "site": site,
        "address": address,
        "at": address.at,
        "loop_id": address.loop,
        "loop": loop,
        "rail": shell.rail(solved, found, address),
        "stage_label": STAGES[address.stage],
        "next": shell.next_line(solved, found, address),
        "practice_words": shell.practice_words(site),
        "practice_href": address.to(at=site.practice.id),
        "line_error": typed.errors.get("line", ""),
        "line_text": typed.text.get("line", ""),
        "line_example": first_example(rule_set_of(site)),
        "line_examples": line_examples(rule_set_of(site)),
        **_read_back(site, typed),
        "list_error": typed.errors.get("list", ""),
        "list_text": typed.text.get("list", ""),
        "is_map": address.stage in MAP_STAGES,
        "stage_template": f"workspace/stage_{address.stage}.html",
        "edit_error": typed.errors.get("", ""),
    }
    context["stage_count"] = next(s.count for s in context["rail"] if s.current)
    context |= _bench(solved, address, typed, found, trying)
    if loop is not None:
        context |= loop_context(solved, loop, address, typed)
    own = loop is not None and address.loop == address.at
    # Beside a part's name stands its own verdict, or its worst finding: never another place's.
    here = context["findings"].here
    worst = min((f.level for f in here), key=LEVELS.index, default="")
    context["sheet_words"] = context.get("verdict_short", "") if own else str(worst)
    context["is_own_loop"] = own or address.stage not in ("earth", "array")
    context |= _stage(job, revision, solved, address, found, before, typed, user)
    context["sizes"] = lists.sizes(solved, address)
    context["tabs"] = tabs.tabs(address, context)
    context["tab"] = next(t.key for t in context["tabs"] if t.current)
    second = side_by_side.loop_at(before or solved, address.loop if before else address.beside)
    if before is not None:
        context["trial"] = side_by_side.moved(before, solved)
        context["pair"] = side_by_side.side_by_side("before", second, "tried", loop)
    elif second is not None and loop is not None and address.beside != address.loop:
        context["pair"] = side_by_side.side_by_side(
            loop.place_name, loop, second.place_name, second
        )
        context["pair_close"] = address.to(beside="")
    return WorkspacePage(**context)


def _bench(solved: SolvedSite, address: Address, typed: Typed, found, trying: bool) -> dict:
    element = solved.site.elements()[address.at]
    on_map = address.stage if address.stage in MAP_STAGES else FIRST
    shown, more = bench_fields(solved, address.at, typed, bool(address.more))
    return {
        "element_name": name_of(element),
        "element_kind": type(element).__name__.lower(),
        "is_circuit": isinstance(element, Circuit),
        "is_practice": isinstance(element, Practice),
        "can_remove": not isinstance(element, Practice),
        "fields": shown,
        "more_fields": more,
        "field_paths": {f.path for f in (*shown, *more)},
        "more_href": address.to(more="" if address.more else "1"),
        "places": lists.places(solved, address),
        "findings": findings_view.at_place(solved, found, address, trying),
        "whatifs": whatifs(solved.site, address.at, address.loop),
        "touch_href": address.to(look="touch", stage=on_map),
        "map_href": "" if address.stage in MAP_STAGES or address.map else address.to(stage=on_map),
        "others": [
            OtherPlace(place, f.place_name)
            for place, f in (*solved.study.loops.items(), *solved.study.enclosures.items())
            if place != address.loop
        ],
    }


def _stage(job, revision, solved, address: Address, found, before, typed, user) -> dict:
    """Only what the visible stage shows."""
    if address.stage == "prove":
        context = {"table": prove.table(solved, address), "questions": prove.questions(solved)}
        context["curve_panels"] = prove.curve_panels(solved, user)
        if address.map:
            context |= {
                "map": map_of(solved, address, before, found),
                "map_close": address.to(map=""),
            }
        return context
    if address.stage == "fix":
        trying = before is not None
        return {"fixes": findings_view.fix_list(solved, revision.aside, address, trying)}
    if address.stage == "panels":
        return panel_context(solved, found, address)
    if address.stage == "earth":
        kinds = {"test": ("three-point", "clamp-ohm"), "soil": ("soil",)}.get(address.show, ())
        readings = kept(job, kinds) if kinds else []
        return {"earth": earth_page(solved, found, address, typed), "kept_readings": readings}
    if address.stage == "readings":
        page = log_page(job, solved, address, user)
        text = "Every loop of the walk is read."
        if page.ask:
            text = f"{page.ask_label.partition(',')[0]}. Dead and continuity first."
        return {"log": page, "next": shell.NextLine(text)}
    if address.stage == "plan":
        page = plan_page(job, solved, found, revision.aside, address, user)
        return {"plan": page, "next": shell.NextLine(*next_of_plan(job, page))}
    if address.stage == "sign":
        page = sign_page(job, revision, solved, user)
        left = len(page.open.dangers) + len(page.open.others)
        text = f"{left} things stand open: look at them before you sign." if left else "Sign it."
        return {"sign": page, "next": shell.NextLine("Signed." if page.is_current else text)}
    if address.stage == "array":
        return {"array": array_page(solved, found, address, typed)}
    loop = side_by_side.loop_at(solved, address.loop)
    panel = solved.site.panel.id
    if address.at in {p.id for p in solved.site.panels}:
        panel = address.at
    elif loop is not None and loop.circuit is not None:
        panel = loop.circuit.panel
    look = look_of(address.look, solved.study, loop)
    context = {
        "map": map_of(solved, address, before, found) if address.stage in MAP_STAGES else "",
        "looks": [
            LookLink(key, label, address.to(look=key), key == address.look)
            for key, label in LOOKS.items()
        ],
        "panel_id": panel,
        "panels": lists.panels(solved, address, panel),
        "circuits": lists.circuits(solved, found, address, panel),
        "map_words": look.title,
        "look_rows": [
            replace(row, href=address.to(at=row.id)) for row in look_view.rows(solved, look)
        ],
    }
    if address.stage == "survey":
        drawn = Outline(solved, found, address)
        context |= {"outline": drawn.groups(), "to_find_out": drawn.to_find_out()}
        context["tally"] = shell.tally(solved, address)
        context["summary"] = summary(solved.study, found)
        context["small_map"] = small_map_of(solved, address, found)
        context["buildings_href"] = address.to(stage="buildings")
    elif address.stage == "service":
        context["service_rows"] = ServiceList(solved, found, address).rows()
        context["ladder"] = ladder_page(solved, found, address, loop.place if loop else "")
        context["panel_name"] = name_of(solved.site.elements()[panel])
    else:
        context["parts"] = lists.parts(solved, found, address)
    return context


def map_of(solved: SolvedSite, address: Address, before: SolvedSite | None, found=()) -> str:
    """The map as SVG for the screen."""
    loop = side_by_side.loop_at(solved, address.loop)
    href = {e: address.to(at=e) for e in solved.site.elements()}
    href["prove"] = address.to(stage="prove")
    view = MapView(
        solved.study,
        loop,
        href,
        at=address.at,
        look=address.look,
        worst=worst_of(found, solved.site),
        before=before.study if before else None,
        is_service=address.stage == "service",
    )
    return mark_safe(map_scene(view).svg())  # noqa: S308 - Scene escapes every text


def small_map_of(solved: SolvedSite, address: Address, found=()) -> str:
    """The whole map as a picture without words: where one is, at a glance."""
    loop = side_by_side.loop_at(solved, address.loop)
    href = dict.fromkeys([*solved.site.elements(), "prove"], "")
    worst = worst_of(found, solved.site)
    view = MapView(solved.study, loop, href, at=address.at, worst=worst)
    drawn = map_scene(view).svg(links=False, words=False)
    return mark_safe(drawn)  # noqa: S308 - Scene escapes every text


def _read_back(site, typed: Typed) -> dict:
    """What a refused line was read as, with what can be done about it."""
    text = typed.text.get("line", "")
    if not text:
        return {}
    reading = read_place(site, text)
    return {"reading": reading, "kinds": reading.offered, "can_add": True}
