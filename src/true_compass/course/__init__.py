"""The lessons that ship with the program (data)."""
