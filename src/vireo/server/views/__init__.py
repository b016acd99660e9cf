"""What the server answers with and is asked with, by room. The web types are generated from these."""
