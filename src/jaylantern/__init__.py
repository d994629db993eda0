"""Jay Lantern finds the speech in a film and lowers the music under it."""

import os

# Two BLAS threads made one kernel twenty times slower; this must stand before numpy is first imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
