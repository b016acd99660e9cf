"""The geometry kernel's room: the only place that calls it.

Every other room works with `Body` and the plain data these modules return.
"""
