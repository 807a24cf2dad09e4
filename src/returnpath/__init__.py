"""The computation behind Just Loop: ground-fault return paths of dwellings.

Knows no screen, no database and no web framework. Layers, lowest first:
tables < working < conductor, device, supply < sizing < site < assume < network < study < rules.
Lengths are in feet, impedances in ohms (complex phasors, r.m.s.), areas in circular mils.
"""

#: Part of the key under which solved results are cached: raise it when a figure may change.
ENGINE_VERSION = "1"
