"""Triangles by themselves: rays against them, and whether closed skins meet. Knows no kernel."""
