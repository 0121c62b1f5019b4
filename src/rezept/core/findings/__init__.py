"""From readings to decisions: what was observed, and what it means for the next sheet."""
