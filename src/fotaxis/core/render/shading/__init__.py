"""Room."""
