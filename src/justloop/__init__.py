"""The web application: jobs, workspace and drawings around ``returnpath``."""

import os

# Networks of dozens of nodes: a second thread in the linear algebra costs more than it gives, and
# on a machine with other work it waits for its turn (a solve of 0.2 ms then took up to 40).
# Read when NumPy loads; whoever sets it keeps it.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
