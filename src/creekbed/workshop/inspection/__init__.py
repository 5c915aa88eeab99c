"""Checks, verdicts, trends from hire to hire, and the note to a specialist."""
