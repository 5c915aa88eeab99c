"""What only SQLite knows: opening, transactions, triggers, migrations, copies, integrity."""
