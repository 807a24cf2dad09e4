"""Conversions between the units of the two schools."""

FOOT_M = 0.3048
INCH_M = 0.0254
FEET_PER_METRE = 1 / FOOT_M
#: Ohms per kilometre are this many ohms per 1,000 ft.
KM_PER_KFT = FOOT_M
CMIL_PER_MM2 = 1973.53
