"""Use cases: one transaction each, journalled, undoable. Core and store meet here; nothing here knows the window."""
