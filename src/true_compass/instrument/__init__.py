"""The live line: a small text protocol for indicators and encoders, and one that is simulated."""
