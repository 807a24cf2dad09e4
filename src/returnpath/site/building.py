"""Buildings: what they legally are, where they stand, what is bonded in them."""

from typing import Literal

from .base import YES_NO, Element, YesNo, east, fact, north, yes_no


class Building(Element):
    """A building, and what it legally is."""

    name: str | None = fact("building", "text")
    permit: (
        Literal["dwelling", "dwelling accessory", "commercial", "farm", "caravan", "boat"] | None
    ) = fact(
        "permit class",
        "choice",
        choices={
            "dwelling": "dwelling",
            "dwelling accessory": "dwelling accessory",
            "commercial": "commercial",
            "farm": "farm",
            "caravan": "caravan or its pitch",
            "boat": "boat or its berth",
        },
    )
    wired_year: int | None = fact("wired in", "number", low=1880, high=2100, whole=True)
    floor_area_sqft: float | None = fact(
        "floor area", "number", unit="sq ft", low=50, high=100_000,
        help="Outside dimensions, without garage, open porch and space that stays unused.",
    )  # fmt: skip
    east_ft: float | None = east()
    north_ft: float | None = north()
    width_ft: float | None = fact("wide, east to west", "length", low=3, high=1000)
    deep_ft: float | None = fact("deep, south to north", "length", low=3, high=1000)
    structure_bonded: YesNo | None = yes_no("metal structure bonded")
    disconnect: YesNo | None = yes_no("disconnect at the building")
    supplementary: YesNo | None = fact(
        "supplementary bonding in its bathroom",
        "choice",
        choices=YES_NO,
        help="Between all metal that can be touched at once there.",
        rules="metric",
    )
    equipotential: YesNo | None = yes_no(
        "equipotential plane", "Where livestock stands on concrete: mesh bonded to the EGC."
    )
