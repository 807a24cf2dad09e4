"""Refuses only what cannot exist; what is merely wrong is saved and found.

Says it in the trade's words, with the path of the fact.
"""

from pydantic import ValidationError

from ..conductor import Wire, method, raceway_row
from ..errors import BadInput
from .fields import check_value, fields_of
from .model import Circuit, Installation


def check_site(site: Installation) -> None:
    """BadInput for the first fact that cannot exist."""
    for name in ("supplies", "panels", "electrodes"):
        if len(getattr(site, name)) != 1:
            raise BadInput("A job has one supply, one service panel and one electrode system.")
    seen: set[str] = set()
    for element in site.elements().values():
        for info in fields_of(type(element)):
            path = f"{element.id}.{info.path}"
            try:
                check_value(info, site.value_at(path))
            except BadInput as error:
                raise error.at(path) from None
    listed = (*site.supplies, *site.panels, *site.electrodes, *site.circuits)
    for element in listed:
        if element.id in seen or int(element.id[1:] or 0) > site.last_id:
            raise BadInput(f"The id {element.id} is used twice or was never given.", element.id)
        seen.add(element.id)
    panels = {p.id for p in site.panels}
    for circuit in site.circuits:
        if circuit.panel not in panels:
            raise BadInput(
                f"There is no panel “{circuit.panel}” in this job.", f"{circuit.id}.panel"
            )
        _check_wires(circuit)
        _check_device(f"{circuit.id}.breaker", circuit.breaker)
    _check_device(f"{site.panel.id}.main", site.panel.main)
    service = site.service
    for size, name in ((service.line_size, "line_size"), (service.neutral_size, "neutral_size")):
        _check_made(size, service.line_material, "triplex", f"{service.id}.{name}")
    electrode = site.electrode
    _check_made(electrode.gec_size, electrode.gec_material, "SE", f"{electrode.id}.gec_size")


def _check_made(size, material, method_name, path) -> None:
    if size is None or material is None:
        return
    try:
        Wire(size, material, method_name)
    except BadInput as error:
        raise error.at(path) from None


def _check_wires(circuit: Circuit) -> None:
    if circuit.method is not None:
        method(circuit.method)
    for which in ("line", "egc"):
        size = getattr(circuit, f"{which}_size")
        material = getattr(circuit, f"{which}_material")
        _check_made(size, material, "NM", f"{circuit.id}.{which}_size")
    steel = method(circuit.method).steel_return if circuit.method else "EMT"
    if circuit.egc in ("raceway", "both") and not steel:
        label = method(circuit.method).label
        raise BadInput(
            f"{label[:1].upper() + label[1:]} has no steel raceway to carry the fault home;"
            " choose EMT, IMC or rigid metal conduit as the wiring method first.",
            f"{circuit.id}.egc",
        )
    if circuit.raceway_size is not None and steel:
        try:
            raceway_row(steel, circuit.raceway_size)
        except BadInput as error:
            raise error.at(f"{circuit.id}.raceway_size") from None


def _check_device(path: str, device) -> None:
    if device.lo is not None and device.hi is not None and device.lo > device.hi:
        raise BadInput("The magnetic trip cannot end before it begins.", f"{path}.hi")


def sentence_of(error: ValidationError) -> str:
    """The first complaint of pydantic, with its path and in plain words."""
    first = error.errors()[0]
    path = ".".join(str(p) for p in first["loc"])
    if first["type"] == "extra_forbidden":
        return f"“{path}” is not a key of the job file."
    if first["type"] == "missing":
        return f"“{path}” is missing."
    return f"{path}: {first['msg'][:1].lower() + first['msg'][1:]}."
