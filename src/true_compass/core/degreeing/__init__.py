"""Degreeing a cam: what is read, where the cam stands, how it is moved, and whether it touches."""
