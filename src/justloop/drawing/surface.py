"""Two curves of the soil: volts at the surface beside an electrode, and a three-point test."""

from returnpath.earth import FallTest
from returnpath.earth.soil import PROBE_SHARES
from returnpath.study.ground import PROFILE_FT, GroundStudy
from returnpath.vocabulary.units import FOOT_M
from returnpath.working import figures

from .scene import Scene

WIDTH, HEIGHT, LEFT, RIGHT, TOP, FLOOR = 486, 180, 20, 466, 26, 140


def surface_scene(ground: GroundStudy) -> Scene:
    """Volts along the surface, one step of a person marked where it is worst."""
    label = (
        f"Volts at the surface: {ground.volts:.0f} V at the electrode,"
        f" {ground.step_v:.0f} V over one step"
    )
    scene = Scene(WIDTH, HEIGHT, label)

    def x(feet: float) -> float:
        return LEFT + (feet + PROFILE_FT) / (2 * PROFILE_FT) * (RIGHT - LEFT)

    def y(volts: float) -> float:
        return FLOOR - volts / max(ground.volts, 1.0) * (FLOOR - TOP)

    points = [(x(feet), y(volts)) for feet, volts in ground.profile]
    outline = "M" + " L".join(f"{px:.1f} {py:.1f}" for px, py in points)
    scene.path("surface-fill", f"{outline} L{RIGHT} {FLOOR} L{LEFT} {FLOOR} Z")
    scene.path("surface", outline)
    scene.line("floor", (LEFT, FLOOR), (RIGHT, FLOOR))
    scene.text("t-amps", WIDTH / 2, TOP - 10, f"{ground.volts:.0f} V", "middle")
    start = _worst_step(ground)
    a, b = x(start), x(start + 1 / FOOT_M)
    scene.line("surface-step", (a, FLOOR + 9), (b, FLOOR + 9))
    scene.text("t-danger-small", b + 8, FLOOR + 14, f"one step here: {ground.step_v:.0f} V")
    scene.text("t-small", LEFT, HEIGHT - 8, f"{PROFILE_FT:g} ft")
    scene.text("t-small", RIGHT, HEIGHT - 8, f"{PROFILE_FT:g} ft", "end")
    return scene


def _worst_step(ground: GroundStudy) -> float:
    """Where the worst step to the right of the electrode begins, ft."""
    right = [(feet, volts) for feet, volts in ground.profile if feet >= 0]
    step = 1 / FOOT_M

    def over(n: int) -> float:
        ends = [v for feet, v in right if feet >= right[n][0] + step]
        return right[n][1] - ends[0] if ends else 0.0

    best = max(range(len(right)), key=over)
    return right[best][0]


def fall_scene(test: FallTest) -> Scene:
    """The readings of a three-point test, the curve through them, the three shares that count."""
    says = f"{test.ohm:.3g} Ω" if test.ohm is not None else "current probe too near"
    scene = Scene(WIDTH, 230, f"Three-point test: {says}")
    floor = 190
    most = max([p.ohm for p in test.points] + [o for _, o in test.curve]) * 1.1

    def x(share: float) -> float:
        return LEFT + share * (RIGHT - LEFT)

    def y(ohm: float) -> float:
        return floor - max(min(ohm / most, 1.0), 0.0) * (floor - TOP)

    for share in PROBE_SHARES:
        scene.line("grid", (x(share), TOP), (x(share), floor))
        scene.text("t-axis", x(share), floor + 18, f"{share:.0%}".replace("%", ""), "middle")
    scene.line("floor", (LEFT, floor), (RIGHT, floor))
    if len(test.curve) > 1:
        drawn = " L".join(f"{x(s):.1f} {y(o):.1f}" for s, o in test.curve)
        scene.path("surface", f"M{drawn}")
    for point in test.points:
        scene.circle("dot", x(point.share), y(point.ohm), 6)
    scene.text("t-small", LEFT, 222, "electrode")
    scene.text("t-small", RIGHT, 222, f"current probe, {test.far_ft:g} ft", "end")
    scene.text("t-amps", x(0.62), y(test.read_at_618) - 12, f"{figures(test.read_at_618)} Ω",
               "middle")  # fmt: skip
    return scene
