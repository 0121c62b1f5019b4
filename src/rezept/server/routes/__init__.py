"""One blueprint a subject. Each route parses, calls an action and serialises."""
