"""The question asked on a ladder: one typed line, one answer with its working.

egc 100A                    jumper 4/0 al              20A 12/2 85ft
gec 2x4/0 al rod            water bond 200A            20A 160 amps
2 rods 6ft 100 ohm-m        drop 16A 12 110ft          wire for 50A NM
legs 12 and 4 ohm neutral lost
zs B32                      bonding 25mm2 TN-C-S       B32 2.5/1.5 ring 48m
"""

from .answer import EXAMPLES, answer
from .metric import METRIC_EXAMPLES
from .shape import Quick, Supposed

__all__ = ["EXAMPLES", "METRIC_EXAMPLES", "Quick", "Supposed", "answer"]
