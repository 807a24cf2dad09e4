"""Anything into every form, line, table, file and query: an answer, never a crash.

Forms are found by reading the pages: a new one is fuzzed without being listed here.
"""

import json
import random
from dataclasses import dataclass, field
from html.parser import HTMLParser
from pathlib import Path

from .inside import arguments, finish, prepare

ROOT = Path(__file__).resolve().parents[2]
STAGES = ("survey", "service", "buildings", "prove", "fix", "history", "test-sheet", "practice",
          "crew", "log")  # fmt: skip
ODD = (
    "", " ", "0", "-1", "1e309", "nan", "∞", "²", "½", "9" * 400, "9" * 5000, "\x00", "\ud800",
    "\u202e", "=1+1", "@SUM(A1)", "<script>alert(1)</script>", "{{ 7*7 }}", "%s%n", "../../etc",
    "' OR 1=1 --", "é" * 200, "🔌", "\r\nSet-Cookie: x=1", "true", "[]", "{}", "null", "c1.c1.c1",
    "p1.name", "c2.length_ft", "4/0", "12/2", "85 ft", "26 m", "1/0 al", "unknown", "clear",
)  # fmt: skip
FACTS = ("length_ft", "name", "breaker.rating_a", "line_size", "egc", "kind", "bond", "", "a.b")
QUERIES = ("at", "loop", "look", "open", "line", "q", "page", "shelf", "a", "b", "panel")
NEVER = ("/sign-out", "/you/elsewhere", "/theme")  # these end or only colour the session


@dataclass
class Form:
    """A form of a page: where it goes, and its boxes with what stood in them."""

    action: str
    method: str
    values: dict[str, str] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)


class Forms(HTMLParser):
    """Collects the forms and the links of a page."""

    def __init__(self, here: str):
        super().__init__()
        self.here, self.forms, self.links = here, [], []
        self.form: Form | None = None

    def handle_starttag(self, tag, attrs):
        """One tag."""
        facts = {k: v or "" for k, v in attrs}
        if tag == "form":
            action = facts.get("action") or self.here
            self.form = Form(action, facts.get("method", "get").lower())
            self.forms.append(self.form)
        elif tag == "a" and facts.get("href", "").startswith("/"):
            self.links.append(facts["href"])
        elif self.form is not None and facts.get("name"):
            if facts.get("type") == "file":
                self.form.files.append(facts["name"])
            else:
                self.form.values[facts["name"]] = facts.get("value", "")

    def handle_endtag(self, tag):
        """The form is over."""
        if tag == "form":
            self.form = None


class Fuzz:
    """The client, the chance, and what was found."""

    def __init__(self, owner, job, seed: str):
        from django.test import Client

        self.owner, self.job = owner, job
        self.chance = random.Random(seed)
        self.client = Client(raise_request_exception=False)
        self.client.force_login(owner)
        self.wrong: list[str] = []
        lines = ROOT / "tests" / "core" / "fixtures" / "typed_lines.json"
        self.lines = [row["line"] for row in json.loads(lines.read_text("utf-8"))]
        self.forms: list[Form] = []

    def text(self, was: str = "") -> str:
        """Something that somebody could send in a box."""
        return self._text(was).encode("utf-8", "replace").decode()

    def _text(self, was: str) -> str:
        match self.chance.randrange(6):
            case 0:
                return self.chance.choice(ODD)
            case 1:
                return self.broken(self.chance.choice(self.lines))
            case 2:
                ends = ((32, 127), (1, 0x2FFF))
                return "".join(
                    chr(self.chance.randrange(*self.chance.choice(ends)))
                    for _ in range(self.chance.randrange(40))
                )
            case 3:
                return self.broken(was)
            case 4:
                return self.chance.choice(self.lines)
        return was

    def broken(self, text: str) -> str:
        """A text with a few characters changed, doubled or gone."""
        found = list(text)
        for _ in range(self.chance.randrange(1, 4)):
            at = self.chance.randrange(len(found) + 1)
            match self.chance.randrange(3):
                case 0:
                    found[at:at] = self.chance.choice(ODD)[:6]
                case 1:
                    del found[at : at + 2]
                case 2:
                    found[at:at] = found[at : at + 8]
        return "".join(found)

    def look(self) -> None:
        """Gather the forms of the pages as they are now."""
        found = [f"/jobs/{self.job.pk}/{stage}" for stage in STAGES]
        found += ["/", "/jobs/new", "/firm", "/firm/people", "/breaker-lines", "/you"]
        for address in list(found):
            answer = self.client.get(address)
            self.check(answer, "get", address)
            page = Forms(address)
            page.feed(answer.content.decode("utf-8", "replace"))
            self.forms += [f for f in page.forms if not f.action.startswith(NEVER)]
            found += [a for a in page.links if f"/jobs/{self.job.pk}/" in a][:6]

    def check(self, answer, how: str, what) -> None:
        """Note what is our fault: 503 is a full printer or disk, said as such."""
        if answer.status_code >= 500 and answer.status_code != 503:
            self.wrong.append(f"{answer.status_code} {how} {what!r}"[:900])

    def one_form(self) -> None:
        """A form of a page, with some of its boxes changed."""
        form = self.chance.choice(self.forms)
        data = {
            k: self.text(v) if self.chance.random() < 0.5 else v for k, v in form.values.items()
        }
        for name in form.files:
            data[name] = self.file()
        send = self.client.post if form.method == "post" else self.client.get
        headers = {"HX-Request": "true"} if self.chance.random() < 0.5 else {}
        shown = {k: v if isinstance(v, str) else "a file" for k, v in data.items()}
        self.check(send(form.action, data, headers=headers), form.method, (form.action, shown))

    def one_edit(self) -> None:
        """The endpoint of edits, with any operation, fact and text."""
        site = self.job.latest.site
        element = self.chance.choice([*site.elements(), "x1", ""])
        fact = self.chance.choice((*FACTS, self.text()[:20]))
        data = {
            "op": self.chance.choice(("set", "add", "paste", "table", "answer", "whatif", "remove",
                                      "copy", "fix", "aside", self.text()[:12])),
            "path": f"{element}.{fact}" if fact else element, "text": self.text(),
            "base": self.chance.choice((str(self.job.latest.number), "1", self.text()[:10])),
            "stage": self.chance.choice((*STAGES, self.text()[:10])),
            "try": self.chance.choice(("", "1")),
        }  # fmt: skip
        address = f"/jobs/{self.job.pk}/edit"
        self.check(self.client.post(address, data), "post", (address, data))

    def one_query(self) -> None:
        """A page with any query."""
        stage = self.chance.choice((*STAGES, "compare", "sheet", "drawing/chart.svg"))
        query = {k: self.text()[:60] for k in self.chance.sample(QUERIES, 3)}
        self.check(self.client.get(f"/jobs/{self.job.pk}/{stage}", query), "get", (stage, query))
        job = self.chance.choice((str(self.job.pk), self.text()[:8]))
        line = {"line": self.text(), "job": job}
        self.check(self.client.get("/jobs/read", line), "get", ("/jobs/read", line))

    def one_file(self) -> None:
        """A job file or a list with something broken in it."""
        address, name = self.chance.choice((("/jobs/open", "file"), ("/breaker-lines", "file")))
        upload = self.file()
        self.check(self.client.post(address, {name: upload}), "post", (address, upload.sent))

    def file(self):
        """An upload: a job or a table with something broken in it, or noise."""
        from django.core.files.uploadedfile import SimpleUploadedFile

        from returnpath.site import dumps

        way = self.chance.randrange(4)
        if way == 0:
            body = self.chance.randbytes(self.chance.randrange(3000))
        elif way == 1:
            text = self.client.get("/breaker-lines.csv").content.decode()
            body = self.broken(self.broken(text)).encode("utf-8", "replace")
        elif way == 2:
            body = self.broken(dumps(self.job.latest.site)).encode("utf-8", "replace")
        else:
            document = json.loads(dumps(self.job.latest.site))
            _spoil(document, self.chance, self.text)
            body = json.dumps(document).encode("utf-8", "replace")
        name = "f" + "".join(c for c in self.text()[:30] if c.isprintable() and c not in "/\\")
        upload = SimpleUploadedFile(name, body)
        upload.sent = body[:200]
        return upload

    def mend(self) -> None:
        """Put the job back within reach, whatever was pressed."""
        self.job.refresh_from_db()
        if self.job.shelf or self.job.owner_id != self.owner.pk:
            self.job.shelf, self.job.owner = "", self.owner
            self.job.save()
        self.owner.refresh_from_db()
        if not self.owner.is_staff or not self.owner.is_active:
            self.wrong.append("the administrator was locked out")


def _spoil(value, chance, text) -> None:
    """Change one leaf of a document, somewhere."""
    while isinstance(value, dict | list) and value:
        key = (
            chance.choice(list(value)) if isinstance(value, dict) else chance.randrange(len(value))
        )
        if not isinstance(value[key], dict | list) or chance.random() < 0.2:
            value[key] = chance.choice((None, -1, 1e308, True, [], {}, text(), [text()], "c1"))
            return
        value = value[key]


def main() -> None:
    """``count`` inputs."""
    count, seed = arguments()
    owner, job = prepare()
    fuzz = Fuzz(owner, job, seed)
    ways = (fuzz.one_form, fuzz.one_form, fuzz.one_edit, fuzz.one_query, fuzz.one_file)
    for number in range(count):
        if number % 200 == 0:
            fuzz.mend()
            fuzz.forms.clear()
            fuzz.look()
        fuzz.chance.choice(ways)()
        if len(fuzz.wrong) >= 20:
            break
    fuzz.mend()
    fuzz.look()
    finish(fuzz.wrong, f"{count} inputs, {len({f.action for f in fuzz.forms})} kinds of form")


if __name__ == "__main__":
    main()
