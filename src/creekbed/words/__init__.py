"""Codes and values of the core in sentences, the same for window, shell and paper."""
