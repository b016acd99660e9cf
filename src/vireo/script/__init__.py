"""What scripts work with: the project and its documents, by the same commands as the screen.

Plain Python without any of Vireo's own rooms: it runs in a process that can reach nothing else.
"""

from vireo.script.api import (
    Assembly,
    Body,
    Document,
    Edge,
    Face,
    Part,
    Project,
    Refused,
    Region,
    Study,
    Vertex,
)
from vireo.script.sketch import Sketch, Solved, use

__all__ = [
    "Assembly",
    "Body",
    "Document",
    "Edge",
    "Face",
    "Part",
    "Project",
    "Refused",
    "Region",
    "Sketch",
    "Solved",
    "Study",
    "Vertex",
    "use",
]
