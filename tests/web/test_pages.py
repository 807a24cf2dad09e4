"""Pages: new job, words, characters, colours, the policy, paper."""

import re
from pathlib import Path

from django.conf import settings
from django.test import TestCase
from fontTools.ttLib import TTFont

from justloop.drawing import palette
from justloop.drawing.chart import chart_scene
from justloop.drawing.map import MapView, map_scene
from justloop.jobs.models import Job
from returnpath.site import Set, apply
from returnpath.study import study
from returnpath.working import figures
from tests.core.houses import house

from .people import job_of, person

STATIC = Path(settings.PACKAGE.parents[1]) / "src" / "justloop" / "static"
FORBIDDEN = re.compile(r"(?i)\b(safe|safely|compliant|compliance)\b")
NEW = {
    "name": "Otterby",
    "u1.kva": "25",
    "u1.percent_z": "1.7",
    "u1.x_over_r": "1.6",
    "s1.run": "overhead",
    "s1.length_ft": "60",
    "s1.line_size": "4/0",
    "s1.line_material": "aluminium",
    "s1.neutral_size": "4/0",
    "p1.main.rating_a": "200",
    "p1.bond": "in",
    "line": "20A 12/2 NM 85ft kitchen counter",
    "circuit.breaker.lo": "5",
    "circuit.breaker.hi": "10",
}


def words_of(html: str) -> str:
    """The visible text of a page."""
    return re.sub(r"<[^>]+>", " ", re.sub(r"(?s)<(script|style).*?</\1>", " ", html))


class NewJob(TestCase):
    def setUp(self):
        self.client.force_login(person("wren"))

    def test_a_whole_house(self):
        page = self.client.post("/jobs/new", NEW, follow=True)
        self.assertContains(page, "326.9 A")
        self.assertContains(page, "408.3 A")
        self.assertContains(self.client.get("/"), "Otterby")

    def test_a_name_is_enough_to_start(self):
        page = self.client.post("/jobs/new", {"name": "Bare"}, follow=True)
        self.assertContains(page, "Type the first circuit as it reads on the sheath")

    def test_refused_input_keeps_everything(self):
        wrong = NEW | {"s1.length_ft": "sixty", "line": "20A 7/2", "name": ""}
        page = self.client.post("/jobs/new", wrong)
        self.assertContains(page, "3 things to correct")
        for kept in ('value="sixty"', 'value="20A 7/2"', 'value="1.7"', "7 AWG is not a size"):
            self.assertContains(page, kept)
        self.assertFalse(Job.objects.exists())

    def test_long_and_strange_input(self):
        for field in NEW.keys() - {"line"}:  # of a long line the first words are a name
            page = self.client.post("/jobs/new", NEW | {field: "☃" * 4000})
            self.assertEqual(page.status_code, 200, field)

    def test_live_reading(self):
        page = self.client.get("/jobs/read", {"line": "20A 12/2 NM 85fx kitchen"})
        self.assertContains(page, "12 AWG EGC")
        self.assertContains(page, "a length is written 85ft or 26m")

    def test_an_empty_list_says_how_to_start(self):
        self.assertContains(self.client.get("/"), "Describe the first job")

    def test_search(self):
        self.client.post("/jobs/new", NEW)
        self.assertContains(self.client.get("/?q=otter"), "Otterby")
        self.assertContains(self.client.get("/?q=zzz"), "No job is called “zzz”")


class EveryPage(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = person("wren")
        site = house("20A #12 EMT 1/2 ground 12 85ft shop", lo=None, hi=None)
        cls.job = job_of(cls.owner, site)
        open_bond = apply(house("20A 12/2 NM kitchen"), Set(path="p1.bond", value="out"))
        cls.broken = job_of(cls.owner, open_bond, name="Broken")

    def pages(self):
        self.client.force_login(self.owner)
        addresses = ["/", "/jobs/new", "/nowhere", f"/jobs/{self.job.pk}/history"]
        for job in (self.job, self.broken):
            base = f"/jobs/{job.pk}/service"
            keys = ["lowest_a", "highest_a", "loop_ohm", "opens", "heat", "touch", "longest_run_ft"]
            keys += ["size-c2-line_size", "size-c2-egc_size", "size-e1-gec_size"]
            addresses += [f"{base}?at=c2&open={key}" for key in keys]
            addresses += [f"{base}?at={at}" for at in ("u1", "s1", "p1", "e1", "practice")]
            addresses.append(f"/jobs/{job.pk}/crew")
        for address in addresses:
            yield address, self.client.get(address).content.decode()

    def test_nothing_is_called_what_only_the_local_office_decides(self):
        for address, html in self.pages():
            with self.subTest(address):
                self.assertIsNone(FORBIDDEN.search(words_of(html)))

    def test_every_character_is_in_the_fonts_we_ship(self):
        shipped = [
            set(TTFont(STATIC / "vendor" / f"{name}.woff2").getBestCmap())
            for name in ("next-400", "next-700", "mono-400", "mono-700")
        ]
        known = set.intersection(*shipped) | {10, 13, 9}
        for address, html in self.pages():
            missing = {c for c in words_of(html) if ord(c) not in known}
            self.assertEqual(missing, set(), address)

    def test_the_policy_is_strict_and_the_pages_keep_to_it(self):
        self.client.force_login(self.owner)
        answer = self.client.get(f"/jobs/{self.job.pk}/service")
        policy = answer["Content-Security-Policy"]
        for part in ("default-src 'none'", "script-src 'self'", "style-src 'self'"):
            self.assertIn(part, policy)
        self.assertNotIn("unsafe", policy)
        for address, html in self.pages():
            with self.subTest(address):
                self.assertNotRegex(html, r"(?i)\sstyle=|<style|\son[a-z]+=|javascript:|hx-on")
                self.assertNotRegex(html, r"(?:src|href)=\"(?:https?:)?//")

    def test_what_a_person_types_is_never_markup(self):
        nasty = "<script>alert(1)</script>"
        site = apply(house("20A 12/2 NM 85ft x"), Set(path="c2.name", value=nasty))
        job = job_of(self.owner, site, name=nasty)
        self.client.force_login(self.owner)
        for address in (f"/jobs/{job.pk}/service", "/", f"/jobs/{job.pk}/history"):
            self.assertNotContains(self.client.get(address), nasty)

    def test_the_verdict_has_words(self):
        self.client.force_login(self.owner)
        page = self.client.get(f"/jobs/{self.job.pk}/service")
        self.assertContains(page, "trips instantaneously")

    def test_themes(self):
        self.client.force_login(self.owner)
        answer = self.client.post("/theme", {"theme": "attic", "next": "//elsewhere.example/"})
        self.assertEqual(answer["Location"], "/")
        self.assertContains(self.client.get("/"), 'data-theme="attic"')
        self.client.cookies["theme"] = "nonsense"
        self.assertContains(self.client.get("/"), 'data-theme="system"')


class Colours(TestCase):
    def test_contrast_in_every_theme(self):
        for theme, colours in palette.THEMES.items():
            for pairs, least in ((palette.TEXT_PAIRS, 4.5), (palette.STROKE_PAIRS, 3.0)):
                for one, other in pairs:
                    with self.subTest(theme, pair=(one, other)):
                        ratio = palette.contrast(colours[one], colours[other])
                        self.assertGreaterEqual(ratio, least)

    def test_the_stylesheet_is_what_the_palette_writes(self):
        written = (STATIC / "justloop" / "themes.css").read_text("utf-8")
        self.assertEqual(written, palette.stylesheet(), "run script/palette")

    def test_no_colour_is_typed_anywhere_else(self):
        for path in [STATIC / "justloop" / "app.css", *STATIC.parent.rglob("*.html")]:
            with self.subTest(path.name):
                self.assertNotRegex(path.read_text("utf-8"), r"#[0-9a-fA-F]{6}\b")


class Drawings(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)

    def scenes(self):
        for line, bond in [
            ("20A 12/2 NM 85ft kitchen", "in"),
            ("20A #12 EMT 1/2 ground 12 85ft a very long name for one circuit", "in"),
            ("20A 12/2 NM 85ft kitchen", "out"),
            ("20A #12 PVC 85ft pump", None),
            ("15A 14/2 no ground hall", "in"),
        ]:
            site = apply(house(line), Set(path="p1.bond", value=bond))
            done = study(site)
            href = dict.fromkeys(site.elements(), "/x")
            yield line, map_scene(MapView(done, done.loops["c2"], href, 3))
            if done.loops["c2"].lowest_a is not None:
                yield line, chart_scene(done.loops["c2"])

    def test_no_text_under_twelve_pixels_and_all_of_it_inside(self):
        for line, scene in self.scenes():
            for tag, attributes, content in scene.parts:
                if tag != "text":
                    continue
                with self.subTest(line, text=content):
                    size = float(palette.literal(attributes["class"])["font-size"])
                    self.assertGreaterEqual(size, 12)
                    self.assertTrue(0 <= float(attributes["x"]) <= scene.width)
                    self.assertTrue(12 <= float(attributes["y"]) <= scene.height)

    def test_the_lit_line_carries_the_fault_whichever_leg_the_circuit_is_on(self):
        site = house("20A 12/2 NM 85ft kitchen")
        done = study(apply(site, Set(path="c2.space", value=3)))
        loop = done.loops["c2"]
        scene = map_scene(MapView(done, loop, dict.fromkeys(site.elements(), "/x"), 0))
        amps = [content for tag, _, content in scene.parts if tag == "text" and "A" in content]
        self.assertEqual(amps.count(f"{figures(loop.lowest_a)} A"), 4)
        self.assertNotIn("0 A", amps)

    def test_paper_needs_no_stylesheet(self):
        for line, scene in self.scenes():
            with self.subTest(line):
                svg = scene.svg(paper=True, links=False)
                self.assertNotIn("class=", svg)
                self.assertNotIn("var(", svg)
                self.assertNotIn("<a ", svg)

    def test_files_and_paper(self):
        job = job_of(self.owner)
        for name in ("map", "chart"):
            answer = self.client.get(f"/jobs/{job.pk}/drawing/{name}.svg")
            self.assertEqual(answer["Content-Type"], "image/svg+xml")
            self.assertIn(b"#d9480f", answer.content)
        self.assertEqual(self.client.get(f"/jobs/{job.pk}/drawing/x.svg").status_code, 404)
        with self.assertNoLogs(
            "justloop.reports.printing", "WARNING"
        ):  # every font and drawing was found
            sheet = self.client.get(f"/jobs/{job.pk}/sheet.pdf?loop=c2")
        self.assertEqual(sheet.content[:5], b"%PDF-")
