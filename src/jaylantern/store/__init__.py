"""SQLite: connection, migrations, commands with their inverse, one module per noun. All SQL is here."""
