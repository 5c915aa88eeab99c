"""History, activity, backups, and what is shown when the records cannot be opened."""
