"""Changes of the plan, the soil, and an array's joints."""

from returnpath.errors import BadInput, number_in
from returnpath.site import Add, Remove, Set, Soil, name_of
from returnpath.site.branches import branches_of
from returnpath.site.plan import names_on_plan, read_spot
from returnpath.site.roof import layout_facts, name_of_joint
from returnpath.vocabulary import BranchId, FactPath

from .change import OLD_PAGE, Change


def place(request, site, path: str, text: str) -> Change:
    """Where something stands on the plan: “12, 20”, or “8 ft north of rod 1”."""
    if path not in site.elements():
        raise BadInput("That part was removed meanwhile.", path)
    edits = read_spot(site, path, text)
    return Change(edits, f"{names_on_plan(site).get(path, 'It')} placed: {text}"[:200], path)


def soil(request, site, path: str, text: str) -> Change:
    """The soil's resistivity, Ω·m; empty text: not known."""
    cleaned = text.replace("Ω·m", "").replace("ohm-m", "").strip()
    if not cleaned:
        return Change((Soil(),))
    try:
        value = float(cleaned.replace(",", ""))
    except ValueError:
        raise BadInput(f"“{text[:30]}” was not understood; write 100.") from None
    return Change((Soil(ohm_m=round(number_in(value, "Soil", 0.5, 100_000, "Ω·m"), 2)),))


def layout(request, site, path: str, text: str) -> Change:
    """How an array lies on its roof, in one line."""
    if path not in {a.id for a in site.arrays}:
        raise BadInput("That array was removed meanwhile.", path)
    facts = layout_facts(text)
    edits = tuple(Set(path=FactPath.of(path, k), value=v) for k, v in facts.items())
    return Change(edits, f"{name_of(site.elements()[path])}: {text}"[:200])


#: What can be said of an array's joint with one tap.
JOINT_SAYS = {"open": {"open": "yes"}, "loose": {"ohm": 1.0}}


def joint(request, site, path: str, text: str) -> Change:
    """A joint of an array: open, loose, wrong hardware, or sound again (“good”)."""
    branch = BranchId(path)
    if branch not in branches_of(site):
        raise BadInput(OLD_PAGE)
    there = [j for j in site.joints if j.on == branch]
    where = name_of_joint(branch.part)
    if text == "good":
        if not there:
            raise BadInput("Nothing is said against that joint.")
        return Change(tuple(Remove(id=j.id) for j in there), f"{where}: made good")
    facts = JOINT_SAYS.get(text) or {"hardware": text}
    gone = tuple(Remove(id=j.id) for j in there)
    return Change((*gone, Add(to="joints", facts={"on": branch, **facts})), f"{where}: {text}")
