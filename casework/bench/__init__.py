"""The bench: rail, stage, panel, balance."""
