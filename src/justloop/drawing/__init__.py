"""Drawings: the map, the ohm strip, the time–current chart, the marks. One for screen and paper.

A drawing is a Scene of shapes with class names; ``palette`` gives the classes their colours, as
a stylesheet for the screen and as literals for paper and saved files.
"""
