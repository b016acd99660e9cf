"""Linear static strength of one body: mesh, solution, stresses, reactions.

`solver` runs in a process of its own that never loads the geometry kernel: mesher and kernel
bring two versions of the same library, and a run can be killed without losing anything.
"""
