"""JSON Schemas of the job file and of what ``check --json`` prints."""

from ..site import FORMAT, Installation
from ..study import FaultKind, Side, Verdict
from ..vocabulary import Level

DRAFT = "https://json-schema.org/draft/2020-12/schema"
NUMBER = {"type": ["number", "null"]}


def job_schema() -> dict:
    """The job file of the newest format."""
    site = Installation.model_json_schema(ref_template="#/$defs/{model}")
    definitions = site.pop("$defs", {})
    return {
        "$schema": DRAFT,
        "title": "Just Loop job file",
        "type": "object",
        "additionalProperties": False,
        "required": ["format", "site"],
        "properties": {"format": {"const": FORMAT}, "site": site},
        "$defs": definitions,
    }


def _object(**properties) -> dict:
    return {
        "type": "object",
        "additionalProperties": False,
        "required": list(properties),
        "properties": properties,
    }


def _map_of(value: dict) -> dict:
    return {"type": "object", "additionalProperties": value}


def _list_of(value: dict) -> dict:
    return {"type": "array", "items": value}


def check_schema() -> dict:
    """What ``check --json`` prints. Times: null is “may never open”; figures are null where
    ``lacks`` says why."""
    text = {"type": "string"}
    fault = _object(
        place=text,
        place_name=text,
        kind={"enum": [k.value for k in FaultKind]},
        side={"enum": [s.value for s in Side], "description": "of an enclosure's own main"},
        state={"type": "string", "description": "the supply that drives it"},
        worst={"type": "boolean", "description": "no other supply does worse"},
        verdict={"enum": [v.value for v in Verdict]},
        lacks=_list_of(text),
        remark={
            "type": "string",
            "description": "why there is no verdict, where no fact is missing",
        },
        highest_a=NUMBER,
        lowest_a=NUMBER,
        loop_ohm={**NUMBER, "description": "|Z_th| of the 75 °C study; null: open"},
        device={
            "anyOf": [
                _object(at=text, rating_a={"type": "number"}, multiple=NUMBER),
                {"type": "null"},
            ]
        },
        fast_s=NUMBER,
        slow_s={**NUMBER, "description": "on the curve in force; null: may never open"},
        slow_s_unproved={**NUMBER, "description": "if the magnetic trip only began at 20 ×"},
        heat_used={**NUMBER, "description": "1 is the conductor's limit; null: no end"},
        heat_used_unproved=NUMBER,
        touch_v=_object(remote_earth=NUMBER, service_bar=NUMBER, within_reach=_map_of(NUMBER)),
        body={
            **_object(ma=NUMBER, c1_ma=NUMBER),
            "description": "through a person from the enclosure to earth, and curve c1 at slow_s",
        },
        second_line_s={**NUMBER, "description": "a GFCI or RCD, never merged in"},
        criterion_met={"type": ["boolean", "null"]},
        longest_run_ft=NUMBER,
        by_rcd={"type": "boolean", "description": "only an RCD disconnects in time"},
        ring={
            **_list_of(_object(at=NUMBER, ohm=NUMBER)),
            "description": "Zs along a ring, at 0 to 1 of its length; empty of what is none",
        },
        rests_on={**_list_of(text), "description": "assumed facts, most effect first"},
    )
    load = _object(
        currents={**_map_of(NUMBER), "description": "amperes by branch id"},
        volts={**_map_of(NUMBER), "description": "volts to remote earth by node id"},
        stray=_list_of(_object(branch=text, amps=NUMBER)),
        lost={"type": "string", "description": "the branch taken out"},
        legs={**_map_of(_map_of(NUMBER)), "description": "line to neutral volts by panel"},
    )
    lost = _object(supply=text, **load["properties"])
    study = _object(
        summary=text,
        next=_object(text=text, place=text),
        findings=_list_of({"$ref": "#/$defs/finding"}),
        not_looked_at=_list_of(_object(id=text, why=text)),
        questions=_list_of(_object(text=text, path=text, settles={"type": "integer"})),
        sizes=_list_of(
            _object(
                path=text,
                label=text,
                needed=text,
                installed={"type": ["string", "null"]},
                meets={"type": ["boolean", "null"]},
                margin=NUMBER,
            )
        ),
        requirements=_list_of(_object(text=text, who=text, when=text)),
        engine=text,
        edition={"type": "integer"},
        clearing=text,
        states=_list_of(text),
        assumptions=_list_of(_object(path=text, value={}, words=text, why=text)),
        not_known=text,
        available_a=_map_of(NUMBER),
        faults=_list_of(fault),
        metals={**_list_of(fault), "description": "pipes, frames and electrodes"},
        load=_map_of(load),
        open_neutral=_map_of(load),
        lost_neutrals={
            **_list_of(lost),
            "description": "each service's and feeder's neutral lost, one at a time",
        },
        shared_neutral_lost=_list_of(_object(branch=text, volts=_map_of(NUMBER))),
        voltage_drop=_list_of(_object(circuit=text, amps=NUMBER, volts=NUMBER, share=NUMBER)),
        arrays=_list_of(
            _object(
                array=text,
                fault_a=NUMBER,
                frame_v=NUMBER,
                egc_ohm=NUMBER,
                body_a=NUMBER,
                device_opens={"type": "boolean"},
                cleared_by=text,
            )
        ),
    )
    step = _object(kind=text, text=text, source=text)
    envelope = {
        "value": {"type": "null"},
        "result": {"$ref": "#/$defs/study"},
        "unit": {"const": "study"},
        "working": _list_of(step),
    }
    return {
        "$schema": DRAFT,
        "title": "loop check --json",
        "$defs": {"finding": _finding(), "study": study},
        **_object(**study["properties"], **envelope),
    }


def _finding() -> dict:
    text = {"type": "string"}
    return _object(
        id=text,
        level={"enum": [level.value for level in Level]},
        place=text,
        place_name=text,
        found=text,
        why=text,
        do=text,
        authority=_object(kind=text, where=text, check_locally={"type": "boolean"}),
        fix={**_list_of({"type": "object"}), "description": "edits that would mend it"},
        parts=_list_of(text),
        asks={"type": "string", "description": "the fact that would settle it"},
        working=_list_of(_object(kind=text, text=text, source=text)),
        folded=_list_of({"$ref": "#/$defs/finding"}),
    )
