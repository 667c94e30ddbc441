"""The trade, computed.

May import: numpy, scipy, numba, pydantic (for records) and the standard library. Never: the web, SQL, files, the
clock, the network. Lengths are mm and angles degrees at every public face; radians stay inside a function.
"""
