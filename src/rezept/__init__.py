"""Rezept: test arrays for laser machines, planned, burned, read, decided and kept."""

import os

__version__ = "0.1.0"

# Its matrices are small: threads of the linear algebra would wait for each other for longer than they work. Said before
# NumPy is loaded; what somebody has set stays.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
