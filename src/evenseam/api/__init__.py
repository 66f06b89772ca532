"""HTTP: routers, schemas, problems, events."""
