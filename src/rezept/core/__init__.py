"""The heart of Rezept: pure functions from trials to plates and from readings to findings."""
