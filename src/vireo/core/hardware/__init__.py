"""Screws, washers, nuts, pins and rings from standard tables: sizes, lengths, forms. Knows no kernel."""
