"""Records of a shop in one SQLite file."""
