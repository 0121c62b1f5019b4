"""A made-up bench, for demonstrations and tests."""
