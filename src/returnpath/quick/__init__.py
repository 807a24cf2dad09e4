"""The question asked on a ladder: one typed line, one answer with its working.

egc 100A                    jumper 4/0 al              20A 12/2 85ft
gec 2x4/0 al rod            water bond 200A            20A 160 amps
2 rods 6ft 100 ohm-m        drop 16A 12 110ft          wire for 50A NM
legs 12 and 4 ohm neutral lost
"""

from .answer import EXAMPLES, Quick, Supposed, answer

__all__ = ["EXAMPLES", "Quick", "Supposed", "answer"]
