"""One function for each thing a member does. No HTTP, no printing; each opens its own transaction."""
