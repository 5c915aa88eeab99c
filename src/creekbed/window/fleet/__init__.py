"""The fleet: every instrument found, hired out, rested, labelled."""
