"""Building a part: step kinds, the build context, results kept by content."""
