"""A check declares what it needs; what the site does not say of it is asked or shown as assumed."""

import unittest
from functools import cache
from unittest import mock

from returnpath.assume import assume
from returnpath.rules import Evidence, all_checks, deciding_questions, findings, open_facts, pairs
from returnpath.rules.needs import label, rows, words
from returnpath.site import LISTS, Add, Remove, Set, apply
from returnpath.site.base import Around, Element, Part
from returnpath.site.power import Device
from returnpath.site.speech import rule_set_of
from returnpath.study import study

from .test_findings import example

LIST_OF = {model: name for name, (model, _) in LISTS.items()}
#: What an element is, where it hangs: the structure of the site, no fact that could be asked.
STRUCTURE = {
    "id",
    "name",
    "panel",
    "source",
    "to",
    "building",
    "supply",
    "breaker",
    "main",
    "around",
}


class Reads:
    """Records every fact that is read while ``on``."""

    def __init__(self):
        self.on, self.seen = False, set()

    def watch(self, cls):
        plain = cls.__getattribute__
        reads = self

        def watched(element, name):
            if reads.on and name in fact_names(type(element)):
                if isinstance(element, Device):
                    reads.seen.add(("breaker", name))
                elif isinstance(element, Around):
                    reads.seen.add(("around", name))
                else:
                    reads.seen.add((LIST_OF.get(type(element), "practice"), name))
            return plain(element, name)

        return mock.patch.object(cls, "__getattribute__", watched)


@cache
def fact_names(cls) -> frozenset[str]:
    """The names of an element's facts."""
    return frozenset(cls.model_fields)


def ready(site):
    """The site solved and sized, so that only a check's own reading is left to see."""
    done = study(site)
    solved = Evidence(site, done)
    for name in (
        "sizes",
        "legs",
        "panels",
        "feeder_to",
        "at_service",
        "protected",
        "ahead",
        "own_roots",
        "dwelling",
        "unit_loads",
    ):
        getattr(solved, name)
    for name in ("available", "loads", "open_neutrals", "loops", "enclosures", "drops", "faults"):
        getattr(done, name)
    return solved


class Declared(unittest.TestCase):
    def test_every_fact_that_a_check_reads(self):
        sites = [example(name) for name in ("pebblewick", "millrace", "larkfield")]
        for id in all_checks():
            bad, good, _ = pairs.pair(id)
            sites += [pairs.edited(bad, id), pairs.edited(good, id)]
        missing, reads = {}, Reads()
        for site in sites:
            solved = ready(site)
            with reads.watch(Element), reads.watch(Part):
                for entry in all_checks().values():
                    if "study" in entry.needs or not entry.serves(rule_set_of(solved.filled)):
                        continue  # its figures are the solved network's
                    reads.seen, reads.on = set(), True
                    list(entry.look(solved))
                    reads.on = False
                    declared = {n.rpartition(".")[2] for n in entry.needs if "breaker" in n}
                    for where, name in reads.seen:
                        known = name in STRUCTURE or f"{where}.{name}" in entry.needs
                        if not known and not (where == "breaker" and name in declared | {"hi"}):
                            missing.setdefault(entry.id, set()).add(f"{where}.{name}")
        missing.pop("disconnect-missing", None)  # “main”: declared as panels.main.rating_a
        self.assertEqual(missing, {})

    def test_each_need_is_asked_assumed_or_its_absence_has_a_meaning(self):
        for entry in all_checks().values():
            self.assertTrue(entry.needs, entry.id)
            for need in entry.needs:
                with self.subTest(entry.id, need=need):
                    given = need == "study" or need.startswith("practice.")
                    self.assertTrue(given or need in rows() or self.stands_in(need))
                    self.assertTrue(label(need))

    def stands_in(self, need):
        """Whether something is assumed, and shown, where the fact is absent."""
        name, _, inner = need.partition(".")
        for site in (pairs.base(), pairs.base("ring-broken")):
            for element in getattr(site, name):
                path = f"{element.id}.{inner}"
                if assume(apply(site, Set(path=path, value=None))).find(path):
                    return True
        return need == "circuits.solid"  # by the size: solid to 8 AWG, stranded above

    def test_words_are_the_trades(self):
        for entry in all_checks().values():
            self.assertNotIn("_", words(entry), entry.id)


class Asked(unittest.TestCase):
    """Take the telling fact out of each bad example: it is asked, or shown as assumed."""

    def test_no_silence(self):
        tried = 0
        for entry in all_checks().values():
            bad, _, _ = pairs.pair(entry.id)
            for n, edit in enumerate(bad):
                if not isinstance(edit, Set) or edit.path.startswith("practice."):
                    continue
                blank = Set(path=edit.path, value=None)
                site = pairs.edited([*bad[:n], blank, *bad[n + 1 :]], entry.id)
                done = study(site)
                asked = {q.path for q in deciding_questions(done)}
                asked |= {f.asks for f in findings(site, done)}
                for one in open_facts(Evidence(site, done)):
                    asked |= {path for path, _ in one.places}
                fact = (
                    f"{LIST_OF[type(site.elements()[edit.path.partition('.')[0]])]}."
                    + (edit.path.partition(".")[2])
                )
                if ".around." in fact:
                    fact = fact.partition(".")[2]
                told = "absent" in rows().get(fact, {}) or done.assumed.find(edit.path)
                if edit.path.endswith(".gfci"):  # a rating is asked of what must have one
                    asked |= {edit.path} & {p.replace(".rcd_ma", ".gfci") for p in asked}
                unasked = (".interrupting_ka", ".lo", ".hi", ".name")
                with self.subTest(entry.id, path=edit.path):
                    self.assertTrue(
                        edit.path in asked or told or edit.path.endswith(unasked), "silent"
                    )
                    tried += 1
        self.assertGreaterEqual(tried, 55)

    def test_a_list_that_says_nothing(self):
        site = pairs.base()
        asked = {o.fact: o for o in open_facts(Evidence(site, study(site)))}
        self.assertIn("metals:gas", asked)
        self.assertNotIn("metals:water", asked)
        self.assertEqual((asked["metals:gas"].list, asked["metals:gas"].kind), ("metals", "gas"))
        none = apply(site, Add(to="metals", facts={"kind": "gas", "material": "none"}))
        done = study(none)
        left = {o.fact for o in open_facts(Evidence(none, done))}
        self.assertNotIn("metals:gas", left)
        self.assertFalse(any(f.startswith("metals.") and "gas" in f for f in left))
        self.assertEqual(findings(none, done), ())

    def test_gravest_first_and_nothing_that_was_answered(self):
        site = pairs.base()
        before = open_facts(Evidence(site, study(site)))
        levels = [("danger", "fix", "check", "note").index(o.level) for o in before]
        self.assertEqual(levels, sorted(levels))
        joint = next(o for o in before if o.fact == "circuits.outlet_bond")
        self.assertEqual(len(joint.places), len(site.circuits))
        site = apply(site, Set(path="c15.outlet_bond", value="no"))
        after = next(
            o for o in open_facts(Evidence(site, study(site))) if o.fact == "circuits.outlet_bond"
        )
        self.assertEqual(len(after.places), len(joint.places) - 1)

    def test_only_where_it_has_a_sense(self):
        site = pairs.base()
        facts = {o.fact for o in open_facts(Evidence(site, study(site)))}
        self.assertNotIn("circuits.splice", facts)  # all copper
        site = apply(site, Set(path="c15.line_material", value="aluminium"))
        facts = {o.fact: o for o in open_facts(Evidence(site, study(site)))}
        self.assertEqual([p for p, _ in facts["circuits.splice"].places], ["c15.splice"])
        site = apply(pairs.base(), Set(path="b3.disconnect", value=None))
        facts = {o.fact: o for o in open_facts(Evidence(site, study(site)))}
        self.assertEqual([p for p, _ in facts["buildings.disconnect"].places], ["b3.disconnect"])
        site = apply(site, Remove(id="f8"))
        facts = {o.fact for o in open_facts(Evidence(site, study(site)))}
        self.assertNotIn("buildings.disconnect", facts)


class Gas(unittest.TestCase):
    def found(self, **facts):
        pipe = {"name": "Gas pipe", "kind": "gas", "material": "metal", "panel": "p4", **facts}
        site = apply(pairs.base(), Add(to="metals", facts=pipe))
        return {f.id: f for f in findings(site, study(site))}.get("gas-bond-check")

    def test_sized_by_the_circuit_that_may_make_it_live(self):
        none = self.found()
        self.assertTrue(none.asks.endswith(".live_by"))
        small = self.found(bonded="yes", live_by="c15", bond_size="14")
        self.assertEqual(small.level, "fix")
        self.assertIn("12 AWG is needed", small.found)
        self.assertEqual(small.fix[0].value, "12")
        self.assertIsNone(self.found(bonded="yes", live_by="c15", bond_size="12"))
        self.assertIsNone(self.found(bonded="yes", live_by="c16", bond_size="14"))

    def test_corrugated_tube_asks_for_six(self):
        small = self.found(bonded="yes", live_by="c15", bond_size="8", corrugated="yes")
        self.assertIn("6 AWG is needed", small.found)
        self.assertIsNone(self.found(bonded="yes", corrugated="yes", bond_size="6"))
        self.assertIn("6 AWG", self.found(bonded="no", corrugated="yes").do)

    def test_structure_by_the_service(self):
        frame = {"kind": "structure", "material": "metal", "panel": "p4", "bonded": "yes"}
        for size, meets in (("6", False), ("4", True)):
            site = apply(pairs.base(), Add(to="metals", facts=frame | {"bond_size": size}))
            ids = {f.id for f in findings(site, study(site))}
            self.assertEqual("structure-bond-check" not in ids, meets, size)
