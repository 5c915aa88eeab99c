"""The window: Qt Widgets that draw the workshop's read models and forward intentions."""

import builtins


def _load_qt() -> None:
    """Load Qt, and keep Python's own import.

    PySide puts another in its place, which reads the source of every module that is loaded from then on, for a switch
    between ways to write names that nothing here uses. That made a start a tenth longer, and each page's first opening.
    """
    own = builtins.__import__
    import PySide6.QtWidgets  # noqa: F401

    builtins.__import__ = own


_load_qt()
