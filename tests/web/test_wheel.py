"""The wheel: it holds its data and its templates, and runs outside the checkout."""

import os
import shutil
import subprocess
import sys
import sysconfig
import tempfile
import unittest
import zipfile
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
OUTSIDE = """
import sys, json
from importlib import resources
import returnpath, returnpath.site
from returnpath import read, study, judge
place = study(read(resources.files("returnpath") / "examples" / "pebblewick.json"))
assert "site-packages" not in returnpath.__file__, returnpath.__file__
print(len(place.loops), len(judge(place.assumed.site)) > 3)
import os
os.environ["JUSTLOOP_SECRET_KEY"] = "x" * 60
os.environ["XDG_DATA_HOME"] = sys.argv[1]
os.environ["DJANGO_SETTINGS_MODULE"] = "justloop.settings"
import django
from django.conf import settings
django.setup()
from django.template.loader import get_template
get_template("jobs/list.html")
assert str(settings.DATA).startswith(sys.argv[1]), settings.DATA
from django.contrib.staticfiles import finders
assert finders.find("vendor/htmx.min.js")
print("web")
"""


class Wheel(unittest.TestCase):
    def test_it_holds_its_data_and_runs_outside_the_checkout(self):
        with tempfile.TemporaryDirectory() as folder:
            there = Path(folder)
            copy = there / "source"
            _copy_sources(copy)
            done = subprocess.run(
                [sys.executable, "-m", "pip", "wheel", "--quiet", "--no-deps",
                 "--no-build-isolation", "--no-index", "-w", folder, str(copy)],
                capture_output=True, text=True, check=False,
            )  # fmt: skip
            self.assertEqual(done.returncode, 0, done.stderr[-2000:])
            (wheel,) = there.glob("justloop-*.whl")
            with zipfile.ZipFile(wheel) as file:
                names = set(file.namelist())
                file.extractall(there / "lib")
            entry = next(n for n in names if n.endswith("entry_points.txt"))
            said = (there / "lib" / entry).read_text("utf-8")
            self.assertIn("loop = returnpath.command:main", said)
            self.assertIn("justloop = justloop.__main__:main", said)
            for needed in ("returnpath/py.typed", "returnpath/tables/conductors.csv",
                           "returnpath/rules/needs.json", "justloop/templates/jobs/list.html",
                           "justloop/static/vendor/next-400.woff2"):  # fmt: skip
                self.assertIn(needed, names)
            paths = [str(there / "lib"), sysconfig.get_path("purelib")]
            ran = subprocess.run(
                [sys.executable, "-c", OUTSIDE, folder],
                cwd=folder,
                env={"PATH": os.environ["PATH"], "PYTHONPATH": os.pathsep.join(paths)},
                capture_output=True, text=True, check=False,
            )  # fmt: skip
            self.assertEqual(ran.stdout.split()[-1:], ["web"], ran.stderr[-2000:])


def _copy_sources(to: Path) -> None:
    to.mkdir()
    for name in ("pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, to / name)
    shutil.copytree(ROOT / "requirements", to / "requirements")
    ignore = shutil.ignore_patterns("__pycache__", "*.egg-info", "build")
    shutil.copytree(ROOT / "src", to / "src", ignore=ignore)
