"""The records: SQLAlchemy models, migrations, journal, backup. SQLite by default."""
