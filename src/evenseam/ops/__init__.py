"""Running the application on one machine: its private database, its start and its end."""
