"""Static fit: interference and clearance between placed solids."""
