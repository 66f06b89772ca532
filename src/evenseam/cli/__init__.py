"""The command line: what it is told, what it hears and makes without a server, and what it says."""
