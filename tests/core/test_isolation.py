"""What a lock keeps dead and what switching on reaches: by hand, and against a graph of its own."""

import random
import unittest

from returnpath.site.installation import Installation
from returnpath.site.isolation import Held, LivePaths, why_not_on


def place(**lists) -> Installation:
    """utility u1 → s1 → p1; f2 → p2; f3 → p3; c1 and c2 in p1, c5 in p2; c3 and c4 a pair in p1."""
    whole = {
        "supplies": [{"id": "u1", "kind": "utility"}],
        "services": [{"id": "s1", "supply": "u1", "to": "p1"}],
        "panels": [{"id": "p1"}, {"id": "p2", "name": "Garage"}, {"id": "p3"}],
        "feeders": [{"id": "f2", "source": "p1", "to": "p2"},
                    {"id": "f3", "source": "p1", "to": "p3"}],
        "circuits": [{"id": "c1", "panel": "p1"}, {"id": "c2", "panel": "p1"},
                     {"id": "c3", "panel": "p1"},
                     {"id": "c4", "panel": "p1", "shares_with": "c3"},
                     {"id": "c5", "panel": "p2", "name": "Door"}],
    }  # fmt: skip
    return Installation.model_validate(whole | lists)


def refused(site, part, *points):
    return why_not_on(site, part, [Held(p, "Rosa") for p in points]) is not None


class Zone(unittest.TestCase):
    def test_behind_a_point_along_the_runs(self):
        paths = LivePaths(place())
        self.assertEqual(paths.zone("f2"), {"f2", "p2", "c5"})
        self.assertEqual(paths.zone("p2"), {"f2", "p2", "c5"})
        self.assertEqual(paths.zone("c1"), {"c1"})
        self.assertEqual(paths.zone("c3"), {"c3", "c4"})
        self.assertEqual(paths.zone("s1") - {"s1"}, set(paths.elements) & {
            "p1", "p2", "p3", "f2", "f3", "c1", "c2", "c3", "c4", "c5"})  # fmt: skip

    def test_a_second_feeder_does_not_empty_a_zone(self):
        two = place(feeders=[{"id": "f2", "source": "p1", "to": "p2"},
                             {"id": "f9", "source": "p3", "to": "p2"},
                             {"id": "f3", "source": "p1", "to": "p3"}])  # fmt: skip
        self.assertLessEqual({"f2", "p2", "c5", "f9"}, LivePaths(two).zone("f2"))
        self.assertEqual(set(LivePaths(two).points_of("p2")), {"f2", "f9"})
        for other in ("f9", "p3", "p1", "c5", "s1"):
            self.assertTrue(refused(two, other, "f2"), other)
        self.assertTrue(refused(two, "c1", "f2"))  # through f3 and f9 it reaches the locked zone
        self.assertFalse(refused(two, "c1", "f2", "f9"))

    def test_a_source_whose_place_nobody_knows_joins_every_panel(self):
        for more in ({"supplies": [{"id": "u1", "kind": "utility"},
                                   {"id": "u2", "kind": "generator"}]},
                     {"arrays": [{"id": "a1"}]}):  # fmt: skip
            site = place(**more)
            source = "u2" if "supplies" in more else "a1"
            paths = LivePaths(site)
            self.assertEqual(paths.still_live("p2", {"f2"}), (source,))
            self.assertEqual(paths.still_live("p2", {"f2", source}), ())
            self.assertEqual(set(paths.points_of("p2")), {"f2", source})
            self.assertTrue(refused(site, source, "f2"))


class SwitchingOn(unittest.TestCase):
    def test_what_is_locked_or_reaches_a_zone_stays_off(self):
        site = place()
        for part in ("f2", "p2", "c5"):
            self.assertTrue(refused(site, part, "f2"), part)
        for part in ("p1", "s1", "f3", "p3", "c1"):
            self.assertFalse(refused(site, part, "f2"), part)
        for part in ("f2", "c1", "p3", "s1"):
            self.assertTrue(refused(site, part, "s1"), part)

    def test_the_partner_of_a_shared_neutral_is_in_the_zone_until_it_is_locked_too(self):
        site = place()
        for part in ("c4", "p1", "c1"):
            self.assertTrue(refused(site, part, "c3"), part)
        self.assertFalse(refused(site, "p1", "c3", "c4"))
        tied = place(circuits=[{"id": "c1", "panel": "p1"},
                               {"id": "c3", "panel": "p1", "common_opening": "yes"},
                               {"id": "c4", "panel": "p1", "shares_with": "c3"}])  # fmt: skip
        self.assertFalse(refused(tied, "p1", "c3"))
        self.assertTrue(refused(tied, "c4", "c3"))

    def test_an_array_feeds_back(self):
        solar = place(arrays=[{"id": "a1", "circuit": "c5"}])
        paths = LivePaths(solar)
        self.assertEqual(paths.still_live("p2", {"f2"}), ("a1",))
        self.assertEqual(set(paths.points_of("p2")), {"f2", "a1"})
        self.assertEqual(paths.still_live("p2", {"f2", "a1"}), ())
        self.assertTrue(refused(solar, "a1", "f2"))
        self.assertFalse(refused(solar, "p1", "f2", "a1"))
        self.assertFalse(refused(solar, "p2", "a1"))  # an array that is locked off is no panel's

    def test_a_transformer_of_the_place_is_gone_through(self):
        fed = place(supplies=[{"id": "u1", "kind": "utility"},
                              {"id": "u3", "kind": "transformer", "fed_by": "c1"}],
                    services=[{"id": "s1", "supply": "u1", "to": "p1"},
                              {"id": "s3", "supply": "u3", "to": "p3"}], feeders=[])  # fmt: skip
        paths = LivePaths(fed)
        self.assertLessEqual({"c1", "u3", "s3", "p3"}, paths.zone("c1"))
        self.assertEqual(paths.still_live("p3", ()), ("u1",))
        self.assertEqual(paths.still_live("p3", {"c1"}), ())
        self.assertTrue(refused(fed, "p3", "c1"))

    def test_against_a_search_of_every_path_over_made_places(self):
        for seed in range(60):
            site = _made(random.Random(seed))
            rng = random.Random(seed + 1000)
            paths = LivePaths(site)
            ids = sorted(i for i in site.elements() if i[0] in "pfcsau")
            locked = rng.sample(ids, min(2, len(ids)))
            shut = paths.opened(locked)
            for part in rng.sample(ids, min(6, len(ids))):
                self.assertEqual(paths.reach(part, shut), _slow_reach(paths, part, shut))
                for lock in locked:
                    if paths.zone(lock) & paths.reach(part, shut):
                        self.assertTrue(refused(site, part, *locked), (seed, part, locked))
                points = paths.points_of(part)
                self.assertEqual(paths.still_live(part, paths.opened(points)), (), (seed, part))


def _made(rng: random.Random) -> Installation:
    panels = [f"p{n}" for n in range(1, rng.randint(2, 6))]
    feeders = [{"id": f"f{n}", "source": rng.choice(panels[:n]), "to": panels[n]}
               for n in range(1, len(panels))]  # fmt: skip
    if len(panels) > 2 and rng.random() < 0.5:
        feeders.append({"id": "f90", "source": panels[1], "to": panels[-1]})
    circuits = [{"id": f"c{n}", "panel": rng.choice(panels)} for n in range(1, 7)]
    if rng.random() < 0.5:
        circuits.append({"id": "c9", "panel": circuits[0]["panel"], "shares_with": "c1"})
    supplies = [{"id": "u1", "kind": "utility"}]
    services = [{"id": "s1", "supply": "u1", "to": "p1"}]
    if rng.random() < 0.5:
        supplies.append({"id": "u2", "kind": "generator"})
        if rng.random() < 0.5:
            services.append({"id": "s2", "supply": "u2", "to": rng.choice(panels)})
    arrays = [{"id": "a1", "circuit": rng.choice([None, "c2"])}] if rng.random() < 0.5 else []
    return place(panels=[{"id": p} for p in panels], feeders=feeders, circuits=circuits,
                 supplies=supplies, services=services, arrays=arrays)  # fmt: skip


def _slow_reach(paths: LivePaths, part: str, shut) -> set[str]:
    """The same by relaxing every way until nothing changes."""
    found, growing = {part}, True
    while growing:
        growing = False
        for way in paths._ways:
            for one, other in ((way.upper, way.lower), (way.lower, way.upper)):
                through = one == part or one not in paths.sources
                if one in found and other not in found and through and way.point not in shut:
                    found.add(other)
                    growing = True
    return found
