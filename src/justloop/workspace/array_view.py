"""The Array stage: the roof as it lies, its d.c. fault, the bars it feeds, volts lost, labels."""

from dataclasses import dataclass

from django.utils.safestring import mark_safe

from returnpath import solar
from returnpath.rules.checks.array import edition_of
from returnpath.rules.checks.array_joints import backfeed_of
from returnpath.site import Array, name_of
from returnpath.site.earthing import Joint
from returnpath.site.fields import fields_of
from returnpath.site.roof import (
    LAYOUT_EXAMPLE,
    is_laid_out,
    is_wired,
    name_of_frame,
    name_of_joint,
    size_of,
)
from returnpath.site.speech import rule_set_of
from returnpath.study.array import ArrayStudy
from returnpath.study.roof import JointStudy, RoofStudy
from returnpath.tables import size_name
from returnpath.vocabulary import BranchId
from returnpath.words import RuleSet
from returnpath.working import figures, show_volts

from ..address import Address
from ..drawing.roof import RoofLook, roof_scene
from ..solved import SolvedSite
from .fields import Typed, fact_href
from .panel_view import NamedLink

#: The bars' sum and the labels are the United States' own.
PARTS = {
    RuleSet.US: {"": "Roof", "fault": "D.c. fault", "bars": "Bars it feeds", "volts": "Volts lost",
                 "labels": "Labels"},
    RuleSet.METRIC: {"": "Roof", "fault": "D.c. fault", "volts": "Volts lost"},
}  # fmt: skip
MOST_LISTED = 12


@dataclass(frozen=True)
class JointLine:
    """One joint in the list: its name, what is said of it, what hangs on it."""

    part: str
    name: str
    href: str
    says: str
    hangs: str
    is_bad: bool
    is_chosen: bool


@dataclass(frozen=True)
class ChosenJoint:
    """The chosen joint: what hangs on it, what opening it would do, what can be said of it."""

    branch: str
    name: str
    hangs: str
    volts: str
    is_open: bool
    says: str
    is_findable: bool
    is_hidden: bool
    choices: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class RoofView:
    """The roof."""

    svg: str
    words: str
    layout: str
    error: str
    text: str
    floats: str
    joints: tuple[JointLine, ...]
    more: int
    chosen: ChosenJoint | None
    photograph: int
    hidden: str
    school: str
    remark: str


@dataclass(frozen=True)
class FaultView:
    """What a d.c. ground fault does."""

    kind: str
    sees: str
    clears: str
    why_not: str
    amps: str
    frame: str
    cleared_by: str
    egc_for: str
    ask: str


@dataclass(frozen=True)
class BarsView:
    """The bars its breaker feeds."""

    ask: tuple[NamedLink, ...]
    ways: tuple[tuple[str, str, bool], ...]
    met: bool
    says: str
    tap: str


@dataclass(frozen=True)
class VoltsView:
    """Volts lost, by each convention."""

    ask: tuple[NamedLink, ...]
    rows: tuple[tuple[str, str, str, bool], ...]
    is_limit: bool
    is_over: bool
    of: str
    gauges: tuple[tuple[str, str, str, bool], ...] = ()


@dataclass(frozen=True)
class LabelsView:
    """The labels and how they are counted."""

    rows: tuple[tuple[str, int, str, str, str], ...]
    total: int
    cut: tuple[tuple[str, int], ...]
    edition: int
    asks: tuple[NamedLink, ...]


@dataclass(frozen=True)
class ArrayPage:
    """The Array stage."""

    id: str
    name: str
    part: str
    parts: tuple[NamedLink, ...]
    arrays: tuple[NamedLink, ...]
    roof: RoofView | None
    fault: FaultView | None
    bars: BarsView | None
    volts: VoltsView | None
    labels: LabelsView | None


def array_page(solved: SolvedSite, found, address: Address, typed: Typed) -> ArrayPage | None:
    """The part of the stage that the address asks for; None without an array."""
    site = solved.site
    if not site.arrays:
        return None
    filled = solved.study.assumed.site
    chosen = next((a for a in filled.arrays if a.id == address.at), filled.arrays[0])
    parts = PARTS[rule_set_of(site)]
    part = address.show if address.show in parts else ""
    study = next((a for a in solved.study.arrays if a.array == chosen.id), None)
    return ArrayPage(
        id=chosen.id,
        name=name_of(chosen),
        part=part,
        parts=tuple(
            NamedLink(words, address.to(show=key, q="", at=chosen.id), key == part)
            for key, words in parts.items()
        ),
        arrays=tuple(
            NamedLink(name_of(a), address.to(at=a.id, q=""), a.id == chosen.id)
            for a in site.arrays
        ),
        roof=_roof(solved, chosen, study, address, typed) if part == "" else None,
        fault=_fault(solved, chosen, study, address) if part == "fault" else None,
        bars=_bars(solved, chosen, address) if part == "bars" else None,
        volts=_volts(solved, chosen, address) if part == "volts" else None,
        labels=_labels(solved, chosen, address) if part == "labels" else None,
    )  # fmt: skip


def _ask(solved: SolvedSite, address: Address, array: Array, *facts: str) -> tuple[NamedLink, ...]:
    """Links to the facts of the array that nobody has given."""
    raw = next(a for a in solved.site.arrays if a.id == array.id)
    labels = {info.path: info.label for info in fields_of(Array)}
    return tuple(
        NamedLink(labels[f], fact_href(solved.site, address, f"{array.id}.{f}"))
        for f in facts
        if getattr(raw, f) is None
    )


def _roof(solved, array: Array, study: ArrayStudy | None, address: Address, typed: Typed):
    error, text = typed.errors.get("layout", ""), typed.text.get("layout", "")
    school = "wire to every frame" if is_wired(array) else "washers and rails"
    if not is_laid_out(array) or study is None:
        remark = array.remark or ""
        return RoofView("", "", LAYOUT_EXAMPLE, error, text, "", (), 0, None, 0, "", school, remark)
    roof = RoofStudy(array, study, solved.study.states[0].wiring.on)
    said = {j.on.part: j for j in solved.site.joints if j.on.element == array.id}
    chosen = next((j for j in roof.joints if j.joint.part == address.q), None)
    href = {
        j.joint.part: address.to(q="" if j.joint.part == address.q else j.joint.part, at=array.id)
        for j in roof.joints
    }
    odd = {part for part, j in said.items() if j.hardware}
    # Scene escapes every text it is given.
    svg = mark_safe(roof_scene(roof, RoofLook(href, chosen, odd)).svg())  # noqa: S308
    rows, columns = size_of(array)
    listed = [j for j in roof.joints if j.joint.part in said or j is chosen]
    lines = tuple(_line(j, said, href, j is chosen) for j in listed[:MOST_LISTED])
    floating = roof.floating
    floats = ""
    if floating:
        names = name_of_frame(floating[0])
        who = names if len(floating) == 1 else f"{len(floating)} frames, {names} among them"
        verb = "floats" if len(floating) == 1 else "float"
        who = who[:1].upper() + who[1:]
        floats = f"{who} {verb}: up to {show_volts(array.voc_v)} with a fault there"
    hidden = [j for j in roof.to_photograph if j.is_hidden]
    return RoofView(
        svg=svg,
        words=f"{rows} rows of {columns}, {school}",
        layout=LAYOUT_EXAMPLE,
        error=error,
        text=text,
        floats=floats,
        joints=lines,
        more=max(len(listed) - MOST_LISTED, 0),
        chosen=_chosen(chosen, roof, array, said) if chosen else None,
        photograph=len(roof.to_photograph),
        hidden=f"{len(hidden)} joints lie under modules" if hidden else "",
        school=school,
        remark=array.remark or "",
    )


HARDWARE = {info.path: info for info in fields_of(Joint)}["hardware"].choices


def _says(joint: Joint | None, study: JointStudy) -> str:
    if joint is None:
        return "open: the rail is not listed for it" if study.is_open else "sound"
    words = ["open" if joint.open == "yes" else ""]
    words.append(f"{joint.ohm:g} Ω" if joint.ohm is not None else "")
    words.append(HARDWARE[joint.hardware] if joint.hardware else "")
    return ", ".join(filter(None, words))


def _hangs(study: JointStudy) -> str:
    if not study.hangs:
        return "nothing hangs on it alone"
    if len(study.hangs) == 1:
        one = study.hangs[0]
        return f"{name_of_frame(one)} hangs on it" if "m" in one[1:] else f"the {one} hangs on it"
    return f"{len(study.hangs)} frames hang on it"


def _line(study: JointStudy, said: dict, href: dict, chosen: bool) -> JointLine:
    part = study.joint.part
    return JointLine(
        part, name_of_joint(part), href[part], _says(said.get(part), study), _hangs(study),
        study.is_open, chosen,
    )  # fmt: skip


def _chosen(study: JointStudy, roof: RoofStudy, array: Array, said: dict) -> ChosenJoint:
    part = study.joint.part
    joint = said.get(part)
    choices = [("good", "Made good")] if joint is not None else []
    choices += [("open", "Open"), ("loose", "Loose")] if not study.is_open else []
    choices += [(key, words) for key, words in HARDWARE.items()
                if joint is None or joint.hardware != key]  # fmt: skip
    volts = show_volts(array.voc_v) if study.hangs and array.voc_v else ""
    return ChosenJoint(
        branch=BranchId.of(array.id, part),
        name=name_of_joint(part),
        hangs=_hangs(study),
        volts=volts,
        is_open=study.is_open,
        says=_says(joint, study),
        is_findable=study.is_findable,
        is_hidden=study.is_hidden,
        choices=tuple(choices),
    )


def _fault(solved, array: Array, study: ArrayStudy | None, address: Address) -> FaultView | None:
    if study is None:
        return None
    seen = solar.detected(array.grounding, array.inverter)
    return FaultView(
        kind=seen.kind if seen else "not known how its d.c. side is grounded",
        sees=seen.sees if seen else "",
        clears=seen.clears if seen else "",
        why_not=seen.why_not if seen else "",
        amps=f"{figures(study.fault_a)} A",
        frame=show_volts(study.frame_v) if study.frame_v is not None else "not known yet",
        cleared_by=study.cleared_by,
        egc_for=f"{figures(study.egc_for_a)} A",
        ask="" if array.grounding else fact_href(solved.site, address, f"{array.id}.grounding"),
    )


def _bars(solved: SolvedSite, array: Array, address: Address) -> BarsView:
    if array.tap == "line side":
        words = (
            "On the line side of the main: no bars to add up. Its disconnect is bonded as service"
            " equipment is: a supply-side bonding jumper, and its own neutral bond by the edition."
        )
        return BarsView((), (), True, "", words)
    evidence = solved.evidence
    found = backfeed_of(evidence, array)
    asks = list(_ask(solved, address, array, "ac_a", "circuit", "opposite_end"))
    circuit = next((c for c in solved.site.circuits if c.id == array.circuit), None)
    if circuit is not None:
        panel = next(p for p in solved.site.panels if p.id == circuit.panel)
        if panel.bus_a is None:
            words = f"bars rated, {name_of(panel)}"
            asks.append(NamedLink(words, fact_href(solved.site, address, f"{panel.id}.bus_a")))
    if found is None:
        return BarsView(tuple(asks), (), False, "", "")
    says = "One way is met." if found.met else (
        f"None of its ways is met: a main of {found.most_main_a:.0f} A at most, an inverter of"
        f" {figures(found.most_output_a)} A at most, or a line-side connection."
    )  # fmt: skip
    ways = tuple((w.words, w.working, w.met) for w in found.ways)
    return BarsView(tuple(asks), ways, found.met, says, "")


def _volts(solved: SolvedSite, array: Array, address: Address) -> VoltsView:
    asks = _ask(solved, address, array, "imp_a", "vmp_v", "line_size", "length_ft")
    limit = solved.site.practice.voltage_drop == "limit"
    if not (array.imp_a and array.vmp_v and array.line_size and array.length_ft):
        return VoltsView(asks, (), limit, False, "")
    rows = solar.drop_rows(array.imp_a, array.vmp_v, array.length_ft, array.line_size)
    return VoltsView(
        asks,
        tuple((r.words, f"{r.volts:.1f} V", f"{r.share * 100:.1f} %", r.is_ours) for r in rows),
        limit,
        rows[0].share > solar.volts.ADVICE,
        f"{figures(array.imp_a)} A a string at {array.vmp_v:g} V, {array.length_ft:g} ft one way",
        tuple(_gauge(array, size) for size in GAUGES[rule_set_of(solved.site)]),
    )


GAUGES = {
    RuleSet.US: ("14", "12", "10", "8", "6", "4"),
    RuleSet.METRIC: ("2.5mm2", "4mm2", "6mm2", "10mm2"),
}


def _gauge(array: Array, size: str) -> tuple[str, str, str, bool]:
    """(size, volts, share, whether it is the one there) with another d.c. wire."""
    ours = solar.drop_rows(array.imp_a, array.vmp_v, array.length_ft, size)[0]
    share = f"{ours.share * 100:.1f} %"
    return size_name(size), f"{ours.volts:.1f} V", share, size == array.line_size


def _labels(solved: SolvedSite, array: Array, address: Address) -> LabelsView:
    edition = edition_of(array, solved.evidence)
    counts = solar.labels_of(array, edition)
    rows = tuple(
        (c.label.text, c.count, c.how, f"{c.label.height_in:g} in", c.label.section) for c in counts
    )
    asks = _ask(solved, address, array, "length_ft", "turns", "penetrations", "ac_a")
    return LabelsView(rows, sum(c.count for c in counts), solar.cut_list(counts), edition, asks)
