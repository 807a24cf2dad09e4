"""Two people add panels, rods and generators at the same moment: all there, none mixed up."""

import random
import threading

from .inside import arguments, finish, prepare
from .server import Browser, Server

MOST_GENERATORS = 12
MARKS = ("Alder", "Birch")
LINES = (
    "panel {0} from Main 60A 6/3 40ft",
    "20A 12/2 NM 50ft {0}",
    "2 rods 8ft 6ft apart #6",
    "generator 8kW 30A floating neutral",
)


def main() -> None:
    """``count`` rounds of two batches at once."""
    count, seed = arguments()
    chance = random.Random(seed)
    _, job = prepare()
    site = job.latest.site
    main_panel = site.panel.name or site.panel.id
    before = len(site.panels), len(site.electrodes), len(site.circuits)
    server = Server()
    server.start()
    people = [Browser(server), Browser(server)]
    for one in people:
        one.sign_in()
    wrong: list[str] = []
    made: dict[str, int] = {"panel": 0, "circuit": 0, "rods": 0, "generator": 0}
    for number in range(count):
        # A job holds 20 sources: some rounds of generators are enough.
        kind = chance.randrange(len(LINES) if made["generator"] < MOST_GENERATORS else 3)
        gate = threading.Barrier(2)
        answers: list[tuple[int, str]] = []

        def add(browser, mark, kind=kind, gate=gate, answers=answers, number=number):
            name = f"{mark}{chr(97 + number // 26)}{chr(97 + number % 26)}"  # no figure in it
            line = LINES[kind].format(name).replace("Main", main_panel)
            gate.wait()
            answers.append(
                browser.post(
                    f"/jobs/{job.pk}/edit",
                    {"op": "add", "path": "", "text": line, "base": "1", "stage": "survey",
                     "once": f"{mark}-{number}"},
                )
            )  # fmt: skip

        threads = [
            threading.Thread(target=add, args=(b, m)) for b, m in zip(people, MARKS, strict=True)
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        made[list(made)[kind]] += sum(status in (302, 303) for status, _ in answers)
        wrong += [f"round {number}: answered {s}" for s, _ in answers if s not in (302, 303)]
    server.stop()
    wrong += _mixed_up(job, before, made)
    finish(wrong, f"{count} rounds, made {made}")


def _mixed_up(job, before: tuple[int, int, int], made: dict[str, int]) -> list[str]:
    site = job.latest.site
    names = {p.id: p.name for p in site.panels}
    found = [
        f"{f.id} “{f.name}” reaches “{names.get(f.to)}”"
        for f in site.feeders
        if f.name and f.name.startswith(MARKS) and names.get(f.to) != f.name[: -len(" feeder")]
    ]
    have = len(site.panels), len(site.electrodes), len(site.circuits)
    asked = (made["panel"], 2 * made["rods"], made["circuit"])
    blank = sum(e.kind is None for e in site.electrodes)
    for what, was, now, more in zip(
        ("panels", "electrodes", "circuits"), before, have, asked, strict=True
    ):
        if now != was + more and not (what == "electrodes" and now + 1 + blank >= was + more):
            found.append(f"{what}: {was} and {more} made, but {now} there")
    return found


if __name__ == "__main__":
    main()
