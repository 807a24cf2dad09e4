"""A made site of any size for benchmarks and tests: buildings, panels, circuits."""

from returnpath.site import (
    Building,
    Circuit,
    Device,
    Electrode,
    Feeder,
    Installation,
    Metal,
    Panel,
    Service,
    Supply,
)
from returnpath.vocabulary import Size

SIZES = {15: "14", 20: "12", 30: "10", 40: "8", 50: "6"}


def made_site(buildings: int = 3, panels: int = 6, circuits: int = 60) -> Installation:
    """Panels spread over buildings, two to a building, circuits spread over panels."""
    all_panels, feeders, made, electrodes = [], [], [], []
    number = 1

    def new(letter: str) -> str:
        nonlocal number
        number += 1
        return f"{letter}{number}"

    houses = tuple(
        Building(id=new("b"), name=f"Building {n + 1}", permit="dwelling") for n in range(buildings)
    )
    for n in range(panels):
        main = Device(rating_a=200) if n == 0 else Device()
        all_panels.append(
            Panel(
                id=new("p"),
                name=f"Panel {n + 1}",
                building=houses[n % buildings].id,
                kind="service" if n == 0 else "sub",
                main=main,
                bond="in" if n in (0, 4) else "out",
            )
        )
        if n:
            feeders.append(
                Feeder(
                    id=new("f"),
                    name=f"Feeder {n}",
                    source=all_panels[n // 2 if n > 2 else 0].id,
                    to=all_panels[n].id,
                    breaker=Device(rating_a=100 if n % 2 else 60),
                    poles=2,
                    method="PVC",
                    length_ft=40.0 + 25 * n,
                    line_size="3" if n % 2 else "6",
                    neutral="yes",
                    neutral_size="3" if n % 2 else "6",
                    egc="wire",
                    egc_size="8" if n % 2 else "10",
                )
            )
        electrodes.append(Electrode(id=new("e"), panel=all_panels[n].id, kind="rod"))
    for n in range(circuits):
        rating = (20, 15, 20, 20, 30, 15, 20, 40, 20, 50)[n % 10]
        made.append(
            Circuit(
                id=new("c"),
                panel=all_panels[n % panels].id,
                name=f"Circuit {n + 1}",
                breaker=Device(rating_a=rating),
                poles=2 if rating >= 30 else 1,
                neutral="yes",
                method="EMT" if n % 9 == 0 else "NM",
                length_ft=None if n % 4 == 0 else 20.0 + 7 * n % 130,
                line_size=SIZES[rating],
                egc="both" if n % 9 == 0 else "wire",
                egc_size=SIZES[rating] if rating <= 30 else "10",
                space=1 + 2 * (n // panels) + n % 2,
                load_va=400.0 + 13 * n % 900,
                outlet_bond="yes" if n == 17 % max(circuits, 1) else None,
            )
        )
    pipe = Metal(
        id=new("m"), panel=all_panels[0].id, kind="water", material="metal", bonded="yes",
        shared_main="yes",
    )  # fmt: skip
    return Installation(
        supplies=(Supply(id="u1", kind="utility", kva=50),),
        services=(
            Service(
                id="s1", supply="u1", to=all_panels[0].id, run="overhead", length_ft=80,
                line_size="4/0", line_material="aluminium", neutral_size="2/0",
            ),
        ),
        buildings=houses,
        panels=tuple(all_panels),
        feeders=tuple(feeders),
        electrodes=tuple(electrodes),
        metals=(pipe,),
        circuits=tuple(made),
        last_id=number,
    )  # fmt: skip


METRIC = {20: "2.5mm2", 15: "1.5mm2", 30: "6mm2", 40: "10mm2", 50: "10mm2", 60: "16mm2"}
MCB = {20: 20.0, 15: 16.0, 30: 32.0, 40: 40.0, 50: 50.0, 60: 63.0, 100: 100.0}


def made_metric_site(buildings: int = 3, panels: int = 6, circuits: int = 60) -> Installation:
    """The same place of the metric rule set: miniature breakers and fuses, rings, armour, RCDs."""
    us = made_site(buildings, panels, circuits)
    feeders = [
        f.model_copy(update={
            "breaker": Device(rating_a=MCB[int(f.breaker.rating_a)], kind="gG"), "poles": 1,
            "method": "SWA", "egc": "raceway", "egc_size": None, "line_size": Size("25mm2"),
            "neutral_size": Size("25mm2"),
        })
        for f in us.feeders
    ]  # fmt: skip
    made = []
    for n, c in enumerate(us.circuits):
        rating = int(c.breaker.rating_a)
        ring = rating == 30
        made.append(c.model_copy(update={
            "breaker": Device(rating_a=MCB[rating], kind="B"), "poles": 1, "method": "twin",
            "egc": "wire", "line_size": Size("2.5mm2" if ring else METRIC[rating]),
            "egc_size": Size("1.5mm2"), "ring": "yes" if ring else "no", "outlet_bond": None,
            "rcd_ma": 30.0 if n % 2 else None, "gfci": None,
        }))  # fmt: skip
    return us.model_copy(update={
        "frequency_hz": 50,
        "supplies": (Supply(id="u1", system="230", earthing="TN-C-S", ze_ohm=0.35),),
        "services": (Service(id="s1", supply="u1", to=us.panels[0].id),),
        "panels": tuple(p.model_copy(update={"bond": None}) for p in us.panels),
        "metals": tuple(m.model_copy(update={"shared_main": None}) for m in us.metals),
        "feeders": tuple(feeders), "circuits": tuple(made),
    })  # fmt: skip
