"""The question asked on a ladder: one typed line, one answer with its working.

egc 100A                    jumper 4/0 al              20A 12/2 85ft
gec 2x4/0 al rod            water bond 200A            20A 160 amps
2 rods 6ft 100 ohm-m        drop 16A 12 110ft          wire for 50A NM
legs 12 and 4 ohm neutral lost
ampacity 12 130F 8 wires    bundle 5 cables 12         fill 3/4 emt 9 #12
box 4 #12, 1 device         motor 3 hp 240V            tap 3 cu 200A 20ft 100A main
torque #4 hex               neutral counts 208 wye     since gfci garage
zs B32                      bonding 25mm2 TN-C-S       B32 2.5/1.5 ring 48m
"""

from .answer import EXAMPLES, answer
from .carry import CARRY_EXAMPLES
from .metric import METRIC_EXAMPLES
from .shape import Quick, Supposed

__all__ = ["CARRY_EXAMPLES", "EXAMPLES", "METRIC_EXAMPLES", "Quick", "Supposed", "answer"]
