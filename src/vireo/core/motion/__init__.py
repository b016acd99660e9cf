"""Mechanisms driven through their range: clash, where, and clearance on the way."""
