"""Rules and arithmetic, without web, database, clock or file paths."""
