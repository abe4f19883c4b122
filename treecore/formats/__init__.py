"""Open formats the core reads and writes."""
