"""How fast Rezept is: every figure beside a reference that is measured in the same run on the same machine."""
