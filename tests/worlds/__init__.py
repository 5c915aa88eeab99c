"""Worlds that the estimators did not assume: other laws, other noise, other mistakes of people.

Nothing here is shared with what it tries: no formula, constant or helper of the application is imported. Each world
draws a case with its truth; ``benchmarks/trust.py`` counts how often an interval holds it.
"""
