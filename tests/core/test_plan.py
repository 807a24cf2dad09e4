"""The work made from the site: procedures, parts, cuts, dates, the service change."""

import itertools
import unittest
from datetime import UTC, date, datetime, timedelta

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath.errors import BadInput
from returnpath.plan import (
    Event,
    Hold,
    Piece,
    StepState,
    Tick,
    at_risk,
    band_of,
    clashes,
    cut,
    forms,
    is_satisfied,
    offers,
    parts_of,
    procedure_of,
    progress_of,
    read_form,
    service_change,
    total_of,
    write_form,
)
from returnpath.plan.parts import hours_of
from returnpath.plan.procedure import AskedReading, cautions
from returnpath.rules import Evidence, findings_of, fold
from returnpath.site import Set, apply
from returnpath.study import study

from .test_findings import example


def evidence(name, *edits):
    site = example(name)
    for edit in edits:
        site = apply(site, edit)
    return Evidence(site, study(site))


JOBS = {name: evidence(name) for name in ("pebblewick", "millrace", "larkfield")}
TODAY = date(2026, 3, 2)


class Procedures(unittest.TestCase):
    def test_every_job_gets_those_that_fit_it(self):
        wanted = {
            "pebblewick": {"bond-cure", "outbuilding", "array-grounding", "range-dryer"},
            "millrace": {"service-change", "two-wire-receptacle", "range-dryer"},
            "larkfield": {"outbuilding", "generator", "service-change"},
        }
        for name, keys in wanted.items():
            s = JOBS[name]
            found = offers(s, fold(s.site, findings_of(s)))
            with self.subTest(name):
                self.assertLessEqual(keys, {o.key for o in found})
                self.assertEqual(len({(o.key, o.subject) for o in found}), len(found))
        first = offers(JOBS["pebblewick"], findings_of(JOBS["pebblewick"]))[0]
        self.assertEqual((first.key, first.subject, first.asked), ("bond-cure", "p6", True))

    def test_every_step_is_filled_in_and_its_edits_can_be_made(self):
        for name, s in JOBS.items():
            for offer in offers(s, findings_of(s)):
                made = procedure_of(forms()[offer.key], s, offer.subject)
                keys = [step.key for step in made.steps]
                with self.subTest(name, procedure=made.name):
                    self.assertEqual(len(set(keys)), len(keys))
                    self.assertGreater(len(keys), 5)
                    site = s.site
                    for step in made.steps:
                        self.assertNotRegex(step.say + step.why, r"[{}]")
                        self.assertLessEqual(set(step.cautions), set(cautions()))
                        if step.hold is Hold.READING:
                            self.assertIsNotNone(step.read)
                        for edit in step.change:
                            site = apply(site, edit)
                    study(site)

    def test_the_bond_comes_out_only_after_the_egc_is_proven(self):
        s = JOBS["pebblewick"]
        made = procedure_of(forms()["bond-cure"], s, "p6")
        keys = [step.key for step in made.steps]
        self.assertLess(keys.index("egc-through"), keys.index("screw"))
        self.assertLess(keys.index("live-again"), keys.index("bar"))
        site = s.site
        for step in made.steps:
            for edit in step.change:
                site = apply(site, edit)
        left = {f.key for f in findings_of(Evidence(site, study(site)))}
        self.assertIn("bond-downstream:p6", {f.key for f in findings_of(s)})
        self.assertNotIn("bond-downstream:p6", left)

    def test_schools_and_conditions_choose_the_steps(self):
        s = JOBS["millrace"]
        circuit = next(o.subject for o in offers(s) if o.key == "two-wire-receptacle")
        form = forms()["two-wire-receptacle"]
        by = {way: [x.key for x in procedure_of(form, s, circuit, {"way": way}).steps]
              for way in ("rewire", "egc", "gfci")}  # fmt: skip
        self.assertIn("rewire", by["rewire"])
        self.assertNotIn("loop", by["gfci"])  # there is nothing to read a loop of
        self.assertEqual(procedure_of(form, s, circuit).open_choices, ("way",))
        lock = procedure_of(forms()["panel-cut-in"], s, s.site.panel.id)
        self.assertIn("locked off", next(x.say for x in lock.steps if x.key == "capped"))
        cap = evidence("millrace", Set(path="practice.dead_by", value="cap"))
        capped = procedure_of(forms()["panel-cut-in"], cap, cap.site.panel.id)
        self.assertIn("capped", next(x.say for x in capped.steps if x.key == "capped"))

    def test_what_energizes_or_rests_on_anothers_lock_needs_signal(self):
        made = procedure_of(forms()["service-change"], JOBS["millrace"],
                            JOBS["millrace"].site.panel.id)  # fmt: skip
        live = {x.key for x in made.steps if x.needs_signal}
        self.assertLessEqual({"closes", "main", "breakers", "volts-ll"}, live)
        self.assertNotIn("gec", live)

    def test_a_hold_lets_go_only_of_a_reading_that_satisfies_it(self):
        s = JOBS["pebblewick"]
        made = procedure_of(forms()["bond-cure"], s, "p6")
        by_key = {x.key: x.read for x in made.steps if x.read}
        for key, good, bad in (("target", 0.3, 118.0), ("ng-open", 2e6, 0.2),
                               ("loops-c26", 0.23, 0.9)):  # fmt: skip
            self.assertTrue(is_satisfied(s.study, by_key[key], good)[0], key)
            ok, why = is_satisfied(s.study, by_key[key], bad)
            self.assertFalse(ok, key)
            self.assertTrue(why)
            self.assertTrue(band_of(s.study, by_key[key]))

    def test_a_lower_reading_is_a_shorter_run_and_lower_volts_are_not(self):
        s = JOBS["pebblewick"]
        for kind, place, value, ok in (
            ("r2", "c17", 0.01, True), ("loop", "c17", 0.05, True), ("r2", "c17", 0.9, False),
            ("ll", "p5", 190.0, False), ("ln", "p5", 90.0, False), ("ln", "p5", 121.0, True),
            ("r2", "f8", 1500.0, False), ("ng", "p6", 60.0, False),
        ):  # fmt: skip
            asked = AskedReading(kind, place, "band")
            self.assertIs(is_satisfied(s.study, asked, value)[0], ok, (kind, place, value))
        bare = evidence("pebblewick", Set(path="f9.egc", value="none"))
        asked = AskedReading("r2", "f9", "band")  # nothing is predicted of an EGC that is not there
        self.assertFalse(is_satisfied(bare.study, asked, 40.0)[0])
        self.assertTrue(is_satisfied(bare.study, asked, 0.2)[0])

    def test_one_that_does_not_fit_is_refused(self):
        s = JOBS["pebblewick"]
        for key, subject in (("sub-panel", "p5"), ("outbuilding", "p6"), ("array-grounding", "c17"),
                             ("bond-cure", "p99")):  # fmt: skip
            with self.subTest(key), self.assertRaises(BadInput):
                procedure_of(forms()[key], s, subject)


class Forms(unittest.TestCase):
    def test_out_and_in_again(self):
        for form in forms().values():
            self.assertEqual(read_form(write_form(form)), form)

    def test_what_is_wrong_is_said_with_its_step(self):
        head = "format: 1\nkey: ours\nname: Ours\nsteps:\n"
        good = head + "  - {key: a, say: Do it}\n"
        self.assertEqual(read_form(good).steps[0].say, "Do it")
        for text, words in (
            ("", "begins with"), ("- a", "begins with"), ("a: [", "YAML"),
            ("format: 2\nkey: a\nname: b", "format"), (head + "  - {key: a}", "say what is done"),
            (head + "  - {key: A B, say: x}", "key"),
            (head + "  - {key: a, say: x}\n  - {key: a, say: y}", "two steps"),
            (head + "  - {key: a, say: x, hold: reading}", "needs read"),
            (head + "  - {key: a, say: x, hold: date}", "needs date"),
            (head + "  - {key: a, say: x, hold: wish}", "hold"),
            (head + "  - {key: a, say: x, caution: [bears]}", "no caution"),
            (head + "  - {key: a, use: nothing}", "no block"),
            (head + "  - {key: a, say: 'to {panel'}", "brace"),
            (head + "  - {key: a, say: x, read: {kind: lope, at: p5}}", "no kind of reading"),
            (head + "  - {key: a, say: x, read: {kind: loop, at: p5, want: lots}}", "want is"),
            ("x: " + "a" * 70_000, "at most"), ("a: &a [*a, *a]", ""),
            ("!!python/object/apply:os.system ['true']", "YAML"),
        ):  # fmt: skip
            with self.subTest(words, text=text[:50]), self.assertRaises(BadInput) as caught:
                read_form(text)
            self.assertIn(words, caught.exception.sentence)


class Parts(unittest.TestCase):
    def test_wire_is_listed_by_run_with_slack_and_colour(self):
        s = JOBS["pebblewick"]
        lines = parts_of(s, fold(s.site, findings_of(s)))
        dishwasher = next(x for x in lines if "Dishwasher" in x.of)
        run = s.site.circuit("c19").length_ft
        self.assertEqual(dishwasher.feet, round(run * 1.1 + 6))
        self.assertIn("green or bare", dishwasher.what)
        self.assertEqual([p.feet for p in dishwasher.pieces], [dishwasher.feet])
        no_length = [x for x in lines if x.kind == "wire" and not x.length_known]
        self.assertTrue(all(x.feet == 0 for x in no_length))

    def test_counts_kinds_and_notes(self):
        lines = {x.what: x for x in parts_of(JOBS["larkfield"], findings_of(JOBS["larkfield"]))}
        self.assertEqual(
            (lines["8 ft ground rod"].count, lines["8 ft ground rod"].kind), (2, "rod")
        )
        notes = {x.note for x in parts_of(JOBS["larkfield"], findings_of(JOBS["larkfield"]))
                 if x.kind == "clamp"}  # fmt: skip
        self.assertIn("listed for burial", notes)
        labels = [x for x in parts_of(JOBS["pebblewick"], findings_of(JOBS["pebblewick"]))
                  if x.kind == "label"]  # fmt: skip
        self.assertIn(12, [x.count for x in labels])

    def test_totals_name_what_has_no_price_or_length(self):
        lines = parts_of(JOBS["larkfield"], findings_of(JOBS["larkfield"]))
        total = total_of(lines, {"8 ft ground rod": 21.5, "10 awg copper, bare or green": 1.0})
        self.assertEqual(total.money, 43.0)
        self.assertIn("10 AWG copper, bare or green", total.open)
        self.assertGreater(hours_of(lines), 2)


class Cuts(unittest.TestCase):
    @given(st.lists(st.integers(5, 100), max_size=7))
    @settings(max_examples=150, deadline=None)
    def test_never_more_spools_than_any_way_of_cutting(self, feet):
        found = cut([Piece(float(f), str(n)) for n, f in enumerate(feet)], 100.0)
        self.assertEqual(sorted(p.feet for s in found.spools for p in s), sorted(map(float, feet)))
        self.assertTrue(all(left >= 0 for left in found.left))
        self.assertEqual(len(found.spools), _fewest(feet))

    @given(st.lists(st.integers(1, 250), max_size=60))
    @settings(max_examples=60, deadline=None)
    def test_never_worse_than_the_first_spool_with_room(self, feet):
        found = cut([Piece(float(f), "") for f in feet], 250.0)
        spools: list[float] = []
        for f in feet:
            at = next((n for n, used in enumerate(spools) if used + f <= 250), None)
            if at is None:
                spools.append(f)
            else:
                spools[at] += f
        self.assertLessEqual(len(found.spools), len(spools))
        self.assertTrue(all(left >= 0 for left in found.left))

    def test_a_sum_that_fits_is_not_pieces_that_fit(self):
        found = cut([Piece(60.0, "a"), Piece(60.0, "b"), Piece(60.0, "c")], 100.0)
        self.assertEqual(len(found.spools), 3)
        for pieces, spool in (([Piece(101.0, "long")], 100.0), ([Piece(0.0, "")], 100.0), ([], 0)):
            with self.assertRaises(BadInput):
                cut(pieces, spool)


def _fewest(feet) -> int:
    """By trying every assignment."""
    if not feet:
        return 0
    for count in range(1, len(feet) + 1):
        for way in itertools.product(range(count), repeat=len(feet)):
            if way[0] == 0 and all(
                sum(f for f, w in zip(feet, way, strict=True) if w == n) <= 100
                for n in range(count)
            ):
                return count
    raise AssertionError


class Dates(unittest.TestCase):
    def event(self, kind, days, **more):
        return Event(kind, TODAY + timedelta(days=days), **more)

    def test_what_comes_before_what_must_come_first_is_at_risk(self):
        permit, outage = self.event("permit", 9), self.event("outage", 5)
        found = [(r.event.kind, r.why) for r in at_risk([permit, outage], TODAY)]
        self.assertIn(("outage", "the permit is only on 11 Mar"), found)
        self.assertIn(("permit", "there is no application yet"), found)
        done = [self.event("application", -9, done=True), self.event("permit", -2, done=True),
                self.event("utility", 1), self.event("electrodes", 2),
                self.event("outage", 5)]  # fmt: skip
        self.assertEqual(at_risk(done, TODAY), ())

    def test_a_day_that_passed_unticked_and_what_rests_on_it(self):
        events = [self.event("application", -9, done=True), self.event("permit", -1),
                  self.event("rough", 3)]  # fmt: skip
        found = {r.event.kind: r.why for r in at_risk(events, TODAY)}
        self.assertIn("has passed", found["permit"])
        self.assertIn("was missed", found["rough"])

    def test_one_person_at_two_places_on_a_day(self):
        one = self.event("outage", 3, job="A", who="wren")
        for other, count in (
            (self.event("final", 3, job="B", who="wren"), 1),
            (self.event("final", 3, job="A", who="wren"), 0),
            (self.event("final", 4, job="B", who="wren"), 0),
            (self.event("final", 3, job="B", who="robin"), 0),
            (self.event("permit", 3, job="B", who="wren"), 0),
        ):
            self.assertEqual(len(clashes([one, other])), count, other)


class Services(unittest.TestCase):
    def test_the_after_state_stands_and_says_what_changes(self):
        s = JOBS["millrace"]
        found = service_change(s, 200.0)
        said = " ".join(c.what for c in found.changed)
        for words in (
            "main 100 A → 200 A",
            "4 AWG → 2/0 AWG copper",
            "8 AWG → 4 AWG",
            "Emergency disconnect",
            "Surge",
        ):
            self.assertIn(words, said)
        site = s.site
        for edit in found.edits:
            site = apply(site, edit)
        after = Evidence(site, study(site))
        small = {f.id for f in findings_of(after)} & {"service-line-small", "gec-small"}
        self.assertEqual(small, set())
        self.assertEqual({f.key for f in found.stays} & {f.key for f in found.goes}, set())
        self.assertGreater(found.outage_h, 5)

    def test_a_rating_nobody_makes_is_refused(self):
        for amps in (0.0, 5.0, 137.0, 1e9):
            with self.assertRaises(BadInput):
                service_change(JOBS["millrace"], amps)


class Standing(unittest.TestCase):
    """Where a procedure stands, and how long dead is proven."""

    NOW = datetime(2026, 3, 2, 10, 0, tzinfo=UTC)

    def setUp(self):
        self.made = procedure_of(forms()["bond-cure"], JOBS["pebblewick"], "p6")
        self.keys = [s.key for s in self.made.steps]

    def ticks(self, until, who="wren", minutes=0):
        at = self.NOW - timedelta(minutes=minutes)
        upto = self.keys[: self.keys.index(until) + 1]
        return [Tick(k, who, at + timedelta(seconds=n)) for n, k in enumerate(upto)]

    def stands(self, ticks, person="wren", away=0):
        seen = self.NOW - timedelta(minutes=away)
        return progress_of(self.made, ticks, person, self.NOW + timedelta(minutes=1), seen)

    def test_one_after_another_to_the_end(self):
        self.assertEqual(self.stands([]).now.key, "told")
        self.assertEqual(self.stands(self.ticks("sources")).now.key, "open")
        whole = self.stands(self.ticks(self.keys[-1]))
        self.assertIsNone(whole.now)
        self.assertEqual(set(whole.states), {StepState.DONE})
        self.assertEqual(whole.expired, "")

    def test_dead_is_proven_by_one_person_for_as_long_as_they_stay(self):
        proven = self.ticks("live-again")
        self.assertEqual(self.stands(proven).now.key, "bar")
        for stands, why in ((self.stands(proven, "robin"), "wren proved it"),
                            (self.stands(self.ticks("live-again", minutes=60), away=45),
                             "away")):  # fmt: skip
            self.assertIn(why, stands.expired)
            self.assertEqual(stands.now.key, "known-live")
            self.assertIn(StepState.EXPIRED, stands.states)
        again = [*self.ticks("live-again", minutes=60), *(
            Tick(k, "wren", self.NOW) for k in ("known-live", "target", "live-again"))]  # fmt: skip
        self.assertEqual(self.stands(again).now.key, "bar")

    def test_energizing_ends_the_proof(self):
        on = [*self.ticks("live-again"), Tick("energize", "wren", self.NOW + timedelta(seconds=50))]
        self.assertIn("energized", self.stands(on).expired)
        self.assertEqual(self.stands(self.ticks("energize"), away=90).expired, "")
