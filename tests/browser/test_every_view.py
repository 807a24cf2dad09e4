"""On every demo job and a site of 60 circuits, wide and narrow, light and attic: no two texts
meet, none leaves its card, none is small, nothing is wider than the window."""

import sys
from datetime import date
from pathlib import Path

from django.core.management import call_command

from justloop.log.models import Instrument, LoggedReading
from justloop.planning.models import JobDate, Remark
from tests.core.test_findings import example
from tests.web.people import job_of, person
from tests.web.permissions import a_photo, a_visit, a_work

from .driver import LAPTOP, PHONE, BrowserCase
from .test_every_page import ALL_OPEN, SMALL_TARGETS, SMALL_TEXT

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "script"))
from made_site import made_site

#: A stage answers in its first screens; what is more is folded. CSS px at the laptop, the phone.
TALLEST = {True: 1540, False: 3000}
#: The places whose stages another shows already: each at one width, the others at both.
ONE_WIDTH = {"millrace": PHONE, "larkfield": LAPTOP, "thistle": PHONE}
STAGES = ("survey", "service", "panels", "earth", "buildings", "array", "prove", "fix", "plan",
          "readings", "sign")  # fmt: skip

#: Every line of visible text with its box and its card; pairs that meet, and those that leave.
TEXTS = """() => {
  const found = [];
  const walker = document.createTreeWalker(document.querySelector('#main'), NodeFilter.SHOW_TEXT);
  const range = document.createRange();
  while (walker.nextNode()) {
    const node = walker.currentNode, host = node.parentElement;
    if (!node.data.trim() || host.closest('.visually-hidden, option, dialog, .skip')) continue;
    const style = getComputedStyle(host);
    if (style.visibility === 'hidden' || style.display === 'none') continue;
    range.selectNodeContents(node);
    for (const r of range.getClientRects()) {
      if (r.width < 2 || r.height < 2) continue;
      const scrolls = host.closest('.map-box, .plan-box, .curve-box');
      const seen = scrolls && scrolls.getBoundingClientRect();
      if (seen && (r.right > seen.right || r.left < seen.left)) continue;  // scrolled away
      const card = host.closest('.card, .next, .trial, .rail, .caution, .told');
      const box = host.closest('.map-box svg, .plan-box svg, .curve-box svg') || card;
      found.push({text: node.data.trim().slice(0, 40), host, box,
                  l: r.left, t: r.top, r: r.right, b: r.bottom});
    }
  }
  const met = [], out = [];
  for (const a of found) {
    if (!a.box) continue;
    const c = a.box.getBoundingClientRect();
    if (a.l < c.left - 1 || a.r > c.right + 1 || a.t < c.top - 2 || a.b > c.bottom + 2)
      out.push(a.text);
  }
  found.sort((a, b) => a.t - b.t);
  for (let i = 0; i < found.length; i++) {
    for (let j = i + 1; j < found.length && found[j].t < found[i].b; j++) {
      const a = found[i], b = found[j];
      const w = Math.min(a.r, b.r) - Math.max(a.l, b.l);
      const h = Math.min(a.b, b.b) - Math.max(a.t, b.t);
      if (w > 1.5 && h > 3.5) met.push(a.text + ' / ' + b.text);
    }
  }
  return {met: met.slice(0, 5), out: out.slice(0, 5)};
}"""


class EveryView(BrowserCase):
    def setUp(self):
        owner = person("wren")
        sites = {name: example(name) for name in ("pebblewick", "millrace", "larkfield")}
        sites["sixty"] = made_site()
        self.addresses, self.measured, self.only = [], set(), {}
        for name, site in sites.items():
            job = job_of(owner, site, name=name)
            if name in ONE_WIDTH:
                self.only[f"/jobs/{job.pk}/"] = ONE_WIDTH[name]
            self.addresses += [f"/jobs/{job.pk}/{stage}" for stage in STAGES]
            self.addresses.append(f"/jobs/{job.pk}/prove?map=1")
            if name != "sixty":
                self.measured |= {f"/jobs/{job.pk}/{stage}" for stage in STAGES}
            last = site.circuits[-1].id
            panel = site.panels[-1].id
            # The looks differ in what is lit, not in where it stands: one each elsewhere.
            looks = ("load", "neutral", "touch")
            some = looks if name == "pebblewick" else looks[len(self.addresses) % 3 :][:1]
            self.addresses += [f"/jobs/{job.pk}/service?at={last}&look={look}" for look in some]
            self.addresses.append(f"/jobs/{job.pk}/buildings?at={panel}&more=1")
            if name == "pebblewick":
                self.addresses += [f"/jobs/{job.pk}/test-sheet", f"/jobs/{job.pk}/history",
                                   f"/jobs/{job.pk}/compare", f"/jobs/{job.pk}/history/1",
                                   f"/jobs/{job.pk}/service?at=c28&beside=c22"]  # fmt: skip
                shown = [f"earth?show={s}" for s in ("counts", "test", "soil")]
                shown += [f"array?show={s}" for s in ("fault", "bars", "volts", "labels")]
                shown += ["earth?show=soil&readings=2+ft+24%0A5+ft+12%0A10+ft+8%0A20+ft+6",
                          "earth?show=test&far=90&readings=52+24%0A62+25%0A72+26&clamp=0.2",
                          "array?q=splice2s1", *self.of_the_log(job, owner),
                          *self.of_the_plan(job)]  # fmt: skip
                self.addresses += [f"/jobs/{job.pk}/{part}" for part in shown]
        self.own = self.of_the_metric_rules(owner)
        self.addresses += ["/learn", "/learn/try/one-ohm", "/learn/sizes/egc?seed=7",
                           "/learn/known", "/learn/lessons/1", "/verify"]  # fmt: skip
        self.main_job = self.addresses[0].split("/")[2]

    def of_the_metric_rules(self, owner):
        """The stages in the other rule set's words and units, and what only it has: looked at by
        axe in one theme."""
        own = set()
        for name in ("foxglove", "thistle"):
            job = job_of(owner, example(name), name=name)
            if name in ONE_WIDTH:
                self.only[f"/jobs/{job.pk}/"] = ONE_WIDTH[name]
            stages = [f"/jobs/{job.pk}/{stage}" for stage in STAGES]
            self.addresses += stages
            self.measured |= set(stages)
            panel, last = job.latest.site.panels[0].id, job.latest.site.circuits[1].id
            own |= {f"/jobs/{job.pk}/panels?at={panel}&show=zs", f"/jobs/{job.pk}/test-sheet",
                    f"/jobs/{job.pk}/service?at={last}&tab=loop"}  # fmt: skip
        self.addresses += sorted(own)
        return own

    def of_the_log(self, job, owner):
        """The parts of the Log, with something in each."""
        kept = [
            LoggedReading.objects.create(job=job, kind=kind, place=place, value=value, unit=unit,
                                         who=owner, simulated=kind == "ng")
            for kind, place, value, unit in (("loop", "c26", 0.66, "Ω"), ("loop", "c17", 0.29, "Ω"),
                                             ("ng", "c26", 1.9, "V"), ("lamps", "c18", 1, "lamps"))
        ]  # fmt: skip
        Instrument.objects.create(name="loop meter 2", kind="loop", error_pct=3, error_abs=0.03,
                                  calibrated_until=date(2020, 1, 1))  # fmt: skip
        photo = a_photo(job)
        photo.slot = "rod:e11"
        photo.save()
        return ("readings?show=why", "readings?show=cover", "readings?show=instruments",
                f"readings?open=reading-{kept[0].pk}", f"photos/{photo.pk}")  # fmt: skip

    def of_the_plan(self, job):
        """The parts of the Plan, with something in each."""
        call_command("demo_work")
        work, visit = a_work(job), a_visit(job)
        Remark.objects.create(visit=visit, text="Photo of each rod", rests_on="local", place="p6")
        JobDate.objects.create(job=job, kind="outage", day=visit.day)
        shown = [f"plan?show={s}" for s in ("service", "parts", "dates", "visits")]
        handed = ("report?reader=inspector&skip=annex", "report?reader=owner", "owner")
        return [*shown, f"work/{work.pk}", f"visits/{visit.pk}", *handed]

    def look(self, viewport):
        page = self.open(viewport)
        self.sign_in(page)
        for address in self.addresses:
            job = "/".join(address.split("/")[:3]) + "/"
            if self.only.get(job, viewport) is not viewport:
                continue
            page.goto(self.live_server_url + address)
            page.evaluate("document.fonts.ready")
            if address in self.measured:
                tall = page.evaluate("document.documentElement.scrollHeight")
                with self.subTest(address, width=viewport["width"], tall=tall):
                    self.assertLessEqual(tall, TALLEST[viewport is LAPTOP])
            page.evaluate(ALL_OPEN)
            is_main = f"/jobs/{self.main_job}/" in address
            # The second theme at a sample: it changes colours alone.
            for theme in ("light", "attic") if is_main and "?" not in address else ("light",):
                # What the theme's cookie does, without loading the page twice.
                page.evaluate(f"document.documentElement.dataset.theme = '{theme}'")
                # The parts of a stage are looked at by axe once, on the wide screen.
                by_axe = is_main and (viewport is LAPTOP or "?" not in address)
                by_axe = by_axe or (address in self.own and viewport is LAPTOP)
                with self.subTest(address, theme=theme, width=viewport["width"]):
                    self.view(page, viewport, by_axe)

    def view(self, page, viewport, is_main):
        self.assertEqual(page.evaluate(TEXTS), {"met": [], "out": []})
        self.assertEqual(page.evaluate(SMALL_TEXT), [])
        width = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, viewport["width"])
        if viewport is PHONE:
            self.assertEqual(page.evaluate(SMALL_TARGETS), [])
        if is_main:
            self.assertEqual(self.serious(page), [])

    def test_laptop(self):
        self.look(LAPTOP)

    def test_phone(self):
        self.look(PHONE)
