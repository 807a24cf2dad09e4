"""Every stage of the metric demo jobs without a word, unit or section of the other rule set, and
the other way round."""

import json
import re
from importlib.resources import files

from django.test import TestCase

from justloop.address import STAGES
from returnpath.plan import offers
from returnpath.rules import Evidence, findings
from returnpath.site import loads
from returnpath.study import study

from .people import job_of, person, printed

#: What only the United States' rule set says.
AMERICAN = re.compile(
    r"\b(?:AWG|kcmil|NEC|EGCs?|GECs?|GFCIs?|AFCIs?|MWBC|MCA|MOCP|CSST|Ufer|EMT|NM|THWN|receptacles?"
    r"|sub-?panels?|feeders?|utility|grounding|grounded|ground rods?|ground bars?|ground wires?"
    r"|aluminum|color|neighbors?|center|ft|feet|foot|inch(?:es)?|sq in|branch circuits?"
    r"|service panel|load center|hot wires?|hots)\b|(?<![\d.])(?:120/240|120/208|240|208) ?V\b"
    r"|\b(?:110|2[0-9]0|[34]\d0|6[89]0|70\d)\.\d{1,3}(?:\([A-Z0-9]|(?= \(20))"
    r"|\(20(?:0[58]|1[147]|2[036])\)"
    r"|\b[Rr]ules of 20\d\d|\bUS rules?\b|(?:hot, |conductors at )75 °C"
    r"|\btable 250|\bchapter 9\b|\bUL 489\b"
)
#: What only the metric rule set says.
METRIC = re.compile(
    r"\b(?:IEC 60364[-\d]*|socket-outlets?|protective conductors?|TN-C-S|TN-S|PEN|RCBO|AFDD|mm²"
    r"|distribution board|earthing conductor|aluminium|metres|distributor)\b"
)
#: Names of the job's own, of people, of files.
OWN = re.compile(r"(?i)utility room|center tap")

#: The parts that a stage shows one at a time.
SHOWN = {
    "panels": ("zs", "load", "protection"), "earth": ("counts", "test", "soil"),
    "array": ("fault", "bars", "volts", "labels"),
    "plan": ("parts", "dates", "visits"), "readings": ("why", "cover", "instruments"),
}  # fmt: skip


def words_of(page: str) -> str:
    """The visible text of a page, what is read aloud with it, and what its boxes suggest."""
    page = re.sub(r"(?s)<(script|style)\b.*?</\1>", " ", page)
    aloud = re.findall(r'(?:aria-label|title|placeholder)="([^"]*)"', page)
    text = re.sub(r"<[^>]+>", " ", page)
    return OWN.sub(" ", re.sub(r"\s+", " ", " ".join([text, *aloud])))


class WordsOfARuleSet(TestCase):
    def setUp(self):
        self.owner = person("wren")
        self.client.force_login(self.owner)

    def job(self, name):
        text = (files("returnpath") / "examples" / f"{name}.json").read_text("utf-8")
        self.site = loads(text)
        return job_of(self.owner, self.site, name)

    def pages(self, job):
        """(address, its words) of every page and paper of a job."""
        for stage in STAGES:
            yield from self.page(f"/jobs/{job.pk}/{stage}")
            for show in SHOWN.get(stage, ()):
                yield from self.page(f"/jobs/{job.pk}/{stage}?show={show}")
        for at in self.site.elements():
            for tab in ("findings", "facts", "loop", "sizes", "try"):
                yield from self.page(f"/jobs/{job.pk}/service?at={at}&more=1&tab={tab}")
        for tail in ("test-sheet", "report", "owner", "find", "history"):
            yield from self.page(f"/jobs/{job.pk}/{tail}")
        yield from self.procedures(job)
        metric = ("schedule.pdf", "allowed-zs.pdf") if self.site.supply.system else ()
        for paper in ("sheet.pdf", "record.pdf", "report.pdf", *metric):
            _, html = printed(self.client, f"/jobs/{job.pk}/{paper}")
            yield paper, words_of(html)

    def procedures(self, job):
        """Every procedure that is offered, begun."""
        solved = study(self.site)
        for offer in offers(Evidence(self.site, solved), findings(self.site, solved)):
            data = {"form": offer.key, "subject": offer.subject}
            answer = self.client.post(f"/jobs/{job.pk}/work/begin", data, follow=True)
            self.assertEqual(answer.status_code, 200, offer.key)
            yield offer.key, words_of(answer.content.decode())

    def page(self, address):
        answer = self.client.get(address, follow=True)
        self.assertEqual(answer.status_code, 200, address)
        yield address, words_of(answer.content.decode())

    def check(self, name, pattern):
        found = {}
        for address, text in self.pages(self.job(name)):
            for match in pattern.finditer(text):
                around = text[max(0, match.start() - 45) : match.end() + 30]
                found.setdefault(match[0], f"{address}: …{around}…")
        self.assertEqual(found, {}, json.dumps(found, indent=1, ensure_ascii=False))

    def test_no_american_words_in_a_terrace(self):
        self.check("foxglove", AMERICAN)

    def test_no_american_words_on_a_farm(self):
        self.check("thistle", AMERICAN)

    def test_no_metric_words_in_a_cottage(self):
        self.check("pebblewick", METRIC)
