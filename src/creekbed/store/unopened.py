"""What is asked of a shop that is not opened for it: quickly, without an engine."""

from creekbed.store.sqlite.reading import first_action, setting_of

__all__ = ["first_action", "setting_of"]
