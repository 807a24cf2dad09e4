"""Houses that the core's tests study, made as an electrician would describe them."""

from returnpath.site import (
    Add,
    Device,
    Installation,
    Panel,
    Service,
    Set,
    Supply,
    apply,
    read_circuit,
)


def house(line: str, lo: float | None = 5, hi: float | None = 10, **facts) -> Installation:
    """The worked examples' house (method 10) with one circuit ``c2`` typed as ``line``.

    ``facts`` are set on the circuit, or on another element as ``p1__bond="out"``.
    """
    site = Installation(
        supplies=(Supply(id="u1", kva=25, percent_z=1.7, x_over_r=1.6),),
        services=(
            Service(
                id="s1",
                run="overhead",
                length_ft=60,
                line_size="4/0",
                line_material="aluminium",
                neutral_size="4/0",
                sets=1,
            ),
        ),
        panels=(Panel(id="p1", main=Device(rating_a=200), bond="in"),),
    )
    reading = read_circuit(line)
    assert not reading.problems, reading.problems
    site = apply(site, Add(facts=reading.facts))
    values = {"breaker.lo": lo, "breaker.hi": hi, **facts}
    for name, value in values.items():
        place, _, field = name.rpartition("__")
        site = apply(site, Set(path=f"{place or 'c2'}.{field}", value=value))
    return site
