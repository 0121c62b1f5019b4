"""From readings to decisions: margins, starting points."""
