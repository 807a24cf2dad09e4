"""Whatever a person describes: answered, judged, written as JSON, and never a crash."""

import json
import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from returnpath import site as s
from returnpath.assume import assume
from returnpath.command import envelope
from returnpath.command.check import as_dict, as_text, judged
from returnpath.command.schema import check_schema
from returnpath.errors import BadInput
from returnpath.rules import LEVELS, deciding_questions, findings, fold, next_step, pairs, summary
from returnpath.site.segments import derived
from returnpath.study import Verdict, compare, study
from returnpath.study.spine import forget_spines

from .test_network import random_site

slow = settings(max_examples=20, deadline=None)
VALIDATOR = Draft202012Validator(check_schema())


def values_of(info, site):
    """A strategy for what may stand in a field, the limits themselves included."""
    if info.kind == "choice":
        chosen = st.sampled_from(sorted(info.choices))
        return chosen.map(lambda c: int(c) if c.isdecimal() else c)
    if info.kind == "size":
        return st.sampled_from(["14", "12", "10", "8", "6", "4", "2", "1/0", "4/0", "250"])
    if info.kind == "raceway":
        return st.sampled_from(["1/2", "3/4", "1", "2"])
    if info.kind == "text":
        return st.text(min_size=1, max_size=30)
    if info.kind == "segments":
        return st.sampled_from(
            ["12/2 NM 40ft; #12 EMT 1/2 25ft", "10/2 UF 60ft then #10 PVC 9ft ground 10"]
        )
    if info.kind == "places":
        return st.sampled_from(["kitchen", "bathroom, laundry", "none of these"])
    if info.kind == "ref":
        ids = [e.id for e in getattr(site, info.to)] or ["x1"]
        return st.sampled_from(ids)
    if info.whole:
        return st.integers(int(info.low), int(info.high))
    return st.one_of(
        st.sampled_from([float(info.low), float(info.high)]), st.floats(info.low, info.high)
    )


def scribbled(data, site, edits, lists=s.LISTS):
    """The site after some facts were set to anything their fields allow, or cleared."""
    for _ in range(edits):
        among = [e for name in lists for e in getattr(site, name)] or [site.practice]
        if lists is s.LISTS:
            among.append(site.practice)
        element = data.draw(st.sampled_from(among))
        infos = s.fields_of(type(element))
        if not infos:
            continue
        info = data.draw(st.sampled_from(infos))
        value = data.draw(st.one_of(st.none(), values_of(info, site)))
        try:
            site = s.apply(site, s.Set(path=f"{element.id}.{info.path}", value=value))
        except BadInput as error:
            assert error.sentence.strip()
    return site


def everything(site):
    """All that is computed of a site, for its side effect of not failing."""
    done = study(site)
    found = fold(site, findings(site, done))
    body = as_dict(done) | judged(site, done, found)
    text = json.dumps(envelope.of(body, "study"), allow_nan=False)
    VALIDATOR.validate(json.loads(text))
    assert as_text(done, found)
    assert summary(done, found)
    assert next_step(site, done, found).text
    deciding_questions(done)
    return done, found


def told(site):
    """Every figure and word about a site, to be compared."""
    done = study(site)
    found = fold(site, findings(site, done))
    looked = [
        (f.legs, f.rests_on, f.heat, f.heat_unproved, f.heat_hot, f.currents, f.criteria)
        for f in done.faults
    ]
    steps = [
        [step.text for step in working.steps()]
        for fault in done.cases
        for working in fault.workings.values()
    ]
    return as_dict(done) | judged(site, done, found), repr(looked), steps


class AnySite(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.data())
    def test_what_is_kept_from_one_change_to_the_next_never_shows(self, data):
        site = pairs.base() if data.draw(st.booleans()) else random_site(data)
        for _ in range(3):
            told(site)
            circuits_alone = data.draw(st.integers(0, 3)) > 0
            site = scribbled(data, site, 3, ("circuits",) if circuits_alone else s.LISTS)
            if site.circuits and data.draw(st.booleans()):  # the others' lines may move
                gone = data.draw(st.sampled_from(site.circuits))
                try:
                    site = s.apply(site, s.Remove(id=gone.id))
                except BadInput as error:
                    assert error.sentence.strip()
            after_others = told(site)
            forget_spines()
            self.assertEqual(after_others, told(site))

    def test_changes_that_leave_the_filled_place_as_it_was_are_seen(self):
        bare = s.apply(pairs.base(), s.Set(path="u1.percent_z", value=None))
        first, second = bare.circuits[:2]
        unplaced = s.apply(bare, s.Set(path=f"{first.id}.space", value=None))
        unplaced = s.apply(unplaced, s.Set(path=f"{second.id}.space", value=None))
        assumed = assume(bare).site.supply.percent_z
        for site, edit in (
            (bare, s.Set(path="u1.percent_z", value=assumed)),  # no longer 25 % over typical
            (unplaced, s.Remove(id=first.id)),  # the second moves to the first's line
        ):
            with self.subTest(edit):
                before = told(site)
                after = told(s.apply(site, edit))
                forget_spines()
                self.assertEqual(after, told(s.apply(site, edit)))
                self.assertNotEqual(after, before)

    @slow
    @given(st.data())
    def test_scribbled_places_are_answered(self, data):
        everything(scribbled(data, pairs.base(), data.draw(st.integers(0, 25))))

    @slow
    @given(st.data())
    def test_random_trees_are_answered(self, data):
        done, found = everything(scribbled(data, random_site(data), 8))
        for fault in done.faults:
            self.assertIsInstance(fault.verdict, Verdict)
            if fault.lowest_a is None:
                continue
            self.assertLessEqual(fault.lowest_a, fault.highest_a * 1.0001 + 1e-6)
            for figure in (fault.lowest_a, fault.highest_a, fault.touch_earth_v or 0):
                self.assertTrue(math.isfinite(figure))
            if fault.slow_s is not None:
                self.assertLessEqual(fault.fast_s, fault.slow_s)
                self.assertLessEqual(fault.slow_s, fault.slow_s_unproved)
                self.assertLessEqual(fault.heat_used, fault.heat_used_unproved * 1.0001)
        for finding in found:
            self.assertIn(finding.level, LEVELS)
            self.assertIn(finding.place, done.assumed.site.elements())

    @slow
    @given(st.data())
    def test_a_fix_is_always_an_edit_that_can_be_made(self, data):
        site = scribbled(data, pairs.base(), 12)
        for finding in findings(site, study(site)):
            changed = site
            for edit in finding.fix:
                changed = s.apply(changed, edit)
            self.assertEqual(bool(finding.fix), changed != site, finding.id)

    def test_what_no_job_file_could_hold_is_refused_when_it_is_set(self):
        site = pairs.base()
        for edit in (
            s.Set(path="u1.name", value="Pole\x1f"),
            s.Add(to="circuits", facts={"name": "Den\x00", "panel": site.panels[0].id}),
        ):
            with self.assertRaisesRegex(BadInput, "control characters"):
                s.apply(site, edit)

    @slow
    @given(st.data())
    def test_the_job_file_holds_all_of_it(self, data):
        site = scribbled(data, pairs.base(), 20)
        again = s.loads(s.dumps(site))
        self.assertEqual(again, site)
        self.assertEqual(compare(study(site), study(again)), ())

    @slow
    @given(st.data())
    def test_undoing_an_edit_brings_everything_back(self, data):
        site = pairs.base()
        changed = scribbled(data, site, 1)
        for element in site.elements().values():
            for info in s.fields_of(type(element)):
                path = f"{element.id}.{info.path}"
                if changed.value_at(path) != site.value_at(path):
                    changed = s.apply(changed, s.Set(path=path, value=site.value_at(path)))
        self.assertEqual(changed, site)

    @slow
    @given(st.data())
    def test_assumptions_never_touch_what_is_known(self, data):
        site = scribbled(data, pairs.base(), 15)
        done = assume(site)
        for path in {a.path for a in done.assumptions}:
            self.assertIsNone(site.value_at(path))
            self.assertIsNotNone(done.site.value_at(path))
        for element in site.elements().values():
            # A run given piece by piece: its pieces are known too, and they decide.
            decided = derived(p) if (p := getattr(element, "segments", None)) else {}
            for info in s.fields_of(type(element)):
                path = f"{element.id}.{info.path}"
                if (known := site.value_at(path)) is not None:
                    self.assertEqual(done.site.value_at(path), decided.get(info.path, known))
        for circuit, filled in zip(site.circuits, done.site.circuits, strict=True):
            self.assertEqual(circuit.egc, filled.egc)
        for panel, filled in zip(site.panels, done.site.panels, strict=True):
            self.assertEqual(panel.bond, filled.bond)


class AnyText(unittest.TestCase):
    @settings(max_examples=150, deadline=None)
    @given(st.text(max_size=200))
    def test_a_table_is_read_or_refused_with_a_sentence(self, text):
        try:
            facts = s.read_csv(text)
        except BadInput as error:
            self.assertTrue(error.sentence)
        else:
            self.assertIsInstance(facts, list)

    @settings(max_examples=150, deadline=None)
    @given(st.recursive(
        st.none() | st.booleans() | st.floats() | st.text(max_size=9),
        lambda inner: st.lists(inner, max_size=3)
        | st.dictionaries(st.sampled_from(
            ["format", "site", "circuits", "id", "panels", "last_id", "supplies", "sources"]
        ), inner, max_size=5),
        max_leaves=12,
    ))  # fmt: skip
    def test_a_job_file_is_read_or_refused_with_a_sentence(self, data):
        try:
            s.loads(json.dumps(data))
        except BadInput as error:
            self.assertTrue(error.sentence)

    @settings(max_examples=150, deadline=None)
    @given(st.dictionaries(
        st.sampled_from(["op", "path", "value", "to", "facts", "id", "position", "items"]),
        st.one_of(st.none(), st.integers(), st.text(max_size=9), st.just("c15.length_ft"),
                  st.just("set"), st.just("add"), st.just({"name": "x"}), st.just([])),
    ))  # fmt: skip
    def test_an_edit_is_made_or_refused_with_a_sentence(self, data):
        try:
            s.apply(pairs.base(), s.parse_edit(data))
        except BadInput as error:
            self.assertTrue(error.sentence)
