"""The job's rules and computation. Knows no web framework, no database, no threads."""
