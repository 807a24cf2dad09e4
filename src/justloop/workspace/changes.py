"""What a form asks for, as Edits with their words; BadInput when it asks for nothing known."""

import re

from django.utils import timezone

from returnpath.errors import BadInput
from returnpath.rules import curve_question, deciding_question, whatifs
from returnpath.rules.registry import each_iterator
from returnpath.site import (
    Add,
    Provenance,
    Replace,
    Set,
    duplicate,
    field_info,
    fields_of,
    first_example,
    name_of,
    parse_text,
    read_csv,
    read_lines,
    read_place,
    removal,
)
from returnpath.site.breaker_lines import edits_for
from returnpath.site.speech import field_in, rule_set_of
from returnpath.tables import METAL_WORDS
from returnpath.vocabulary import FactPath

from ..firm.models import FirmLine
from ..solved import SolvedSite, solve
from . import ground_changes
from .change import OLD_PAGE, Change
from .log_why import suppose
from .plan_view import service

MOST_TEXT = 40_000


def change_of(request, site, op: str, path: str, text: str) -> Change:
    """The change that a form stands for."""
    made = {
        "set": _set,
        "add": _add,
        "paste": _paste,
        "table": _table,
        "remove": _remove,
        "duplicate": _duplicate,
        "answer": _answer,
        "everywhere": _everywhere,
        "presence": _presence,
        "fix": _fix,
        "whatif": _whatif,
        "breaker-line": _breaker_line,
        "move": _move,
        "place": ground_changes.place,
        "soil": ground_changes.soil,
        "layout": ground_changes.layout,
        "joint": ground_changes.joint,
        "suppose": suppose,
        "service-change": service,
    }.get(op)
    if made is None:
        raise BadInput(OLD_PAGE)
    return made(request, site, path, text)


def _set(request, site, path: str, text: str) -> Change:
    path = FactPath(path)
    element = site.elements().get(path.element)
    if element is None:
        raise BadInput("That part was removed meanwhile.", path)
    info = field_in(site, path)
    if info.kind == "size" and (said := METAL_SAID.match(text)):
        return _size_and_metal(element, path, said[1], METAL_WORDS[said[2].lower()])
    return Change((Set(path=path, value=parse_text(info, text)),))


METAL_SAID = re.compile(rf"(?i)^\s*(\S.*?)\s+({'|'.join(METAL_WORDS)})\.?\s*$")


def _size_and_metal(element, path: FactPath, size: str, metal: str) -> Change:
    """“6 al”: the size and, where the element keeps it, its metal."""
    of = path.leaf.removesuffix("_size")
    fact = f"{'line' if of == 'neutral' else of}_material"
    if fact not in {info.path for info in fields_of(type(element))}:
        raise BadInput("Its metal is not kept here: write the size alone.", path)
    value = parse_text(field_info(element, path.fact), size)
    return Change((
        Set(path=path, value=value),
        Set(path=FactPath.of(element.id, fact), value=metal),
    ))  # fmt: skip


MOST_MOVES = 40


def _move(request, site, path: str, text: str) -> Change:
    """Several breakers to other spaces at once: ``c17:14,c9:20``."""
    edits, said = [], []
    circuits = {c.id: c for c in site.circuits}
    for one in text.split(",")[:MOST_MOVES]:
        circuit, _, space = one.partition(":")
        if not (space.isdecimal() and len(space) < 4):
            raise BadInput(OLD_PAGE)
        if circuit not in circuits:
            raise BadInput("That part was removed meanwhile.")
        info = field_info(circuits[circuit], "space")
        edits.append(Set(path=FactPath.of(circuit, "space"), value=parse_text(info, space)))
        said.append(f"{name_of(circuits[circuit])} to space {space}")
    if not edits:
        raise BadInput(OLD_PAGE)
    return Change(tuple(edits), f"Moved {'; '.join(said)}"[:300])


def _panel(request, site) -> str:
    wanted = request.POST.get("panel", "")
    return wanted if wanted in {p.id for p in site.panels} else site.panel.id


def _add(request, site, path: str, text: str) -> Change:
    post = request.POST
    reading = read_place(
        site, text, _panel(request, site), post.get("as_kind", ""), post.get("unused", "")
    )
    if reading.problems:
        raise BadInput(" ".join(reading.problems))
    if not reading.edits:
        raise BadInput(f"Type a circuit, such as {first_example(rule_set_of(site))}.")
    first = reading.edits[0]
    words = f"Added {reading.kept_words}" if len(reading.edits) > 1 else ""
    return Change(
        tuple(reading.edits),
        words,
        first.path.element if isinstance(first, Set) else first.to,
    )


def _paste(request, site, path: str, text: str) -> Change:
    reading = read_lines(site, text, _panel(request, site))
    if reading.problems:
        raise BadInput(" ".join(reading.problems[:4]))
    if not reading.edits:
        raise BadInput("Paste a line for each circuit, as it reads on its sheath.")
    count = len(reading.edits)
    added = next((e.to for e in reading.edits if isinstance(e, Add)), "")
    return Change(tuple(reading.edits), f"Added {count} from a pasted list", added)


def _table(request, site, path: str, text: str) -> Change:
    """A CSV of circuits takes the place of all circuits."""
    upload = request.FILES.get("file")
    if upload is not None:
        if upload.size > 1_000_000:
            raise BadInput("A circuit table is at most 1 MB.")
        text = upload.read().decode("utf-8", "replace")
    rows = read_csv(text)
    panels = {p.id: p.id for p in site.panels} | {(p.name or "").lower(): p.id for p in site.panels}
    for number, row in enumerate(rows, 2):
        where = row.get("panel", site.panel.id)
        row["panel"] = panels.get(where) or panels.get(where.lower(), "")
        if not row["panel"]:
            raise BadInput(f"Row {number}: there is no panel “{where}” here.")
    return Change((Replace(to="circuits", items=tuple(rows)),))


def _remove(request, site, path: str, text: str) -> Change:
    element = site.elements().get(path)
    if element is None:
        raise BadInput("That part was removed meanwhile.", path)
    edits = removal(site, path)
    more = len(edits) - 1
    words = f"Removed {name_of(element)}"
    if more:
        words += f" and {more} part{'s' if more > 1 else ''} with it"
    return Change(tuple(edits), words)


def _duplicate(request, site, path: str, text: str) -> Change:
    if path not in site.elements():
        raise BadInput("That part was removed meanwhile.", path)
    edit = duplicate(site, path)
    return Change((edit,), f"Duplicated {name_of(site.elements()[path])}", edit.to)


def _signed(request, source: Provenance) -> Provenance:
    """A source with who said it and when."""
    now = timezone.now().isoformat(timespec="minutes")
    who = request.user.get_username()[:80]
    return source.model_copy(update={"who": who, "when": now})


def _answer(request, site, path: str, answer: str) -> Change:
    """One tap on a deciding question; its figure is computed here, never taken from a form."""
    solved = solve(site)
    if path == "curve":
        return _curve(request, solved, answer)
    loop = solved.study.loops.get(FactPath(path).element)
    question = deciding_question(solved.study.assumed, loop) if loop else None
    if question is None or question.path != path:
        raise BadInput("That question is settled already.", path)
    for words, wanted in question.answers:
        if words == answer:
            return Change((Set(path=path, value=None, source=_signed(request, wanted.source)),))
    raise BadInput("Answer no, yes or can't tell.", path)


def _curve(request, solved: SolvedSite, answer: str) -> Change:
    question = curve_question(solved.study)
    if question is None:
        raise BadInput("That question is settled already.")
    for words, edits in question.answers:
        if words == answer:
            signed = tuple(
                e.model_copy(update={"source": _signed(request, e.source)}) for e in edits
            )
            count = len(question.places)
            return Change(
                signed, f"Manufacturers' magnetic trip of {count} breakers: {answer.lower()}"
            )
    raise BadInput("Answer no, yes or can't tell.")


def _everywhere(request, site, fact: str, text: str) -> Change:
    """The same answer for every place where a fact is open."""
    one = next((o for o in solve(site).open_facts if o.fact == fact), None)
    if one is None or not one.places:
        raise BadInput("That is answered already.")
    first, _ = one.places[0]
    info = field_in(site, first)
    value = parse_text(info, text)
    if value is None:
        raise BadInput(f"{info.label.capitalize()}: choose an answer.")
    edits = tuple(Set(path=path, value=value) for path, _ in one.places)
    return Change(edits, f"{info.label.capitalize()}: {text} at {len(edits)} places")


def _presence(request, site, fact: str, text: str) -> Change:
    """Whether there is gas pipe, a pool, a frame: adds it, or writes down that there is none."""
    name, _, kind = fact.partition(":")
    if name != "metals" or text not in ("metal", "plastic", "none"):
        raise BadInput(OLD_PAGE)
    facts = {"kind": kind, "material": text}
    return Change((Add(to="metals", facts=facts),), select="metals" if text == "metal" else "")


def finding_of(site, key: str):
    """The finding with this key, folded ones too."""
    found = next((f for f in each_iterator(solve(site).findings) if f.key == key), None)
    if found is None:
        raise BadInput("That is no longer found here.")
    return found


def _fix(request, site, key: str, text: str) -> Change:
    finding = finding_of(site, key)
    if not finding.fix:
        raise BadInput("That cannot be mended by a change here: do it, then enter what is there.")
    return Change(tuple(finding.fix), f"{finding.place_name}: {finding.do}")


def _breaker_line(request, site, panel: str, name: str) -> Change:
    """A panel holds one line of the firm's list: the curves of all its breakers with one tap."""
    kept = FirmLine.objects.filter(name=name[:60]).first()
    if kept is None or panel not in {p.id for p in site.panels}:
        raise BadInput(OLD_PAGE)
    edits = edits_for(site, panel, kept.line)
    place = name_of(site.elements()[panel])
    return Change(tuple(edits), f"{place}: its breakers are {kept.name}")


def _whatif(request, site, key: str, text: str) -> Change:
    at, loop = request.POST.get("at", ""), request.POST.get("loop", "")
    one = next((w for w in whatifs(site, at, loop) if w.key == key), None)
    if one is None:
        raise BadInput("That cannot be tried here any more.")
    return Change(one.edits, one.words)
