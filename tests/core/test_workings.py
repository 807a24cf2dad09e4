"""Every working of random places is opened, and its last sum computed again from what it says."""

import ast
import math
import operator
import re
import unittest

from returnpath.study import study

from .any_place import any_place

PLACES = 60
UNITS = r"(?:A|V|Ω|s|ft|mA|×|%)(?![\w])"
OPERATIONS = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul,
    ast.Div: operator.truediv, ast.Pow: operator.pow,
}  # fmt: skip
FUNCTIONS = {"sqrt": math.sqrt, "log": math.log, "min": min}


def result_of(expression: str) -> float:
    """An arithmetic expression as the screen writes it, computed."""
    text = expression.replace("−", "-").replace("·", "*").replace("√", "sqrt").replace("ln", "log")
    text = re.sub(r"(?<=\d),(?=\d{3}\b)", "", text).replace("^", "**")
    text = re.sub(rf"(?<=[\d)])\s*{UNITS}", "", text)
    return _value(ast.parse(text.strip(), mode="eval").body)


def _value(node) -> float:
    if isinstance(node, ast.Constant):
        return float(node.value)
    if isinstance(node, ast.BinOp):
        return OPERATIONS[type(node.op)](_value(node.left), _value(node.right))
    if isinstance(node, ast.UnaryOp):
        return -_value(node.operand)
    if isinstance(node, ast.Call):
        return FUNCTIONS[node.func.id](*map(_value, node.args))
    raise AssertionError(ast.dump(node))


def sums_of(text: str) -> tuple[str, str]:
    """(the sum, its result) of a formula step."""
    parts = [p.strip() for p in text.split(" = ")]
    if len(parts) < 2:
        return "", text
    left = re.split(r":\s", parts[-2])[-1]
    right = re.match(r"[\d.,−-]+", parts[-1])
    return left, right[0] if right else parts[-1]


class EveryWorking(unittest.TestCase):
    def test_the_last_sum_gives_the_figure(self):
        opened: dict[str, int] = {}
        for seed in range(PLACES):
            for fault in study(any_place(seed)).faults:
                for name, working in fault.workings.items():
                    steps = working.steps()
                    with self.subTest(seed=seed, place=fault.place, kind=fault.kind, figure=name):
                        self.assertTrue(steps)
                        self.recompute(working, steps)
                        opened[name] = opened.get(name, 0) + 1
        self.assertGreater(min(opened.values()), 40, opened)
        self.assertEqual(
            set(opened),
            {
                "lowest_a",
                "highest_a",
                "loop_ohm",
                "longest_run_ft",
                "touch",
                "body",
                "opens",
                "heat",
            },
        )

    def recompute(self, working, steps) -> None:
        last = steps[-1]
        value = working.value
        if last.kind != "formula":
            endless = value is None or value == 0 or math.isinf(value)
            self.assertTrue(endless or "mA" in working.unit, f"{value}: {last.text}")
            return
        left, right = sums_of(last.text)
        shown = result_of(right) if right[:1].isdigit() else value
        self.close(shown, value, last.text)
        if left and re.search(r"[·/√]|min|ln", left) and "or more" not in left:
            self.close(result_of(left), value, last.text)

    def close(self, found: float, wanted: float, text: str) -> None:
        self.assertLessEqual(abs(found - wanted), max(2e-3 * abs(wanted), 2e-3), text)

    def test_a_conductors_working_shows_the_temperature_used(self):
        from returnpath.conductor import Wire, impedance, impedance_working

        for wire, hot in ((Wire("2.5mm2", method="NM"), 70), (Wire("12"), 75)):
            made = impedance_working(wire, 100, 75.0, 50.0)
            text = " ".join(step.text for step in made.steps())
            self.assertIn(f"({hot} − ", text)
            self.assertAlmostEqual(made.value, abs(impedance(wire, 100, 75.0, 50.0)))
            left, _ = sums_of(made.steps()[-1].text)
            self.close(result_of(left.removeprefix("|Z| = ")), made.value, text)
