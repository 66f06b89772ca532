"""What is kept: rows in MariaDB, media as files."""
