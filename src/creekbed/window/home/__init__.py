"""The bench page: the step in hand, running waits, departures."""
