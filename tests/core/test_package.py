"""The face for engineers: the wheel with its data, the notebook's five lines, the envelope."""

import contextlib
import doctest
import io
import json
import os
import re
import subprocess
import sys
import unittest
from pathlib import Path

import returnpath
from returnpath import BadInput, judge, read
from returnpath.command import main, parser

ROOT = Path(__file__).resolve().parents[2]


class Face(unittest.TestCase):
    def test_the_examples_of_readme_and_docstrings_run(self):
        before = Path.cwd()
        os.chdir(ROOT)
        self.addCleanup(os.chdir, before)
        for name in ("README.md", "docs/command-line.md"):
            found = doctest.testfile(str(ROOT / name), module_relative=False, encoding="utf-8",
                                     optionflags=doctest.NORMALIZE_WHITESPACE)  # fmt: skip
            self.assertEqual(found.failed, 0, name)
        self.assertGreater(doctest.testmod(returnpath).attempted, 3)
        self.assertEqual(doctest.testmod(returnpath).failed, 0)
        readme = (ROOT / "README.md").read_text("utf-8")
        self.assertGreater(readme.count(">>> "), 3, "the README shows the five lines")

    def test_a_job_is_read_from_a_path_a_text_or_plain_data(self):
        path = ROOT / "examples" / "millrace.json"
        text = path.read_text("utf-8")
        sites = [read(path), read(str(path)), read(text), read(json.loads(text))]
        demo = {"name": "x", "place": "y", "job": json.loads(text)}
        self.assertEqual(len({s.model_dump_json() for s in [*sites, read(demo)]}), 1)
        for wrong in ("no/such/file.json", "{", {"format": 99, "site": {}}, "\0"):
            with self.subTest(wrong), self.assertRaises(BadInput):
                read(wrong)

    def test_what_a_notebook_shows(self):
        done = returnpath.study(read(ROOT / "examples" / "millrace.json"))
        self.assertIn("may not trip", repr(done))
        self.assertRegex(repr(done.worst), r"^FaultStudy\(.*line-to-case on u1: may not trip")
        html = done._repr_html_()
        self.assertEqual(html.count("<tr>"), 1 + len(done.loops))
        self.assertIn("<td>", done.worst._repr_html_())
        self.assertTrue(judge(done.assumed.site))


def answer(*arguments: str) -> dict:
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        main([*arguments, "--json"])
    return json.loads(out.getvalue())


class CommandLine(unittest.TestCase):
    def test_every_json_is_one_envelope(self):
        job = str(ROOT / "examples" / "millrace.json")
        calls = [
            ("check", job), ("ask", job), ("touch", job, "--touch", "p3.case"),
            ("compare", job, job), ("time", "--device", "20", "--amps", "160", "--nominal", "10"),
            ("electrode", "rod", "--count", "2"), ("electrode", "plate"),
            ("read", "20A 12/2 NM 85ft kitchen"),
            *[("size", *s) for s in SIZES],
        ]  # fmt: skip
        for call in calls:
            with self.subTest(call[:2]):
                found = answer(*call)
                for key in ("value", "result", "unit", "working", "assumptions"):
                    self.assertIn(key, found)
                self.assertTrue(found["value"] is not None or found["result"] is not None)
                for step in found["working"]:
                    self.assertEqual(set(step), {"kind", "text", "source"})
        self.assertEqual({s[0] for s in SIZES}, set(_kinds()), "every kind of size is tried")

    def test_sizes(self):
        for call, size in SIZES.items():
            with self.subTest(call):
                self.assertEqual(answer("size", *call)["value"], size)

    def test_version_and_completion(self):
        out = io.StringIO()
        with contextlib.redirect_stdout(out), self.assertRaises(SystemExit):
            main(["--version"])
        self.assertRegex(out.getvalue(), r"^loop \d+\.\d+\.\d+, engine \d+")
        done = subprocess.run(
            [sys.executable, "-m", "returnpath"],
            env=os.environ | {"_ARGCOMPLETE": "1", "COMP_LINE": "loop ch", "COMP_POINT": "7",
                              "_ARGCOMPLETE_STDOUT_FILENAME": "/dev/stdout",
                              "PYTHONPATH": str(ROOT / "src")},
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        self.assertIn("check", done.stdout)

    def test_the_documents_name_every_call(self):
        text = (ROOT / "docs" / "command-line.md").read_text("utf-8")
        for name in parser()._subparsers._group_actions[0].choices:
            self.assertRegex(text, rf"`{re.escape(name)}\b|{re.escape(name)} [A-Z]")


def _kinds() -> list[str]:
    size = parser()._subparsers._group_actions[0].choices["size"]
    return list(size._subparsers._group_actions[0].choices)


#: Options of ``loop size`` → the answer, by the book's tables.
SIZES = {
    ("protective", "--line", "25"): "16mm2",
    ("protective", "--amps", "2000", "--seconds", "0.4"): "16mm2",
    ("earthing", "--line", "25", "--buried", "bare"): "25mm2",
    ("bonding", "--line", "25", "--system", "TN-C-S"): "10mm2",
    ("supplementary", "--amps", "160"): 0.3125,
    ("line", "--device", "32", "--method", "A1"): "6mm2",
    ("zs", "--kind", "RCD", "--rating", "30"): 0.95 * 230 / (5 * 30 / 1000),
    ("electrode", "--rcd", "300"): 50 / (300 / 1000),
    ("egc", "--device", "60"): "10",
    ("egc", "--device", "20", "--line", "8"): "8",
    ("gec", "--service", "4/0", "--material", "al"): "4",
    ("gec", "--service", "500", "--electrode", "ring"): "2",
    ("gec", "--service", "2x500", "--ring", "1/0"): "1/0",
    ("building-gec", "--feeder", "2"): "8",
    ("building-gec", "--feeder", "1/0", "--electrode", "rod"): "6",
    ("jumper", "--service", "4/0", "--material", "al"): "4",
    ("supply-jumper", "--service", "2/0"): "4",
    ("supply-jumper", "--service", "3x600"): "250",
    ("neutral", "--service", "4/0", "--material", "al"): "2",
    ("water", "--service", "4/0", "--material", "al"): "4",
    ("gas", "--device", "20"): "12",
    ("gas", "--csst",): "6",
    ("pool",): "8",
    ("tap", "--device", "200", "--line", "10"): "10",
    ("motor", "--full-load", "28", "--line", "8"): "10",
    ("array", "--isc", "10", "--device", "20"): "12",
    ("array", "--isc", "10", "--exposed"): "6",
}  # fmt: skip
