"""The computation behind Just Loop: ground-fault return paths of dwellings.

    from returnpath.site import loads
    from returnpath.study import study

    done = study(loads(open("examples/pebblewick.json").read()))
    done.loops["c17"].verdict, done.loads["u1"].strays[0]

Knows no screen, no database and no web framework. Layers, lowest first: tables < working <
conductor, device, supply < sizing, earth < site < assume < network < study < rules < command.
Lengths are in feet, impedances in ohms (complex phasors, r.m.s.), areas in circular mils.
"""

#: Part of the key under which solved results are cached: raise it when a figure may change.
ENGINE_VERSION = "3"
