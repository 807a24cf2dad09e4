"""The command line: what it prints, its JSON against its schema, its exit codes."""

import contextlib
import importlib.util
import io
import json
import re
import subprocess
import tempfile
import unittest
from pathlib import Path

from jsonschema import Draft202012Validator

from returnpath import site as s
from returnpath.command import main
from returnpath.command.schema import check_schema, job_schema
from returnpath.errors import BadInput

ROOT = Path(__file__).resolve().parents[2]
EXAMPLES = sorted(f for f in (ROOT / "examples").glob("*.json") if "." not in f.stem)


def load_script(name: str):
    """A module of script/."""
    spec = importlib.util.spec_from_file_location(name, ROOT / "script" / f"{name}.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


made_site = load_script("made_site").made_site


def run(*arguments: str) -> tuple[int, str, str]:
    """(exit code, stdout, stderr) of one call."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        code = main(list(arguments))
    return code, out.getvalue(), err.getvalue()


def answer(*arguments: str) -> dict:
    """The JSON of one call."""
    code, out, err = run(*arguments, "--json")
    assert code == 0, err
    return json.loads(out)


class Answers(unittest.TestCase):
    CASES = [
        (("size", "egc", "--device", "60", "--line", "4", "--line-needed", "6"), "8", "AWG"),
        (("size", "egc", "--device", "20", "--line", "8"), "8", "AWG"),
        (("size", "egc", "--device", "200", "--material", "al"), "4", "AWG"),
        (("size", "egc", "--device", "200", "--material", "aluminium"), "4", "AWG"),
        (("size", "egc", "--device", "200", "--material", "Aluminum"), "4", "AWG"),
        (("size", "gec", "--service", "4/0", "--material", "al"), "4", "AWG"),
        (("size", "gec", "--service", "2x4/0", "--material", "al"), "2", "AWG"),
        (
            ("size", "gec", "--service", "4/0", "--material", "al", "--electrode", "rod"),
            "6",
            "AWG",
        ),
        (("size", "jumper", "--service", "400", "--material", "cu"), "1/0", "AWG"),
    ]

    def test_sizes(self):
        for call, value, unit in self.CASES:
            with self.subTest(call):
                found = answer(*call)
                self.assertEqual((found["value"], found["unit"]), (value, unit))
                self.assertTrue(found["working"])
                code, text, _ = run(*call)
                self.assertEqual(code, 0)
                self.assertIn(f": {value} {unit}", text)

    def test_time(self):
        self.assertAlmostEqual(answer("time", "--device", "20", "--amps", "40")["value"], 120)
        found = answer("time", "--device", "20", "--amps", "160", "--lo", "5", "--hi", "8")
        self.assertEqual((found["value"], found["verdict"]), (0.025, "trips instantaneously"))
        self.assertIsNone(answer("time", "--device", "20", "--amps", "20")["value"])

    def test_rod(self):
        self.assertAlmostEqual(answer("electrode", "rod")["value"], 39.9, places=1)
        two = ("electrode", "rod", "--count", "2", "--spacing-ft")
        self.assertAlmostEqual(answer(*two, "6")["value"], 23.3, places=1)
        self.assertAlmostEqual(answer(*two, "16")["value"], 21.5, places=1)

    def test_read(self):
        found = answer("read", "20A 12/2 NM 85ft kitchen")
        self.assertEqual(found["facts"]["line_size"], "12")
        self.assertEqual(run("read", "20A 7/2 NM")[0], 2)

    def test_bad_input_is_a_sentence_on_stderr_and_2(self):
        for call in [
            (),
            ("frob",),
            ("size", "egc", "--device", "twenty"),
            ("size", "egc", "--device", "-5"),
            ("size", "gec", "--service", "7"),
            ("size", "gec", "--service", "4/0", "--material", "tin"),
            ("size", "gec", "--service", "99x4/0"),
            ("size", "jumper", "--service", "4/0", "--edition", "1999"),
            ("time", "--device", "20", "--amps", "nan"),
            ("time", "--device", "20", "--amps", "5", "--kind", "fuse"),
            ("electrode", "rod", "--soil", "0"),
            ("electrode", "rod", "--count", "0"),
            ("read", ""),
            ("check", "/nowhere.json"),
            ("check", str(ROOT / "README.md")),
        ]:
            with self.subTest(call):
                code, _, err = run(*call)
                self.assertEqual(code, 2)
                self.assertRegex(err, r"^.{10,}\.")
                self.assertNotIn("Traceback", err)

    def test_the_script_itself(self):
        done = subprocess.run(
            [ROOT / "script" / "loop", "size", "egc", "--device", "100"],
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("8 AWG", done.stdout)


class Check(unittest.TestCase):
    def check(self, path) -> tuple[int, dict]:
        code, out, err = run("check", str(path), "--json")
        self.assertIn(code, (0, 1), err)
        return code, json.loads(out)

    def saved(self, site) -> Path:
        file = Path(tempfile.mkdtemp()) / "job.json"
        file.write_text(s.dumps(site), "utf-8")
        return file

    def test_the_demo_sites(self):
        validator = Draft202012Validator(check_schema())
        jobs = Draft202012Validator(job_schema())
        codes = {}
        for file in EXAMPLES:
            with self.subTest(file.stem):
                jobs.validate(json.loads(file.read_text("utf-8")))
                codes[file.stem], found = self.check(file)
                validator.validate(found)
                for fault in found["faults"]:
                    unknown = fault["verdict"] == "not known yet"
                    self.assertEqual(unknown, fault["device"] is None)
                    self.assertTrue(fault["remark"] or not unknown)
        self.assertEqual(
            codes, {"foxglove": 0, "larkfield": 0, "millrace": 1, "pebblewick": 1, "thistle": 1}
        )

    def test_what_each_demo_site_is_there_to_show(self):
        _, pebblewick = self.check(ROOT / "examples" / "pebblewick.json")
        stray = {x["branch"] for x in pebblewick["load"]["u1"]["stray"]}
        self.assertTrue(any(b.startswith("f8.egc") for b in stray), "the studio's bond screw")
        _, millrace = self.check(ROOT / "examples" / "millrace.json")
        front = next(f for f in millrace["faults"] if f["place_name"] == "Front room")
        self.assertEqual(front["lowest_a"], 0)
        self.assertIsNone(front["slow_s"])
        self.assertGreater(front["touch_v"]["remote_earth"], 115)
        lost = millrace["open_neutral"]["u1"]["currents"]
        self.assertGreater(lost["m5.main"], 1)
        _, larkfield = self.check(ROOT / "examples" / "larkfield.json")
        worst = [f for f in larkfield["faults"] if f["worst"] and f["kind"] == "line-to-case"]
        self.assertEqual({f["state"] for f in larkfield["faults"]}, {"u1", "u2"})
        self.assertEqual(len(worst), len({f["place"] for f in worst}))
        cooler = next(f for f in worst if f["place_name"] == "Milk cooler")
        self.assertIn("m9", cooler["touch_v"]["within_reach"])

    def test_the_same_as_text(self):
        code, text, _ = run("check", str(ROOT / "examples" / "millrace.json"))
        self.assertEqual(code, 1)
        self.assertIn("may not trip", text)
        self.assertIn("Service neutral lost", text)
        self.assertNotRegex(text, re.compile(r"\b(safe|compliant)\b", re.I))

    def test_generated_sites(self):
        validator = Draft202012Validator(check_schema())
        for number in range(0, 100, 5):
            panels = 1 + number % 7
            site = made_site(1 + number % 3, panels, 1 + number % 13)
            _, found = self.check(self.saved(site))
            if number % 15 == 0:
                validator.validate(found)
            answered = [f for f in found["faults"] if not f["lacks"]]
            self.assertTrue(answered)
            for fault in answered:
                self.assertLessEqual(fault["lowest_a"], fault["highest_a"] + 1e-6)

    def test_an_incomplete_job_is_answered_as_far_as_it_goes(self):
        site = s.apply(s.Installation(), s.Add(facts={"name": "pump"}))
        code, found = self.check(self.saved(site))
        self.assertEqual(code, 0)
        pump = next(f for f in found["faults"] if f["place_name"] == "pump")
        self.assertEqual(pump["verdict"], "not known yet")
        self.assertIn("c2.breaker.rating_a", pump["lacks"])

    def test_touch_and_compare(self):
        file = str(ROOT / "examples" / "pebblewick.json")
        code, out, _ = run("touch", file, "--touch", "p6.L1", "--wet", "--json")
        self.assertEqual(code, 0)
        self.assertAlmostEqual(json.loads(out)["u1"]["amps"], 0.24, places=2)
        self.assertEqual(run("touch", file, "--touch", "nothing.here")[0], 2)
        site = s.loads((ROOT / "examples" / "pebblewick.json").read_text("utf-8"))
        mended = self.saved(s.apply(site, s.Set(path="p6.bond", value="out")))
        code, out, _ = run("compare", file, str(mended), "--json")
        moved = {c["place"]: c for c in json.loads(out)["result"]}
        self.assertGreater(moved["f8.egc"]["before"], 1)
        self.assertLess(moved["f8.egc"]["after"], 0.01)
        self.assertIn("Nothing moved", run("compare", file, file)[1])

    def test_a_wrong_size_names_its_run(self):
        data = json.loads((ROOT / "examples" / "pebblewick.json").read_text("utf-8"))
        data["site"]["feeders"][0]["line_size"] = "7"
        file = Path(tempfile.mkdtemp()) / "job.json"
        file.write_text(json.dumps(data), "utf-8")
        code, _, err = run("check", str(file))
        self.assertEqual(code, 2)
        self.assertIn("Studio feeder: Line wire: 7 AWG is not a size; 6 and 8 are.", err)

    def test_reading_it_again_gives_the_same(self):
        for file in EXAMPLES:
            text = file.read_text("utf-8")
            again = s.dumps(s.loads(text))
            self.assertEqual(json.loads(again), json.loads(text))
            self.assertEqual(s.loads(again), s.loads(text))


class Directory(unittest.TestCase):
    def test_csv_there_and_back(self):
        site = s.loads((ROOT / "examples" / "pebblewick.json").read_text("utf-8"))
        facts = s.read_csv(s.write_csv(site))
        new = s.apply(site, s.Replace(items=tuple(facts)))
        for old, made in zip(site.circuits, new.circuits, strict=True):
            skip = {"id", "shares_with", "reach", "joined_to"}
            self.assertEqual(old.model_dump(exclude=skip), made.model_dump(exclude=skip))
        pair = [c for c in new.circuits if c.shares_with]
        self.assertEqual([new.circuit(c.shares_with).name for c in pair], ["Dining left"])

    def test_sentences_name_row_and_column(self):
        for text, words in [
            ("", "empty"),
            ("colour\nred\n", "“colour” is not a column"),
            ("name,length_ft\nhall,far\n", "Row 2, length_ft"),
            ("name\na,b\n", "Row 2 has 2 cells"),
        ]:
            with self.subTest(text), self.assertRaises(BadInput) as caught:
                s.read_csv(text)
            self.assertIn(words, caught.exception.sentence)


class Mending(unittest.TestCase):
    def test_fix_applies_what_is_named_and_says_what_is_left(self):
        job = ROOT / "examples" / "pebblewick.json"
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "mended.json"
            code, text, _ = run("fix", str(job), "gec-exposed-small", "--out", str(out))
            self.assertEqual(code, 1)  # its dangers stand
            self.assertIn("1 mended", text)
            kept = {f["id"] for f in self.check(out)["findings"]}
            self.assertNotIn("gec-exposed-small", kept)
            self.assertIn("bond-downstream", kept)
            code, text, _ = run("fix", str(job), "--out", str(out))
            self.assertEqual(code, 0)
            levels = {f["level"] for f in self.check(out)["findings"]}
            self.assertLessEqual(levels, {"check", "note"})
            code, _, error = run("fix", str(job), "no-such", "--out", str(out))
            self.assertEqual(code, 2)
            self.assertIn("no finding", error)

    def check(self, path):
        return json.loads(run("check", str(path), "--json")[1])

    def test_check_tells_checks_in_one_row_and_what_it_did_not_look_at(self):
        _, text, _ = run("check", str(ROOT / "examples" / "pebblewick.json"))
        self.assertEqual(text.count("CHECK  loop-curve-unknown"), 1)
        self.assertRegex(text, r"loop-curve-unknown at \d places: ")
        self.assertIn("Not looked at: ", text)
        found = self.check(ROOT / "examples" / "pebblewick.json")
        self.assertIn("reading-missing", {n["id"] for n in found["not_looked_at"]})


class MadeFromTheCode(unittest.TestCase):
    def test_documents_are_fresh(self):
        for path, text in load_script("docs").files().items():
            with self.subTest(path.name):
                self.assertEqual(path.read_text("utf-8"), text, "run script/docs")

    def test_the_example_on_the_page_works(self):
        page = (ROOT / "docs" / "job-format.md").read_text("utf-8")
        example = re.findall(r"```json\n(\{.*?\})\n```", page, re.S)[1]
        file = Path(tempfile.mkdtemp()) / "job.json"
        file.write_text(example, "utf-8")
        code, out, err = run("check", str(file))
        self.assertEqual((code, err), (0, ""))
        self.assertIn("Outlets (c4)", out)
