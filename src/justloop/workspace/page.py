"""What the workspace's templates read: one typed page model, put together by ``present``."""

from dataclasses import dataclass, field
from typing import Any

from returnpath.rules import Question
from returnpath.site import Installation
from returnpath.study import FaultStudy

from ..address import Address
from .array_view import ArrayPage
from .earth_view import EarthPage
from .fields import Field
from .findings_view import FindingsAtPlace, FixList
from .ladder_view import LadderPage
from .log_view import LogPageModel
from .panel_view import PanelPage
from .plan_view import PlanPage
from .prove import ProveTable
from .shell import NextLine, RailStage, Tally
from .side_by_side import LoopPair, WhatMoved
from .sign_view import SignPage
from .tabs import BenchTab


@dataclass
class WorkspacePage:
    """One job on one screen: the shell, the bench, the chosen loop, the visible stage.

    What a stage does not show keeps its empty value. Figures are in the words of the screen.
    """

    # The shell.
    job: Any
    revision: Any
    site: Installation
    address: Address
    at: str
    loop_id: str
    loop: FaultStudy | None
    rail: list[RailStage]
    stage_label: str
    stage_count: int
    next: NextLine
    practice_words: str
    practice_href: str
    is_map: bool
    stage_template: str
    # Typed lines and what was refused of them.
    line_error: str
    line_text: str
    line_example: str
    line_examples: tuple[tuple[str, tuple[str, ...]], ...]
    list_error: str
    list_text: str
    edit_error: str
    reading: Any = None
    kinds: Any = ()
    can_add: bool = False
    # The bench.
    element_name: str = ""
    element_kind: str = ""
    is_circuit: bool = False
    is_practice: bool = False
    can_remove: bool = False
    fields: list[Field] = field(default_factory=list)
    more_fields: list[Field] = field(default_factory=list)
    field_paths: set[str] = field(default_factory=set)
    more_href: str = ""
    places: list = field(default_factory=list)
    findings: FindingsAtPlace | None = None
    whatifs: tuple = ()
    touch_href: str = ""
    map_href: str = ""
    others: list = field(default_factory=list)
    sizes: list = field(default_factory=list)
    tabs: list[BenchTab] = field(default_factory=list)
    tab: str = ""
    # The chosen loop.
    verdict: str = ""
    verdict_short: str = ""
    sheet_words: str = ""
    is_own_loop: bool = True
    verdict_mark: str = ""
    verdict_note: str = ""
    loop_rating: str = ""
    is_metal_loop: bool = False
    is_danger: bool = False
    is_known: bool = False
    rows: list = field(default_factory=list)
    lacks: list = field(default_factory=list)
    bond_field: Field | None = None
    criteria: list = field(default_factory=list)
    rests_on: list = field(default_factory=list)
    question: Question | None = None
    chart: str = ""
    legs: list = field(default_factory=list)
    parallel: list = field(default_factory=list)
    has_way_home: bool = False
    strip: str = ""
    loop_ohm: str = ""
    # The visible stage.
    map: str = ""
    looks: list = field(default_factory=list)
    panel_id: str = ""
    panels: list = field(default_factory=list)
    circuits: list = field(default_factory=list)
    map_words: str = ""
    look_rows: list = field(default_factory=list)
    map_close: str = ""
    outline: list = field(default_factory=list)
    to_find_out: list = field(default_factory=list)
    tally: Tally | None = None
    summary: str = ""
    small_map: str = ""
    buildings_href: str = ""
    service_rows: list = field(default_factory=list)
    ladder: LadderPage | None = None
    panel_name: str = ""
    at_panel: PanelPage | None = None
    earth: EarthPage | None = None
    array: ArrayPage | None = None
    log: LogPageModel | None = None
    plan: PlanPage | None = None
    sign: SignPage | None = None
    kept_readings: list = field(default_factory=list)
    parts: list = field(default_factory=list)
    table: ProveTable | None = None
    questions: list = field(default_factory=list)
    curve_panels: list = field(default_factory=list)
    fixes: FixList | None = None
    # A trial, and two loops beside each other.
    trial: WhatMoved | None = None
    pair: LoopPair | None = None
    pair_close: str = ""
    # What the request adds.
    told: str = ""
    trying: Any = None
    once: str = ""
    can_undo: bool = False
    can_redo: bool = False
    reads_only: bool = False
    where: str = ""
    edit_url: str = ""
    # Paper.
    colours: Any = None
    static: str = ""
    firm: Any = None
