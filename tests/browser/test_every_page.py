"""Every page, at laptop and phone, light and attic: nothing leaves, nothing overflows."""

from returnpath.site import Set, apply
from tests.core.houses import house
from tests.web.people import job_of, person

from .driver import LAPTOP, PHONE, BrowserCase

SMALL_TEXT = """() => [...document.querySelectorAll('body *')].filter(e => {
  if (![...e.childNodes].some(n => n.nodeType === 3 && n.data.trim())) return false;
  if (!e.getClientRects().length) return false;
  const svg = e.ownerSVGElement;  // a drawing that is shrunk shrinks its words
  const scale = svg ? svg.getBoundingClientRect().width / svg.viewBox.baseVal.width : 1;
  return parseFloat(getComputedStyle(e).fontSize) * scale < 11.9;
}).map(e => e.outerHTML.slice(0, 90))"""
SMALL_TARGETS = """() => [...document.querySelectorAll(
    'button, select, input:not([type=hidden]), summary, .act, .act-quiet, .circuits a, .places a')]
  .filter(e => !e.ariaHidden && e.getClientRects().length
    && e.getBoundingClientRect().height < 43.5)
  .map(e => e.outerHTML.slice(0, 90))"""
#: Folds and tabs opened; the bench of a phone, which lies over the page, laid under it.
ALL_OPEN = """() => {
  for (const d of document.querySelectorAll('details')) d.open = true;
  for (const t of document.querySelectorAll('[data-tab-of]')) t.hidden = false;
  for (const b of document.querySelectorAll('.sheet-bar')) b.style.position = 'static';
  for (const b of document.querySelectorAll('.bench'))
    { b.style.position = 'static'; b.style.maxHeight = 'none'; }
  if (innerWidth < 641 && document.getElementById('bench')) location.hash = '#bench';
}"""
OVERLAPS = """() => {
  const boxes = [...document.querySelectorAll('.map-card svg text')].filter(
    t => t.getClientRects().length).map(t => [t.textContent, t.getBoundingClientRect()]);
  const hit = [];
  boxes.forEach(([a, p], i) => boxes.slice(i + 1).forEach(([b, q]) => {
    const w = Math.min(p.right, q.right) - Math.max(p.left, q.left);
    const h = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top);
    if (w > 1 && h > 3) hit.push(a + ' / ' + b);
  }));
  return hit;
}"""


class EveryPage(BrowserCase):
    def setUp(self):
        self.owner = person("wren")
        self.owner.is_staff = True
        self.owner.save()
        known = job_of(self.owner)
        assumed = house("20A #12 EMT 1/2 ground 12 shop bench", lo=None, hi=None, length_ft=None)
        both = job_of(self.owner, assumed, name="Assumed")
        open_bond = house("20A 12/2 NM 85ft kitchen", p1__bond="out")
        broken = job_of(self.owner, open_bond, name="Broken")
        soil = apply(open_bond, Set(path="e1.lands", value="ground bar"))
        through_soil = job_of(self.owner, soil, name="Through the soil")
        unknown = job_of(self.owner, house("20A #12 PVC 85ft pump", p1__bond=None), name="Unknown")
        self.addresses = ["/", "/jobs/new"]
        for job in (known, both, broken, through_soil, unknown):
            self.addresses.append(f"/jobs/{job.pk}/service")
        self.addresses.append(f"/jobs/{known.pk}/service?at=p1&loop=c2")
        self.addresses.append(f"/jobs/{both.pk}/service?at=c2&open=loop_ohm")
        known.crew.add(person("mate"))
        known.readers.add(person("inspector"))
        mine = ("history", "crew", "practice", "log")
        self.addresses += [f"/jobs/{known.pk}/{page}" for page in mine]
        # The parts of the panels' stage, and finding circuits.
        parts = ("find", "find?c=c2", "panels?show=load&q=hot+tub", "panels?show=protection")
        self.addresses += [f"/jobs/{known.pk}/{page}" for page in parts]
        self.addresses += ["/you", "/you/second-factor", "/firm", "/firm/people", "/firm/log"]
        self.addresses += [
            "/breaker-lines",
            "/quick",
            "/quick?q=20A+12/2+85ft",
            "/quick?q=gec+200A",
        ]

    def look(self, viewport):
        page = self.open(viewport)
        page.goto(f"{self.live_server_url}/sign-in")
        self.assertEqual(self.serious(page), [], "sign-in")
        self.sign_in(page)
        for address in self.addresses:
            page.goto(self.live_server_url + address)
            page.evaluate("document.fonts.ready")
            page.evaluate(ALL_OPEN)
            for theme in ("light", "attic"):
                # What the theme's cookie does, without loading the page twice.
                page.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
                with self.subTest(address, theme=theme, width=viewport["width"]):
                    self.assertEqual(self.serious(page), [])
                    self.assertEqual(page.evaluate(SMALL_TEXT), [])
                    width = page.evaluate("document.documentElement.scrollWidth")
                    self.assertLessEqual(width, viewport["width"])
                    self.assertEqual(page.evaluate(OVERLAPS), [])
                    if viewport is PHONE:
                        self.assertEqual(page.evaluate(SMALL_TARGETS), [])

    def test_laptop(self):
        self.look(LAPTOP)

    def test_phone(self):
        self.look(PHONE)

    def test_the_cookie_chooses_the_theme(self):
        page = self.open()
        self.sign_in(page)
        for theme in ("attic", "light"):
            cookie = {"name": "theme", "value": theme, "url": self.live_server_url}
            page.context.add_cookies([cookie])
            page.goto(self.live_server_url + self.addresses[2])
            self.assertEqual(page.evaluate("document.documentElement.dataset.theme"), theme)

    def test_the_systems_setting_where_nobody_chose(self):
        page = self.open()
        self.sign_in(page)
        paper = "getComputedStyle(document.body).backgroundColor"
        shown = {}
        for system in ("light", "dark"):
            page.emulate_media(color_scheme=system)
            page.goto(self.live_server_url + self.addresses[2])
            shown[system] = page.evaluate(paper)
            other = "Attic (dark)" if system == "light" else "Light"
            buttons = page.locator("nav.tools button[name=theme]:visible")
            self.assertEqual(buttons.all_inner_texts(), [other])
            self.assertEqual(self.serious(page), [])
        self.assertNotEqual(shown["light"], shown["dark"])
        page.click("nav.tools button[name=theme]:visible")
        page.wait_for_load_state()
        self.assertEqual(page.evaluate(paper), shown["light"])  # on a dark system, by choice

    def test_first_load_is_small(self):
        page = self.open()
        self.sign_in(page)
        page.context.clear_cookies(name="csrftoken")
        sizes = []
        page.on("response", lambda r: sizes.append(len(r.body()) if r.ok else 0))
        page.goto(f"{self.live_server_url}{self.addresses[2]}")
        page.wait_for_load_state("networkidle")
        self.assertLess(sum(sizes), 600_000)
        self.assertGreater(sum(sizes), 50_000)
