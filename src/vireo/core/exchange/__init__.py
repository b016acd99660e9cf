"""Open files that hold models: project archives and triangle meshes."""
