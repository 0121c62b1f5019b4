"""The live link to a machine: bytes over a serial line or TCP, answers and reports back."""
