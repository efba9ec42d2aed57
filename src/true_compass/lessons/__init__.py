"""Lessons: what is asked, how it is judged from the engine, and who can do it. Pure, no clock."""
