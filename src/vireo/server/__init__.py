"""The web server: JSON in and out, meshes, events, the built web application."""
