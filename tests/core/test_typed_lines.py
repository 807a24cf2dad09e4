"""Lines as people type them: the kind first, then the facts, and never a word dropped unseen."""

import itertools
import json
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from returnpath.site import Installation, Set, apply, apply_all, read_lines, read_place

LINES = json.loads((Path(__file__).parent / "fixtures" / "typed_lines.json").read_text("utf-8"))
SITE = apply(Installation(), Set(path="p1.name", value="Main"))
#: Ways to write the same thing; every combination must read the same.
BREAKER = ("20A", "20 amp", "20-amp", "20amp breaker", "20 A", "on a 20")
CABLE = ("12/2 NM", "12-2 NM-B", "NM 12/2 w/g", "12-2nm", "12/2G nm cable", "12 - 2 NM")
LENGTH = (
    "85ft",
    "85 ft",
    "85'",
    "85 feet",
    "about 85 ft",
    "eighty five feet",
    "85 ft.",
    "85′ long",
)
#: What two people type at once; “who” and “n” tell their parts apart.
BATCHES = (
    "panel {who}{n} from Main 60A 6/3 NM 40ft",
    "generator 8kVA",
    "2 rods 8ft wire 6 7ft apart",
    "3 rods 10ft apart 8ft",
    "20A 12/2 NM 30ft room {n}",
    "barn",
)


class Lines(unittest.TestCase):
    def test_each_is_read_as_a_person_reads_it(self):
        for row in LINES:
            with self.subTest(row["line"]):
                made = read_place(SITE, row["line"])
                said = {k: v for k, v in made.facts.items() if k not in made.assumed}
                self.assertEqual((made.kind, made.count), (row["kind"], row["count"]))
                self.assertEqual(said, row["said"])
                self.assertEqual(made.assumed, row["assumed"])
                self.assertEqual((made.unused, made.doubts), (row["unused"], row["doubts"]))
                if made.is_complete:
                    self.assertTrue(made.title)
                    apply_all(SITE, made.edits)

    def test_a_distance_from_the_panel_is_no_length_of_a_rod(self):
        made = read_place(SITE, "rod 8 ft from the panel")
        self.assertEqual((made.kind, made.is_complete), ("electrode", False))
        self.assertIn("from the panel", made.problems[0])

    def test_every_way_to_write_it_is_the_same(self):
        for words in itertools.product(BREAKER, CABLE, LENGTH):
            line = f"{' '.join(words)} kitchen counter"
            with self.subTest(line):
                made = read_place(SITE, line)
                self.assertTrue(made.is_complete, made.problems)
                self.assertEqual(made.facts["breaker.rating_a"], 20)
                self.assertEqual((made.facts["line_size"], made.facts["method"]), ("12", "NM"))
                self.assertEqual((made.facts["length_ft"], made.facts["egc"]), (85, "wire"))
                self.assertNotIn("egc", made.assumed)
                self.assertEqual(made.facts["name"], "Kitchen counter")

    @settings(max_examples=150, deadline=None)
    @given(st.permutations(["20A", "12/2 NM", "85ft", "gfci", "space 11", "kitchen counter"]))
    def test_words_in_any_order(self, words):
        made = read_place(SITE, " ".join(words))
        self.assertTrue(made.is_complete, (words, made.problems))
        self.assertEqual(
            made.facts,
            read_place(SITE, "20A 12/2 NM 85ft gfci space 11 kitchen counter").facts,
        )


class Ground(unittest.TestCase):
    """A ground wire that nobody said is never read as said."""

    def test_none_is_invented(self):
        for line in ("15A 14/2 no gnd hall", "15A 14/2 w/o ground hall", "15A two-wire hall",
                     "15A BX hall", "15A K&T hall", "15A 14/2 1955 hall", "15A cloth hall",
                     "20A #12 PVC hall", "30A 10/3 SE dryer", "15A 14-2 of 1948"):  # fmt: skip
            with self.subTest(line):
                made = read_place(SITE, line)
                self.assertNotIn(made.facts.get("egc"), ("wire", "both", "raceway"))
                self.assertNotIn("egc_size", made.facts)

    def test_custom_is_marked(self):
        made = read_place(SITE, "20A 12/2 bath")
        self.assertEqual((made.facts["egc"], "egc" in made.assumed), ("wire", True))
        for line in ("20A 12/2 w/g bath", "20A 12/2 NM bath", "20A 12/2G bath",
                     "20A 12/2 with ground bath"):  # fmt: skip
            made = read_place(SITE, line)
            self.assertEqual((made.facts["egc"], "egc" in made.assumed), ("wire", False), line)


class Nothing(unittest.TestCase):
    """Nothing is kept that was not read back, and no figure is lost."""

    @settings(max_examples=300, deadline=None)
    @given(st.sampled_from([r["line"] for r in LINES]), st.integers(0, 12), st.integers(1000, 9999))
    def test_a_stray_figure_is_never_dropped(self, line, at, figure):
        words = line.split()
        words.insert(min(at, len(words)), str(figure))
        made = read_place(SITE, " ".join(words))
        shown = json.dumps([made.facts, made.unused, made.problems], ensure_ascii=False)
        shown = shown.replace(",", "")
        # “1000 watts” is kept as 1 kVA, “around water 1000 meter” as feet.
        kept = (str(figure), f": {figure / 1000:g}", f": {round(figure / 0.3048, 1):g}")
        self.assertTrue(any(k in shown for k in kept), shown)

    @settings(max_examples=400, deadline=None)
    @given(st.sampled_from([r["line"] for r in LINES]), st.data())
    def test_a_slip_is_read_or_told_and_never_raises(self, line, data):
        at = data.draw(st.integers(0, len(line) - 1))
        typed = (
            line[:at] + data.draw(st.sampled_from(["", "x", " ", line[at] * 2])) + line[at + 1 :]
        )
        made = read_place(SITE, typed)
        if made.is_complete:
            apply_all(SITE, made.edits)
        self.assertTrue(made.title or made.problems or not typed.strip() or not made.edits)

    @settings(max_examples=300, deadline=None)
    @given(st.text(max_size=120))
    def test_any_text(self, text):
        made = read_place(SITE, text)
        if made.is_complete:
            apply_all(SITE, made.edits)

    def test_what_is_unused_is_kept_or_left_out_as_the_person_says(self):
        line = "20A 12/2 NM 40ft bath zzz9"
        self.assertEqual(read_place(SITE, line).unused, ["zzz9"])
        self.assertEqual(read_place(SITE, line, unused="name").facts["name"], "Bath zzz9")
        dropped = read_place(SITE, line, unused="drop")
        self.assertTrue(dropped.is_complete)
        self.assertEqual(dropped.facts["name"], "Bath")

    def test_the_other_kind_on_request(self):
        made = read_place(SITE, "garage 60A 6/3 110ft")
        self.assertEqual((made.kind, made.doubts), ("circuit", ["panel"]))
        panel = read_place(SITE, "garage 60A 6/3 110ft", as_kind="panel")
        self.assertEqual((panel.kind, panel.facts["name"]), ("panel", "Garage"))
        self.assertIn("circuit", panel.doubts)
        self.assertEqual(len(apply_all(SITE, panel.edits).panels), 2)


class Lists(unittest.TestCase):
    def test_a_line_names_what_an_earlier_one_made(self):
        made = read_lines(SITE, "barn\nsub panel barn 60A 6/3 UF 90ft\n2 rods at barn\n"
                                "20A 12/2 NM 30ft from barn lights")  # fmt: skip
        self.assertEqual(made.problems, [])
        site = apply_all(apply(SITE, Set(path="p1.main.rating_a", value=200)), made.edits)
        panel = site.panels[-1]
        self.assertEqual(site.feeders[-1].to, panel.id)
        self.assertEqual({e.panel for e in site.electrodes if e.kind == "rod"}, {panel.id})
        self.assertEqual(site.circuits[-1].panel, panel.id)
        # On a site that has grown meanwhile the same batch names its own parts.
        grown = apply_all(SITE, read_place(SITE, "panel Loft 60A 6/3 NM 40ft").edits)
        again = apply_all(grown, made.edits)
        self.assertEqual(again.feeders[-1].to, again.panels[-1].id)
        self.assertEqual(again.panels[-2].name, "Loft")

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.sampled_from(BATCHES), min_size=1, max_size=4),
           st.lists(st.sampled_from(BATCHES), min_size=1, max_size=4), st.randoms())  # fmt: skip
    def test_two_people_at_once_keep_their_own_parts(self, mine, yours, order):
        """Each line read on the same old site, saved in any order: every part names its own."""
        batches = [(who, n, read_place(SITE, line.format(who=who, n=n)).edits)
                   for who, lines in (("a", mine), ("b", yours))
                   for n, line in enumerate(lines)]  # fmt: skip
        order.shuffle(batches)
        site = SITE
        for _, _, edits in batches:
            site = apply_all(site, edits)
        panels = {p.id: p for p in site.panels}
        for feeder in site.feeders:
            self.assertEqual(feeder.name, f"{panels[feeder.to].name} feeder")
        supplies = {u.id: u for u in site.supplies}
        for run in site.services[1:]:
            self.assertEqual(supplies[run.supply].kind, "generator")
        self.assertEqual(len({r.supply for r in site.services}), len(site.services))
        rods = {e.id: e for e in site.electrodes}
        for rod in site.electrodes:
            if rod.near:
                self.assertEqual(rods[rod.near].length_ft, rod.length_ft)
