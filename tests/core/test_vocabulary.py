"""Nothing can be stored that a job file could not hold, and every path is one of a few types."""

import ast
import re
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from returnpath.errors import BadInput
from returnpath.rules import pairs
from returnpath.site import (
    LISTS,
    Add,
    Installation,
    Set,
    apply,
    dumps,
    fields_of,
    loads,
    parse_text,
)
from returnpath.site.branches import branches_of
from returnpath.study import compare, study
from returnpath.vocabulary import BranchId, FactPath, Level, NodeId, Size, System, fact_in

ROOT = Path(__file__).resolve().parents[2]
TEXTS = {"length": "85 ft", "amps": "20", "size": "6", "raceway": "3/4", "text": "somewhere"}


def every_element() -> Installation:
    """The clean place with one element of each list."""
    site = pairs.base()
    for name, (model, _) in LISTS.items():
        if getattr(site, name):
            continue
        facts = {"on": "s1.neutral", "ohm": 0.1} if name == "joints" else {}
        assert model
        site = apply(site, Add(to=name, facts=facts))
    return site


def typed(info, site) -> list[str]:
    """What a person may type into a fact: every choice, else one value."""
    if info.kind == "choice":
        return list(info.choices)
    if info.kind == "segments":
        return ["12/2 NM 40ft; #12 EMT 1/2 25ft"]
    if info.kind == "places":
        return ["kitchen, bathroom"]
    if info.kind == "ref":
        return [getattr(site, info.to)[0].id] if getattr(site, info.to) else []
    if info.kind in TEXTS and info.kind != "amps":
        return [TEXTS[info.kind]]
    middle = info.low + min(1.0, (info.high - info.low) / 2)
    return [f"{int(middle) + 1 if info.whole else middle:g}"]


class EveryFact(unittest.TestCase):
    def test_every_choice_of_every_fact_is_stored_as_the_file_reads_it(self):
        site, tried = every_element(), 0
        for element in site.elements().values():
            for info in fields_of(type(element)):
                for text in typed(info, site):
                    path = FactPath.of(element.id, info.path)
                    try:
                        changed = apply(site, Set(path=path, value=parse_text(info, text)))
                    except BadInput as error:
                        self.assertTrue(error.sentence and error.field, path)
                        continue
                    tried += 1
                    with self.subTest(path=path, text=text):
                        again = loads(dumps(changed))
                        self.assertEqual(again, changed)
                        stored = fact_in(changed.elements()[element.id], info.path)
                        read = fact_in(again.elements()[element.id], info.path)
                        self.assertIs(type(stored), type(read))
                        if tried % 40 == 0:  # a study each would be minutes; see the web's test
                            self.assertEqual(compare(study(changed), study(again)), ())
        self.assertGreater(tried, 900)

    def test_text_230_is_text(self):
        site = apply(pairs.base(), Set(path="u1.system", value="230"))
        self.assertIs(site.supply.system, System.SINGLE_230)
        self.assertIn('"system": "230"', dumps(site))
        self.assertTrue(study(site).faults)
        number = apply(pairs.base(), Set(path="c15.poles", value="2"))
        self.assertEqual(number.circuit("c15").poles, 2)

    def test_an_edit_is_refused_where_the_file_would_be(self):
        for path, value in (("c15.length_ft", "x"), ("c15.egc", "rope"), ("u1.system", 230.5)):
            with self.subTest(path), self.assertRaises(BadInput):
                apply(pairs.base(), Set(path=path, value=value))


class Types(unittest.TestCase):
    def test_paths(self):
        path = FactPath.of("c1", "breaker.rating_a")
        self.assertEqual(
            (path.element, path.fact, path.leaf), ("c1", "breaker.rating_a", "rating_a")
        )
        self.assertEqual((path.group, path.beside("hi")), ("c1.breaker", "c1.breaker.hi"))
        branch = BranchId.of("f3", "line", 2)
        self.assertEqual((branch, branch.kind, branch.number), ("f3.line2", "line", 2))
        self.assertEqual((BranchId("c4.to_m5").kind, BranchId("s1.neutral").number), ("to_m5", 0))
        self.assertEqual(NodeId.of("p1", "lug", 3), "p1.lug3")

    def test_sizes_as_a_person_writes_them(self):
        for text, size, name in (
            ("#6", "6", "6 AWG"), ("4/0 AWG", "4/0", "4/0 AWG"), ("250 kcmil", "250", "250 kcmil"),
            ("2,5 mm²", "2.5mm2", "2.5 mm²"), ("10 mm2", "10mm2", "10 mm²"),
        ):  # fmt: skip
            self.assertEqual((Size.typed(text), Size.typed(text).name), (size, name))

    def test_systems(self):
        rows = {s: (s.lines, s.volts, round(s.volts_between), s.is_metric) for s in System}
        self.assertEqual(rows, {
            System.SPLIT: (2, 120, 240, False), System.WYE: (3, 120, 208, False),
            System.HIGH_LEG: (3, 120, 240, False), System.SINGLE_230: (1, 230, 230, True),
            System.THREE_400: (3, 230, 398, True),
        })  # fmt: skip
        self.assertEqual([s.high_leg for s in System], [0, 0, 2, 0, 0])

    def test_levels_are_in_order(self):
        self.assertEqual([level.rank for level in Level], [0, 1, 2, 3])

    @given(st.sampled_from(sorted(branches_of(every_element()))))
    def test_every_branch_can_have_a_joint(self, branch):
        site = every_element()
        site = apply(site, Add(to="joints", facts={"on": branch, "ohm": 0.5}))
        self.assertTrue(study(site).faults)


class OnePlace(unittest.TestCase):
    """Rules of the house that a reader can rely on."""

    def sources(self):
        for file in (ROOT / "src").rglob("*.py"):
            if "migrations" not in file.parts:
                yield file, file.read_text("utf-8")

    def test_paths_are_taken_apart_in_one_place(self):
        found = [
            f"{file.name}:{n}"
            for file, text in self.sources()
            if file.name != "paths.py"
            for n, line in enumerate(text.splitlines(), 1)
            if re.search(r"""(partition|split)\(["']\.["']""", line) and "__name__" not in line
            and "upload.name" not in line
        ]  # fmt: skip
        self.assertEqual(found, [])

    def test_no_two_classes_of_one_name(self):
        names: dict[str, list[str]] = {}
        for file, text in self.sources():
            for node in ast.walk(ast.parse(text)):
                if isinstance(node, ast.ClassDef) and node.name not in ("Command", "Meta"):
                    names.setdefault(node.name, []).append(file.name)
        self.assertEqual({k: v for k, v in names.items() if len(v) > 1}, {})

    def test_every_citation_has_its_section(self):
        headings = re.findall(
            r"^## (\d+)\. ", (ROOT / "docs" / "method.md").read_text("utf-8"), re.M
        )
        sections = set(headings)
        self.assertEqual(headings, [str(n) for n in range(1, len(headings) + 1)])
        cited: set[str] = set()
        for file, text in self.sources():
            self.assertNotRegex(text, r"\b(METHOD|DESIGN|DOMAIN) \d", file)
            for a, b in re.findall(r"\bmethod (\d+)(?: (?:and|to) (\d+))?", text):
                cited |= {n for n in (a, b) if n}
        self.assertGreater(len(cited), 7)
        self.assertLessEqual(cited, sections)
