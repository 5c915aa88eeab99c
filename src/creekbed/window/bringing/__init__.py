"""Bringing a list: columns, questions, what becomes of each row."""
